"""Any file against the reel: what differs is found with its frame, its place and its size."""

from __future__ import annotations

import json
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from benchmarks.choices import try_one
from tests.making import gradient, job_of, write_sequence, write_tone
from waxseal.core.deliver.compare.compare_file import (
    Against,
    against_words,
    check_against,
    delivery_like,
)
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.specs.apply_spec import file_troubles
from waxseal.core.deliver.specs.spec_book import spec_book
from waxseal.core.errors import JobError
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import add_delivery, change_delivery
from waxseal.core.job.model import Bitrate, ConstantQuality, DeliveryState, Job, Size, change
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.file_facts import SoundFacts
from waxseal.core.seal.record import DIGEST, record_digest, seal_path

WIDE, TALL, COUNT = 320, 180, 24


@pytest.fixture
def job(tmp_path: Path) -> Job:
    folder = write_sequence(
        tmp_path / "a", "a.%04d.png", frames=range(1, COUNT + 1), width=WIDE, height=TALL
    )
    return job_of(folder)


def delivered(job: Job, **fields: object) -> Path:
    job = change_delivery(job, delivery="d1", **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return path_of(job.deliveries[0])


def compared(job: Job, file: Path, **fields: object) -> Against:
    job = change_delivery(job, delivery="d1", **fields)
    return check_against(file, job, job.deliveries[0])


@pytest.mark.parametrize(
    "fields",
    [
        {},
        {"codec": "ProRes HQ"},
        {"codec": "FFV1", "container": "MKV"},
        {"codec": "H.265", "space": "Display P3"},
        {"codec": "PNG"},
        {"size": Size(width=160, height=160)},
        {"rate": Fraction(12)},
        {"range": (5, 16)},
        {"size": Size(width=121, height=65)},  # the file has a column and a row more
        {"pixel_shape": Fraction(4, 3)},
    ],
)
def test_what_we_made_is_as_the_reel(job: Job, fields: dict[str, object]) -> None:
    found = compared(job, delivered(job, **fields), **fields)
    assert (found.reasons, found.differs) == ((), ())
    assert found.compared >= 12


def test_a_slow_fade_is_as_the_reel_at_every_quality(tmp_path: Path) -> None:
    """Single frames come out as their neighbours: that is what codecs do, and no mistake."""
    grain = np.random.default_rng(1).random((TALL, WIDE, 1))
    (tmp_path / "a").mkdir()
    for number in range(1, COUNT + 1):
        grey = np.repeat(grain * (0.5 + 0.004 * number), 3, axis=2) * 255
        write_pixels(tmp_path / "a" / f"a.{number:04}.png", grey.astype(np.uint8))
    job = job_of(tmp_path / "a")
    for quality in ("14", "28", "40"):
        fields = {"quality": ConstantQuality(figure=float(quality)), "name": quality}
        found = compared(job, delivered(job, **fields), **fields)
        assert (found.reasons, found.differs) == ((), ()), quality
        said = "the order was not judged" in " ".join(against_words(found))
        assert said == (quality == "40"), "what cannot be looked at is said"


@pytest.mark.parametrize("swing", [90, 256])
def test_noise_at_a_low_bitrate_is_compared_with_what_the_codec_makes_of_it(
    tmp_path: Path, swing: int
) -> None:
    noise = np.random.default_rng(4)
    frames = [
        gradient(number, width=160, height=96) // 2 * (swing < 128)
        + noise.integers(0, swing, (96, 160, 3), dtype=np.uint8)
        for number in range(12)
    ]
    for number, pixels in enumerate(frames, 1):
        path = tmp_path / "noise" / f"n.{number:04d}.png"
        path.parent.mkdir(exist_ok=True)
        write_pixels(path, pixels)
    job = job_of(tmp_path / "noise")
    low = Bitrate(bits_per_second=600_000)
    fields: dict[str, object] = {"quality": low, "rate": Fraction(25)}
    file = delivered(job, **fields)
    assert compared(job, file, **fields).is_alike
    # The same file is not that of a reel with a patch in it.
    frames[5][20:70, 30:110] = 255
    write_pixels(tmp_path / "noise" / "n.0006.png", frames[5])
    assert not compared(job, file, **fields).is_alike


ONCE_WRONG = (5, 160, 248, 476, 528, 596, 679, 958, 910024, 910034, 910091, 910133)


@pytest.mark.parametrize("seed", ONCE_WRONG)
def test_reels_of_chance_that_were_once_wrong(tmp_path: Path, seed: int) -> None:
    """What the codec makes is asked for the very frames that a file shows.

    Another rate repeats some, alpha is compared as it is seen, a bitrate may be low, a limit
    mixes figures, a plain area is rounded alike; key frames alone come to their end.
    """
    assert not try_one(tmp_path, seed, "")


def test_what_was_fitted_to_a_limit_is_compared_in_the_quality_that_it_has(tmp_path: Path) -> None:
    (tmp_path / "a").mkdir()
    rows, columns = np.mgrid[:128, :128]
    for number in range(1, 73):
        board = ((rows // 16 + (columns + number) // 16) % 2 * 180 + 25).astype(np.uint8)
        write_pixels(tmp_path / "a" / f"a.{number:04}.png", np.stack([board] * 3, axis=2))
    job = job_of(tmp_path / "a")
    fields: dict[str, object] = {"most_bytes": 16_000, "key_seconds": 0.1}
    file = delivered(job, **fields)
    seal = seal_path(file)
    record = json.loads(seal.read_text())
    assert record["likeness"]["figure"] > 35
    assert compared(job, file, **fields).differs == ()
    # A seal that says something else changes nothing: what the delivery makes is made again.
    for figure in (float("nan"), "coarse"):
        record["likeness"]["figure"] = figure
        seal.write_text(json.dumps(record))
        assert compared(job, file, **fields).is_alike
        record[DIGEST] = record_digest(record)


def encoded_elsewhere(path: Path, pictures: list[NDArray[np.uint8]], rate: int = 24) -> Path:
    """As another program would: other options, no tags."""
    with av.open(str(path), "w") as movie:
        stream = movie.add_stream("libx264", rate=rate, options={"crf": "16"})
        stream.width, stream.height, stream.pix_fmt = WIDE, TALL, "yuv420p"
        for number, picture in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
            frame = frame.reformat(format="yuv420p", dst_colorspace=1, dst_color_range=1)
            frame.pts = number
            movie.mux(stream.encode(frame))
        movie.mux(stream.encode(None))
    return path


def pictures() -> list[NDArray[np.uint8]]:
    return [gradient(number, width=WIDE, height=TALL) for number in range(1, COUNT + 1)]


def test_a_patch_that_was_painted_in_is_found(job: Job, tmp_path: Path) -> None:
    made = pictures()
    made[9][96:128, 64:112] = 255 - made[9][96:128, 64:112]
    found = compared(job, encoded_elsewhere(tmp_path / "other.mp4", made))
    (one,) = found.differs
    assert one.frame == 10
    assert one.what == "differs in 48 × 49 pixels at 64, 82"  # blocks of 16, about
    assert one.by > 30
    assert any("tagged" in reason for reason in found.reasons)


def test_frames_that_come_late_are_named(job: Job, tmp_path: Path) -> None:
    made = pictures()
    made[12:] = made[11:-1]  # from the thirteenth on, one late
    found = compared(job, encoded_elsewhere(tmp_path / "other.mp4", made))
    assert [one.frame for one in found.differs] == list(range(13, 25))
    assert {(one.frame, one.what) for one in found.differs} == {
        (frame, f"shows frame {frame - 1}") for frame in range(13, 25)
    }


def test_another_length_and_another_rate_are_said(job: Job, tmp_path: Path) -> None:
    found = compared(job, encoded_elsewhere(tmp_path / "short.mp4", pictures()[:20]))
    assert "Expected 24 frames, found 20." in found.reasons
    assert (found.compared, found.differs) == (20, ())
    found = compared(job, encoded_elsewhere(tmp_path / "fast.mp4", pictures()[::2], rate=12))
    assert "Expected 24 fps, found 12 fps." in found.reasons
    assert found.differs == ()


def test_a_delivered_frame_that_was_painted_over_is_found(job: Job) -> None:
    folder = delivered(job, codec="PNG")
    write_pixels(sorted(folder.iterdir())[3], 255 - gradient(4, width=WIDE, height=TALL))
    found = compared(job, folder, codec="PNG")
    assert [one.frame for one in found.differs] == [4]


def test_light_is_not_compared_and_says_so(job: Job, tmp_path: Path) -> None:
    with pytest.raises(JobError, match="EXR frames hold light: check them by their seal"):
        compared(job, tmp_path, codec="EXR", space="scene-linear")


def test_the_delivery_of_its_name_or_kind_is_meant(job: Job, tmp_path: Path) -> None:
    job = add_delivery(job, name="other", folder=str(tmp_path))
    job = change_delivery(job, delivery="d2", codec="ProRes HQ", container="MOV")
    assert delivery_like(job, tmp_path / "x.mov").id == "d2"
    assert delivery_like(job, tmp_path / "x.mp4").id == "d1"
    assert delivery_like(job, path_of(job.deliveries[1])).id == "d2"
    with pytest.raises(JobError, match="outbox is empty"):
        delivery_like(change(job, deliveries=()), tmp_path / "x.mov")


def test_what_a_spec_does_not_take_of_a_file(job: Job, tmp_path: Path) -> None:
    from waxseal.core.seal.measure.measure_movie import measure_movie

    write_tone(tmp_path / "tone.wav", seconds=1.0)
    measured = measure_movie(delivered(job))
    broadcast = spec_book().named("broadcast HD 25")
    said = " ".join(file_troubles(broadcast, measured, ".mp4"))
    for words in (
        "wants the codec dnxhd, not h264",
        "takes 1920 × 1080, not 320 × 180",
        "takes 25 fps, not 24",
        "begins at 10:00:00:00, not at none",
        "needs sound, and the file has none",
        "wants .mxf, not .mp4",
        "flashes that may harm. They are looked for with the job",  # never passed unseen
    ):
        assert words in said
    own = change(spec_book().named("wide web 1080p"), sizes=("320x180",), sound="allowed")
    assert list(file_troubles(own, measured, ".MP4")) == []
    assert list(file_troubles(own, measured, ".mkv")) == ["wide web 1080p wants .mp4, not .mkv."]
    unsaid = replace(measured, rate=None, seconds=0.0)
    assert list(file_troubles(own, unsaid, ".mp4")) == [
        "The file has no rate: whether wide web 1080p takes it cannot be said."
    ]
    odd = replace(measured, sound=SoundFacts("aac", 48_000, 4, Fraction(1)), loudness=None)
    assert any("cannot be measured" in one for one in file_troubles(own, odd, ".mp4"))


def test_flashes_are_looked_for_in_any_file_and_refused_where_nobody_can(
    job: Job, tmp_path: Path
) -> None:
    made = [
        np.full((TALL, WIDE, 3), 230 if number % 4 < 2 else 20, np.uint8) for number in range(COUNT)
    ]
    file = encoded_elsewhere(tmp_path / "flashing.mp4", made)
    found = compared(job, file, no_flashes=True)
    assert any("flashes in a second" in reason for reason in found.reasons)
    assert not any("flashes" in reason for reason in compared(job, file).reasons)
    high = {"codec": "H.265", "space": "BT.2020 PQ", "no_flashes": True}
    assert any("cannot be judged" in reason for reason in compared(job, file, **high).reasons)
    high_job = change_delivery(job, delivery="d1", **high)
    outcome = make_delivery(high_job, high_job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.REFUSED
    assert "Flashes cannot be judged in BT.2020 PQ" in outcome.reasons[0]
