"""A limit of bytes is never exceeded, and used where the pictures need it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from tests.making import job_of, write_tone
from waxseal.core.deliver.codecs import codec_named
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.match import State, match
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery, take_in
from waxseal.core.job.model import Bitrate, ConstantQuality, DeliveryState, Job, Outcome
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, Progress
from waxseal.core.sound.sound_files import probe_sound

WIDE, TALL, COUNT = 192, 108, 60


@pytest.fixture(scope="module")
def grainy(tmp_path_factory: pytest.TempPathFactory) -> Job:
    """Coarse squares that move, under grain."""
    folder = tmp_path_factory.mktemp("grainy") / "a"
    folder.mkdir()
    random = np.random.default_rng(1)
    squares = np.kron(random.integers(0, 255, (60, 100, 3)), np.ones((4, 4, 1)))
    for number in range(1, COUNT + 1):
        moved = np.roll(squares, (number * 2, number * 3), (0, 1))[:TALL, :WIDE]
        picture = moved * 0.6 + random.normal(0, 8, (TALL, WIDE, 3)) + 30
        write_pixels(folder / f"a.{number:04}.png", np.clip(picture, 0, 255).astype(np.uint8))
    return job_of(folder)


def delivered(job: Job, folder: Path, codec: str, **fields: object) -> Outcome:
    stages: list[str] = []

    def report(progress: Progress) -> None:
        stages.append(progress.stage)

    space = codec_named(codec).usual_space
    fields = {"codec": codec, "space": space, "folder": str(folder), "name": "film", **fields}
    job = change_delivery(job, delivery="d1", **fields)
    outcome = make_delivery(job, job.deliveries[0], report, CancelToken(), overwrite=True)
    if outcome.state is DeliveryState.SEALED:
        assert path_of(job.deliveries[0]).stat().st_size == outcome.size_bytes
    assert set(stages) <= {"encoding", "finding the quality", "checking"}
    return outcome


@pytest.mark.parametrize("codec", ["H.264", "H.265", "VP9", "AV1"])
@pytest.mark.parametrize("share", [0.6, 0.3])
def test_a_limit_is_kept_and_used(grainy: Job, tmp_path: Path, codec: str, share: float) -> None:
    free = delivered(grainy, tmp_path, codec)
    limit = int(free.size_bytes * share)
    outcome = delivered(grainy, tmp_path, codec, most_bytes=limit)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert 0.97 * limit <= outcome.size_bytes <= limit
    assert any("so that the file stays under" in note for note in outcome.notes)


def test_the_sound_and_the_container_are_counted(grainy: Job, tmp_path: Path) -> None:
    tone = probe_sound(write_tone(tmp_path / "tone.wav", seconds=COUNT / 24))
    job = take_in(grainy, sources=(tone,), folder=str(tmp_path))
    outcome = delivered(job, tmp_path, "H.264", most_bytes=150_000, container="MOV")
    assert outcome.state is DeliveryState.REFUSED  # PCM alone is larger
    outcome = delivered(job, tmp_path, "H.264", most_bytes=150_000)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert 145_500 <= outcome.size_bytes <= 150_000


def test_what_fits_anyway_keeps_its_quality(grainy: Job, tmp_path: Path) -> None:
    free = delivered(grainy, tmp_path, "H.264")
    outcome = delivered(grainy, tmp_path, "H.264", most_bytes=free.size_bytes)
    assert outcome.sha256 == free.sha256
    assert not [note for note in outcome.notes if "stays under" in note]


def test_a_bitrate_that_is_too_high_gives_way_to_the_limit(grainy: Job, tmp_path: Path) -> None:
    outcome = delivered(
        grainy, tmp_path, "H.264", quality=Bitrate(bits_per_second=3_000_000), most_bytes=300_000
    )
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert 291_000 <= outcome.size_bytes <= 300_000


def test_the_same_limit_gives_the_same_bytes(grainy: Job, tmp_path: Path) -> None:
    one = delivered(grainy, tmp_path, "AV1", most_bytes=150_000)
    assert one.state is DeliveryState.SEALED, one.reasons
    assert delivered(grainy, tmp_path, "AV1", most_bytes=150_000).sha256 == one.sha256


def test_a_picture_not_worth_having_is_refused_with_what_is_better(
    grainy: Job, tmp_path: Path
) -> None:
    outcome = delivered(grainy, tmp_path, "H.264", most_bytes=11_000)
    assert outcome.state is DeliveryState.REFUSED
    assert "11.0 kB can only be kept by a picture too coarse to use" in outcome.reasons[0]
    assert "A smaller size looks better: " in outcome.reasons[0]
    # Who wants it so gets it.
    coarse = ConstantQuality(figure=45)
    asked = delivered(grainy, tmp_path, "H.264", most_bytes=20_000, quality=coarse)
    assert asked.state is DeliveryState.SEALED, asked.reasons


def test_a_limit_that_nothing_keeps_says_so(grainy: Job, tmp_path: Path) -> None:
    outcome = delivered(grainy, tmp_path, "H.265", most_bytes=3_000)
    assert outcome.state is DeliveryState.REFUSED
    assert outcome.reasons[0].startswith("3.0 kB cannot be kept: even at the coarsest quality")
    assert not list(tmp_path.glob("*film*"))


def test_a_codec_without_a_quality_is_weighed_at_the_end(grainy: Job, tmp_path: Path) -> None:
    outcome = delivered(grainy, tmp_path, "ProRes LT", most_bytes=100_000)
    assert outcome.state is DeliveryState.REFUSED
    assert "100.0 kB are the most" in outcome.reasons[0]


@pytest.mark.parametrize(
    ("codec", "words", "state"),
    [
        ("H.264", "at most 1.0 kB: the quality is lowered until it fits", State.CHANGED),
        ("ProRes LT", "at most 1.0 kB: it may be refused", State.DECIDE),
    ],
)
def test_the_match_table_says_what_a_limit_does(
    grainy: Job, codec: str, words: str, state: State
) -> None:
    job = change_delivery(grainy, delivery="d1", codec=codec, most_bytes=1000)
    row = match(programme(job), job.deliveries[0])[-1]
    assert row.done.startswith(words)
    assert row.state is state
