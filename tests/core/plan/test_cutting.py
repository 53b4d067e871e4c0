"""Shots that are split, trimmed to a frame and doubled: nothing else of the reel changes."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.making import job_of, write_sequence
from waxseal.core.errors import JobError
from waxseal.core.job.edits import change_reading, change_timing, put_on_reel
from waxseal.core.job.model import Job, LaidSound, Sound, change
from waxseal.core.plan.cutting import duplicate_shot, split_shot, trim_head_to, trim_tail_to
from waxseal.core.plan.timeline import timeline_of


@pytest.fixture(scope="module")
def reel(tmp_path_factory: pytest.TempPathFactory) -> Job:
    """Two shots of twelve frames each, 1001 to 1012."""
    folder = tmp_path_factory.mktemp("reel")
    job = job_of(write_sequence(folder / "a", frames=range(1001, 1013), width=16, height=16))
    return put_on_reel(job, sources=[job.sequences[0].id])


def shown(job: Job) -> list[int]:
    """The source frame of each reel frame."""
    timeline = timeline_of(job)
    return [timeline.shot_at(at).ask(at).frame for at in range(1, timeline.length + 1)]


@pytest.mark.parametrize("backwards", [False, True])
@given(at=st.integers(2, 12))
def test_a_split_shows_the_same_frames(reel: Job, backwards: bool, at: int) -> None:
    job = change_timing(reel, of="a1", backwards=backwards)
    split = split_shot(job, at=at)
    assert shown(split) == shown(job)
    assert [one.id for one in split.reel.shots] == ["a1", "a3", "a2"]
    assert timeline_of(split).shots[1].first == at


def test_a_split_of_frames_that_come_twice_keeps_the_length(reel: Job) -> None:
    job = change_reading(reel, source="s1", rate=Fraction(12))
    job = change(job, reel=change(job.reel, rate=Fraction(24)))
    for at in range(3, 25):
        assert shown(split_shot(job, at=at)) == shown(job)


def test_there_is_no_split_at_a_head_or_where_frames_come_again(reel: Job) -> None:
    for at in (1, 13):
        with pytest.raises(JobError, match="The shot begins here"):
            split_shot(reel, at=at)
    with pytest.raises(JobError, match="more than once"):
        split_shot(change_timing(reel, of="a1", to_and_fro=True), at=5)


def test_a_bound_sound_goes_with_both_parts(reel: Job) -> None:
    facts = {"samples": 48_000, "sample_rate": 48_000, "channels": 1, "format": "WAV"}
    sound = Sound.model_validate({"id": "w1", "path": "/x.wav", "name": "x.wav", **facts})
    laid = LaidSound(id="m1", source="w1", shot="a1", bound=True)
    job = change(reel, sources=(*reel.sources, sound))
    job = change(job, reel=change(job.reel, sounds=(laid,)))
    split = split_shot(job, at=5)
    assert [(one.shot, one.bound) for one in split.reel.sounds] == [("a1", True), ("a3", True)]
    assert {one.at for one in split.reel.sounds} == {Fraction(1)}
    twice = duplicate_shot(job, shot="a1")
    assert [one.shot for one in twice.reel.sounds] == ["a1", "a3"]
    assert shown(twice) == shown(job)[:12] + shown(job)


@pytest.mark.parametrize("backwards", [False, True])
def test_a_shot_begins_or_ends_at_the_frame(reel: Job, backwards: bool) -> None:
    job = change_timing(reel, of="a1", backwards=backwards)
    before = shown(job)
    assert shown(trim_head_to(job, at=5)) == before[4:]
    assert shown(trim_tail_to(job, at=5)) == before[:5] + before[12:]


def test_nothing_is_cut_beyond_the_reel(reel: Job, tmp_path: Path) -> None:
    with pytest.raises(JobError, match="there is no 99"):
        split_shot(reel, at=99)
