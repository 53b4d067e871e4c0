"""H.265 with ten bits: what its files are, what they carry, and what they do not."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest
from pymediainfo import MediaInfo

from tests.making import job_of, write_sequence
from waxseal.core.deliver.codecs import codec_named
from waxseal.core.deliver.format.delivery_settings import target_of
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.movies.pixel_planes import read_planes
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import ConstantQuality, DeliveryState, Job, Outcome, Size, Space
from waxseal.core.picture.make import make
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.likeness import psnr, sketch
from waxseal.core.seal.measure.measure_movie import measure_movie as measure


@pytest.fixture
def job(tmp_path: Path) -> Job:
    write_sequence(
        tmp_path / "frames",
        "a.%04d.exr",
        frames=range(1, 7),
        width=160,
        height=90,
        dtype="float16",
    )
    job = job_of(tmp_path / "frames")
    return ordered(job, codec="H.265")


def ordered(job: Job, **fields: object) -> Job:
    return change_delivery(job, delivery="d1", **fields)


def delivered(job: Job) -> Outcome:
    return make_delivery(job, job.deliveries[0], silent, CancelToken())


# MediaInfo's names for the tags of ITU-T H.273.
@pytest.mark.parametrize(
    ("space", "names"),
    [
        (Space.SRGB, ("BT.709", "BT.709", "BT.709")),
        (Space.P3, ("Display P3", "sRGB/sYCC", "BT.709")),
        (Space.PQ, ("BT.2020", "PQ", "BT.2020 non-constant")),
        (Space.HLG, ("BT.2020", "HLG", "BT.2020 non-constant")),
    ],
)
def test_ten_bits_are_sealed_and_say_what_they_are(
    job: Job, space: Space, names: tuple[str, str, str]
) -> None:
    job = ordered(job, space=space)
    outcome = delivered(job)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    (video,) = MediaInfo.parse(path_of(job.deliveries[0])).video_tracks
    assert (video.format, video.bit_depth, video.codec_id) == ("HEVC", 10, "hvc1")
    assert video.format_profile.startswith("Main 10")
    tags = (video.color_primaries, video.transfer_characteristics, video.matrix_coefficients)
    assert tags == names
    assert (int(video.frame_count), video.frame_rate_mode) == (6, "CFR")


def test_the_codes_of_ten_bits_come_through_the_codec(job: Job) -> None:
    """Near lossless, the decoded planes are the picture's own, to a code or two."""
    job = ordered(job, space=Space.PQ, quality=ConstantQuality(figure=1))
    assert delivered(job).state is DeliveryState.SEALED
    delivery, reel = job.deliveries[0], programme(job)
    with av.open(str(path_of(delivery))) as container:
        frames = list(container.decode(video=0))
    for number, frame in enumerate(frames, 1):
        made = make(reel.recipe(number), target_of(reel.timeline.size, delivery)).planes
        for ours, theirs in zip(made, read_planes(frame), strict=True):
            assert theirs.dtype == np.uint16
            assert np.abs(ours.astype(int) - theirs).mean() < 1.0


def test_the_same_delivery_has_the_same_bytes(job: Job) -> None:
    first = delivered(job)
    job = ordered(job, name="again.mp4")
    assert delivered(job).sha256 == first.sha256 != ""


def test_what_eight_bits_do_not_carry_is_refused(job: Job) -> None:
    outcome = delivered(ordered(job, codec="H.264", space=Space.PQ))
    assert outcome.state is DeliveryState.REFUSED
    assert outcome.reasons == (
        "H.264 cannot carry BT.2020 PQ: choose one of sRGB, BT.709, Display P3.",
    )


def test_a_file_of_another_codec_is_refused(job: Job) -> None:
    """What is measured is held against what was ordered."""
    assert delivered(job).state is DeliveryState.SEALED
    measured = measure(path_of(job.deliveries[0]))
    facts = codec_named("H.265").facts
    assert (measured.codec, measured.profile) == (facts.codec, facts.profile)
    assert measured.pixel_format == facts.pixel_format


@pytest.mark.parametrize("codec", ["H.264", "H.265"])
def test_frames_that_no_level_holds_get_a_sentence(codec: str) -> None:
    for size, words in (
        (Size(width=1920, height=1080), ""),
        (Size(width=8, height=1080), "too small for"),
        (Size(width=17_000, height=16), "is larger than H.26"),
        (Size(width=10_000, height=9_000), "is larger than H.26"),
    ):
        sentence = codec_named(codec).size_trouble(size)
        assert (words in sentence) if words else sentence == ""


def test_sketches_and_psnr_are_in_codes_of_eight_bits() -> None:
    eight = [np.full((90, 160), 50, np.uint8), *[np.full((45, 80), 128, np.uint8)] * 2]
    ten = [plane.astype(np.uint16) * 4 for plane in eight]
    for one, other in zip(sketch(eight), sketch(ten), strict=True):
        np.testing.assert_array_equal(one, other)
    assert psnr(eight[0], eight[0] + 3) == pytest.approx(psnr(ten[0], ten[0] + 12))


def test_settings_that_change_a_file_change_its_key(job: Job) -> None:
    keys = {
        ordered(job, **fields).deliveries[0].key
        for fields in (
            {},
            {"codec": "H.264"},
            {"quality": ConstantQuality(figure=30)},
            {"space": Space.P3},
            {"dither": True},
            {"exact": True},
            {"lut": "/x.cube"},
        )
    }
    assert len(keys) == 7
    assert ordered(job, name="other.mp4").deliveries[0].key in keys
