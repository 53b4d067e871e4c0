"""Alpha that is 1 everywhere is no loss: it is measured, kept, and nothing is said of it."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from tests.making import job_of
from waxseal.core.arrive.decode_check import look_deep
from waxseal.core.arrive.measure_cache import MeasureCache
from waxseal.core.deliver.match import State, match
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import refresh_sources
from waxseal.core.job.edits.stack_edits import has_alpha
from waxseal.core.job.job_file import read_job, write_job
from waxseal.core.job.model import Job, Sequence
from waxseal.core.plan.programme import programme


def frames(folder: Path, *, alpha: int) -> Path:
    folder.mkdir()
    for number in range(1, 4):
        values = np.full((90, 160, 4), 120, np.uint8)
        values[..., 3] = 255
        values[40:50, 60:80, 3] = alpha
        write_pixels(folder / f"shot.{number:04}.png", values)
    return folder


def looked_at(job: Job, memory: MeasureCache | None = None) -> Sequence:
    return look_deep(job.sequences[0], memory=memory)


@pytest.mark.parametrize(("alpha", "is_opaque"), [(255, True), (254, False)])
def test_a_close_look_tells_opaque_pictures(tmp_path: Path, alpha: int, is_opaque: bool) -> None:
    job = job_of(frames(tmp_path / "shot", alpha=alpha))
    memory = MeasureCache(tmp_path / "memory")
    source = looked_at(job, memory)
    assert source.found.is_opaque is is_opaque
    assert has_alpha(source) is not is_opaque
    assert looked_at(job, memory).found.is_opaque is is_opaque, "remembered"
    job = refresh_sources(job, sources=[source])
    row = next(one for one in match(programme(job), job.deliveries[0]) if one.what == "alpha")
    assert (row.state is State.LOST) is not is_opaque
    assert bool(row.notes) is not is_opaque
    assert (row.sources == "opaque") is is_opaque


def test_a_quick_look_alone_does_not_know(tmp_path: Path) -> None:
    job = job_of(frames(tmp_path / "shot", alpha=255))
    assert not job.sequences[0].found.is_opaque
    assert has_alpha(job.sequences[0])


def test_a_job_file_is_not_believed_that_its_pictures_are_opaque(tmp_path: Path) -> None:
    """It may be anybody's, and the frames may be others by now: only a look here says so."""
    job = job_of(frames(tmp_path / "shot", alpha=128))
    document = json.loads(write_job(job, tmp_path))
    assert "is_opaque" not in document["sources"][0]["found"]
    document["sources"][0]["found"]["is_opaque"] = True
    read = read_job(json.dumps(document).encode(), tmp_path)
    assert not read.sequences[0].found.is_opaque
    row = next(one for one in match(programme(read), read.deliveries[0]) if one.what == "alpha")
    assert row.state is State.LOST
