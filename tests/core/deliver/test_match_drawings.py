"""What the match table draws: nothing lost is left out, and no number makes it slow."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest

from tests.making import job_of, write_sequence
from waxseal.core.deliver.match import match_drawn
from waxseal.core.deliver.match.match_drawings import MOST_BLOCKS, MOST_TICKS, Drawings
from waxseal.core.job.edits import change_delivery, change_reading, put_on_reel, set_expected
from waxseal.core.job.model import Framing, Job, Size, StandIn
from waxseal.core.plan.programme import programme


@pytest.fixture
def gappy(tmp_path: Path) -> Job:
    """1 to 12 without 4, 5 and 9."""
    there = [1, 2, 3, 6, 7, 8, 10, 11, 12]
    folder = write_sequence(tmp_path / "a", frames=there, width=160, height=90)  # type: ignore[arg-type]
    return job_of(folder)


def drawn(job: Job) -> Drawings:
    _, drawings = match_drawn(programme(job), job.deliveries[0])
    return drawings


def test_missing_frames_are_ticks_of_their_runs_and_stand_ins_too(gappy: Job) -> None:
    (block,), _, _ = drawn(gappy).frames
    assert [(round(one.first * 12), round(one.last * 12)) for one in block.ticks] == [
        (3, 5),
        (8, 9),
    ]
    held = change_reading(gappy, source="s1", stand_in=StandIn.HOLD)
    _, (block,), _ = drawn(held).frames
    assert [round(one.first * 12) + 1 for one in block.ticks] == [4, 5, 9]
    assert {one.state for one in block.ticks} == {None}


def test_many_shots_are_one_bar_that_still_shows_what_is_missing(gappy: Job) -> None:
    job = put_on_reel(gappy, sources=["s1"] * MOST_BLOCKS)
    (block,), (reel,), _ = drawn(job).frames
    assert (block.first, block.last) == (reel.first, reel.last) == (0.0, 1.0)
    assert len(block.ticks) == MOST_TICKS


def test_a_range_of_millions_is_drawn_by_its_runs(gappy: Job) -> None:
    job = set_expected(gappy, source="s1", expected=(1, 90))
    (block,), _, _ = drawn(job).frames
    assert len(block.ticks) == 3
    assert block.ticks[-1].last == 1.0


def test_frames_that_come_again_and_what_is_cropped(gappy: Job) -> None:
    job = change_reading(gappy, source="s1", stand_in=StandIn.HOLD)
    job = change_delivery(
        job, delivery="d1", rate=Fraction(48), size=Size(width=90, height=90), framing=Framing.FILL
    )
    drawings = drawn(job)
    assert [side[0].repeats for side in drawings.frames] == [False, False, True]
    assert drawings.sizes is not None
    own, reel, file = drawings.sizes
    assert (own.cropped, reel.cropped) == (0, 0)
    assert file.cropped == pytest.approx(70 / 160)
