"""The timeline: what is on the reel from where to where."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.making import reading, sequence
from waxseal.core.errors import JobError
from waxseal.core.job.edits import (
    add_sources,
    change_overlay,
    change_timing,
    lay_over,
    put_on_reel,
    set_reel_rate,
)
from waxseal.core.job.model import Conversion, Job
from waxseal.core.plan.timeline import timeline_of


def two_shots() -> Job:
    job = add_sources(Job(), sources=[sequence(), sequence(frames=tuple(range(11, 19)))])
    return put_on_reel(job, sources=["s1", "s2"])


def test_shots_follow_each_other() -> None:
    timeline = timeline_of(two_shots())
    assert [str(part.span) for part in timeline.shots] == ["1-8", "9-16"]
    assert [len(timeline.parts_at(n).shots) for n in (1, 8, 9, 16)] == [1, 1, 1, 1]
    with pytest.raises(JobError, match="1 to 16"):
        timeline.parts_at(17)


@given(
    spans=st.lists(st.tuples(st.integers(1, 60), st.integers(1, 30)), max_size=12),
    frame=st.integers(1, 80),
)
def test_overlays_are_those_that_a_frame_is_in(spans: list[tuple[int, int]], frame: int) -> None:
    job = add_sources(Job(), sources=[sequence(frames=tuple(range(1, 81)))])
    job = put_on_reel(job, sources=["s1"])
    for number, (at, length) in enumerate(spans, 1):
        job = lay_over(job, source="s1", at=at)
        job = change_overlay(job, overlay=f"o{number}", length=length)
    timeline = timeline_of(job)
    expected = [
        f"o{n}" for n, (at, length) in enumerate(spans, 1) if at <= frame <= at + length - 1
    ]
    for _ in range(2):  # looked for, and then remembered
        assert [part.laid.id for part in timeline.parts_at(frame).overlays] == expected


@given(
    rate=st.sampled_from(["12", "24", "25", "30", "24000/1001"]),
    reel=st.sampled_from(["12", "24", "25", "60"]),
    conversion=st.sampled_from(list(Conversion)),
    first=st.integers(1, 60),
    count=st.integers(0, 60),
)
def test_what_a_stretch_asks_for_is_what_its_frames_ask_for(
    rate: str, reel: str, conversion: Conversion, first: int, count: int
) -> None:
    source = sequence(frames=tuple(range(1, 31)), read=reading(Fraction(rate)))
    job = put_on_reel(add_sources(Job(), sources=[source]), sources=["s1"])
    job = set_reel_rate(job, rate=Fraction(reel))
    job = change_timing(job, of="a1", conversion=conversion, to_and_fro=True)
    (part,) = timeline_of(job).shots
    last = min(first + count, part.last)
    asked = [part.ask(n) for n in range(first, last + 1)]
    assert part.frames_asked(first, last) == {one.frame for one in asked}
    following = {one.following for one in asked} - {None}
    assert part.frames_following(first, last) == following
    for one in asked:
        found = part.where(one.frame)
        assert found is not None
        assert part.ask(found).frame == one.frame
