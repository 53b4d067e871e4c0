"""Every length from one frame, every quality that can be chosen, every size that a form admits."""

from __future__ import annotations

from pathlib import Path

import pytest

from benchmarks.sizes import large_frame
from tests.making import job_of, write_sequence, write_tone
from waxseal.core.deliver.codecs import CODECS, Codec
from waxseal.core.deliver.codecs.codec import StreamEncoder
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.job.edits import change_delivery, lift_sound, set_reel_rate
from waxseal.core.job.model import (
    ConstantQuality,
    DeliveryState,
    Grade,
    Graded,
    Job,
    Quality,
    Size,
)
from waxseal.core.progress import CancelToken, silent
from waxseal.core.timing.rates import parse_rate

MOVIES = [codec for codec in CODECS.values() if codec.grades]


def film(
    folder: Path,
    codec: Codec,
    count: int,
    quality: Quality | None = None,
    size: tuple[int, int] = (64, 64),
) -> Job:
    frames, (width, height) = range(1, count + 1), size
    job = job_of(write_sequence(folder / "frames", frames=frames, width=width, height=height))
    delivery = job.deliveries[0]
    chosen = quality or delivery.quality
    return change_delivery(job, delivery=delivery.id, codec=codec.name, quality=chosen)


def assert_sealed(job: Job) -> None:
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons


@pytest.mark.parametrize("codec", MOVIES, ids=lambda codec: codec.name)
@pytest.mark.parametrize(
    ("count", "rate"),
    [(1, "24"), (1, "30000/1001"), (2, "24"), (2, "30000/1001"), (3, "24"), (7, "30000/1001")],
)
def test_every_length(tmp_path: Path, codec: Codec, count: int, rate: str) -> None:
    assert_sealed(set_reel_rate(film(tmp_path, codec, count), rate=parse_rate(rate)))


@pytest.mark.parametrize("codec", CODECS.values(), ids=lambda codec: codec.name)
def test_one_frame_in_every_container(tmp_path: Path, codec: Codec) -> None:
    """Of three, with its sound and without."""
    (tmp_path / "frames").mkdir()
    write_tone(tmp_path / "frames" / "tone.wav", seconds=1 / 24)
    job = film(tmp_path, codec, 3, size=(256, 256))
    assert job.reel.sounds
    job = set_reel_rate(job, rate=parse_rate("30000/1001"))
    for container in codec.containers:
        fields: dict[str, object] = {"container": container, "name": container, "range": (2, 2)}
        fields["space"] = codec.usual_space
        job = change_delivery(job, delivery=job.deliveries[0].id, **fields)
        assert_sealed(job)
        mute = change_delivery(lift_sound(job, sound="m1"), delivery="d1", name=f"{container} mute")
        assert_sealed(mute)


@pytest.mark.parametrize("codec", MOVIES, ids=lambda codec: codec.name)
@pytest.mark.parametrize("part", [0.0, 0.012, 0.03, 0.5])
def test_every_figure(tmp_path: Path, codec: Codec, part: float) -> None:
    figure = codec.best + (codec.coarsest - codec.best) * part
    assert_sealed(film(tmp_path, codec, 5, ConstantQuality(figure=figure)))


@pytest.mark.parametrize("codec", MOVIES, ids=lambda codec: codec.name)
@pytest.mark.parametrize("grade", list(Grade))
def test_every_grade(tmp_path: Path, codec: Codec, grade: Grade) -> None:
    assert_sealed(film(tmp_path, codec, 5, Graded(grade=grade)))


@pytest.mark.parametrize("codec", MOVIES, ids=lambda codec: codec.name)
@pytest.mark.parametrize(("width", "height"), [(16, 16), (19, 33), (400, 16), (65, 64), (64, 400)])
def test_every_size(tmp_path: Path, codec: Codec, width: int, height: int) -> None:
    job = film(tmp_path, codec, 3, size=(width, height))
    trouble = codec.size_trouble(Size(width=width, height=height))
    if not trouble:
        assert_sealed(job)
        return
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.reasons == (trouble,)


def test_a_large_frame_is_encoded(tmp_path: Path) -> None:
    """Its slices were too large with alpha. `make sizes` delivers every size in every codec."""
    assert_sealed(large_frame(film(tmp_path, CODECS["FFV1"], 1), Size(width=8192, height=4320)))


def test_what_the_library_cannot_hold_is_refused() -> None:
    """FFmpeg counts 8 bytes a pixel, and a margin, in 31 bits: the largest admitted fits."""
    for codec in CODECS.values():
        if isinstance(codec.coding, StreamEncoder):
            for width in (codec.longest, 16_384):
                height = codec.most_pixels // width // 16 * 16
                if not codec.size_trouble(Size(width=width, height=height)):
                    assert (8 * width + 1024) * (height + 128) < 2**31 - 1
