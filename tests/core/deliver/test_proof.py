"""Proofs and poster frames: as the delivery will be."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from tests.making import job_of, number_in, numbered
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.preview.delivery_preview import (
    make_poster,
    make_source_poster,
    proof_of,
    with_proof,
)
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.errors import JobError
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import add_sources, change_delivery, change_reading, remove_shot
from waxseal.core.job.model import Alpha, DeliveryState, Framing, Job, Size, Space
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.measure_movie import measure_movie


@pytest.fixture
def job(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Job:
    """Sixty frames with their numbers in them."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    (tmp_path / "a").mkdir()
    for number in range(1, 61):
        write_pixels(tmp_path / "a" / f"a.{number:04}.png", numbered(number)[..., :3])
    return change_delivery(job_of(tmp_path / "a"), delivery="d1", folder=str(tmp_path))


@pytest.mark.parametrize(("at", "span"), [(30, (18, 41)), (1, (1, 24)), (60, (37, 60))])
def test_a_proof_is_a_second_around_the_playhead(job: Job, at: int, span: tuple[int, int]) -> None:
    proof = proof_of(job.deliveries[0], timeline_of(job), at)
    assert proof.range == span
    assert Path(proof.folder) != Path(job.deliveries[0].folder)


def test_a_proof_is_as_the_delivery_will_be(job: Job) -> None:
    job = change_delivery(job, delivery="d1", size=Size(width=180, height=180))
    proof = proof_of(job.deliveries[0], timeline_of(job), 30)
    outcome = make_delivery(with_proof(job, proof), proof, silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    measured = measure_movie(path_of(proof))
    assert (measured.frames, measured.width, measured.height) == (24, 180, 180)


def test_a_poster_frame_has_the_deliverys_frame_and_its_codes(job: Job) -> None:
    path = make_poster(job, job.deliveries[0], 7)
    assert path.name == "a_0007.png"
    values = read_pixels(path).values
    assert number_in(values) == 7
    np.testing.assert_array_equal(values, numbered(7)[..., :3])
    assert make_poster(job, job.deliveries[0], 7).name == "a_0007_2.png"  # nothing is written over
    square = change_delivery(
        job, delivery="d1", size=Size(width=180, height=180), framing=Framing.FILL
    )
    cut = read_pixels(make_poster(square, square.deliveries[0], 9)).values
    np.testing.assert_array_equal(cut, numbered(9)[:, 70:250, :3])


@pytest.mark.parametrize(
    "fields",
    [
        {"codec": "EXR", "space": Space.LINEAR},
        {"codec": "H.265", "space": Space.PQ},
        {"codec": "ProRes 4444", "alpha": Alpha.STRAIGHT},
    ],
)
def test_a_poster_of_any_delivery_can_be_looked_at(job: Job, fields: dict[str, object]) -> None:
    job = change_reading(job, source="s1", alpha=Alpha.NONE)
    job = change_delivery(job, delivery="d1", **fields)
    values = read_pixels(make_poster(job, job.deliveries[0], 3)).values
    assert values.shape == (180, 320, 4 if "alpha" in fields else 3)
    assert values.dtype == np.uint8
    assert number_in(values) == 3


def test_a_frame_of_a_source_that_is_not_on_the_reel_is_as_the_delivery_would_have_it(
    job: Job, tmp_path: Path
) -> None:
    (tmp_path / "b").mkdir()
    for number in range(101, 104):
        write_pixels(tmp_path / "b" / f"b.{number:04}.png", numbered(number)[..., :3])
    job = add_sources(job, sources=scan([tmp_path / "b"]).sources)
    job = change_delivery(
        job, delivery="d1", size=Size(width=180, height=180), framing=Framing.FILL
    )
    path = make_source_poster(job, job.deliveries[0], "s2", 102)
    assert path.name == "a_b_0102.png"
    cut = read_pixels(path).values
    np.testing.assert_array_equal(cut, numbered(102)[:, 70:250, :3])
    with pytest.raises(JobError, match=r"b has no frame 104: choose one of 101-103\."):
        make_source_poster(job, job.deliveries[0], "s2", 104)


def test_a_frame_of_a_source_needs_no_reel(job: Job) -> None:
    job = remove_shot(job, shot="a1")
    values = read_pixels(make_source_poster(job, job.deliveries[0], "s1", 5)).values
    np.testing.assert_array_equal(values, numbered(5)[..., :3])
