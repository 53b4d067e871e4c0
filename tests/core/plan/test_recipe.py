from __future__ import annotations

import os
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.making import job_of, reading, sequence, write_sequence
from waxseal.core.errors import JobError
from waxseal.core.job.edits import (
    add_sources,
    change_reading,
    mark,
    put_on_reel,
    set_framing,
    set_ground,
    set_reel_rate,
    trim_head,
    trim_tail,
)
from waxseal.core.job.model import Framing, Job, Order, Sequence, StandIn
from waxseal.core.plan.programme import programme, recipe


def reel_of(*sources: Sequence) -> Job:
    job = add_sources(Job(), sources=sources)
    for source in job.sequences:
        job = put_on_reel(job, sources=[source.id])
    return job


def shown(job: Job) -> list[int | None]:
    reel = programme(job)
    return [reel.place(frame).shown for frame in range(1, reel.timeline.length + 1)]


def test_the_reel_takes_size_and_rate_from_the_first_shot() -> None:
    reel = programme(reel_of(sequence(read=reading(Fraction(12))), sequence(size=(100, 50))))
    assert (str(reel.timeline.size), reel.timeline.rate) == ("64 × 36", Fraction(12))


def test_twos_show_every_frame_twice() -> None:
    job = set_reel_rate(reel_of(sequence(read=reading(Fraction(12)))), rate=Fraction(24))
    assert shown(job) == [frame for frame in range(1, 9) for _ in (1, 2)]


def test_reading_at_another_rate_changes_the_length_not_the_frames() -> None:
    job = reel_of(sequence())
    assert programme(job).timeline.length == 8
    slower = change_reading(job, source="s1", rate=Fraction(12))
    assert shown(slower) == list(range(1, 9))
    assert programme(slower).timeline.rate == 12


def test_a_reversed_shot_runs_backwards_within_its_part() -> None:
    job = change_reading(reel_of(sequence()), source="s1", order=Order.REVERSED)
    job = trim_tail(trim_head(job, shot="a1", first=3), shot="a1", last=6)
    assert shown(job) == [6, 5, 4, 3]


def test_shots_follow_each_other() -> None:
    job = reel_of(sequence(frames=(1, 2, 3)), sequence(frames=(7, 8)))
    reel = programme(job)
    assert reel.timeline.starts == (1, 4)
    assert [(reel.timeline.shot_at(n).laid.id, reel.place(n).shown) for n in range(1, 6)] == [
        ("a1", 1),
        ("a1", 2),
        ("a1", 3),
        ("a2", 7),
        ("a2", 8),
    ]
    with pytest.raises(JobError):
        reel.place(6)


def test_where_a_source_s_frame_is_on_the_reel() -> None:
    job = reel_of(sequence(frames=(1, 2, 3)), sequence(frames=(7, 8)))
    reel = programme(set_reel_rate(job, rate=Fraction(48)))
    assert reel.timeline.where("s1", 2) == 3
    assert reel.timeline.where("s2", 8) == 9
    assert reel.timeline.where("s2", 99) is None
    assert (
        programme(set_reel_rate(job, rate=Fraction(12))).timeline.where("s1", 2) is None
    )  # dropped


@pytest.mark.parametrize(
    ("stand_in", "expected"),
    [
        (StandIn.STOP, [None, 2, None, None, None, 6, 7, None]),
        (StandIn.BLACK, [None, 2, None, None, None, 6, 7, None]),
        (StandIn.HOLD, [2, 2, 2, 2, 2, 6, 7, 7]),
        (StandIn.NEAREST, [2, 2, 2, 2, 6, 6, 7, 7]),
    ],
)
def test_stand_ins(stand_in: StandIn, expected: list[int | None]) -> None:
    there = (1, 2, 5, 6, 7, 8)
    source = sequence(frames=there, damaged=(1, 5, 8), read=reading(stand_in=stand_in))
    job = reel_of(source)
    assert shown(job) == expected
    (missing,) = programme(job).missing()
    assert sorted(missing.frames) == [1, 3, 4, 5, 8]
    assert missing.is_stood_in == (stand_in is not StandIn.STOP)


def test_a_frame_that_turns_out_unreadable_is_stood_in_too() -> None:
    job = reel_of(sequence(read=reading(stand_in=StandIn.HOLD)))
    reel = programme(job).without([("s1", 4)])
    assert reel.place(4).shown == 3
    assert reel.place(5).shown == 5


def test_the_marked_range_is_what_is_delivered() -> None:
    job = mark(reel_of(sequence()), first=6, last=3)
    assert str(programme(job).timeline.frames) == "3-6"
    assert str(programme(mark(job, first=None, last=None)).timeline.frames) == "1-8"


def test_a_recipe_holds_what_its_pixels_depend_on(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "frames"))
    key = recipe(job, 3).key
    assert recipe(job, 3).key == key
    assert recipe(job, 4).key != key
    assert recipe(set_ground(job, colour="#ffffff"), 3).key != key
    assert recipe(set_framing(job, shot="a1", framing=Framing.FILL), 3).key != key
    file = tmp_path / "frames" / "shot.0003.png"
    os.utime(file, ns=(1, 1))
    assert recipe(job, 3).key != key
    file.unlink()
    gone = recipe(job, 3)
    assert gone.shot is not None
    assert gone.shot.pick.file.size_bytes == -1


def test_the_programme_s_key_tells_whether_the_reel_changed() -> None:
    job = reel_of(sequence())
    key = programme(job).key
    assert programme(add_sources(job, sources=[sequence()])).key == key  # not on the reel
    assert programme(trim_head(job, shot="a1", first=2)).key != key
    assert programme(change_reading(job, source="s1", rate=Fraction(25))).key != key


def test_an_empty_reel_is_said() -> None:
    with pytest.raises(JobError, match="empty"):
        programme(Job())


counts = st.lists(st.integers(1, 40), min_size=1, max_size=5)


@given(counts=counts, rates=st.lists(st.sampled_from([12, 24, 25, 30]), min_size=5, max_size=5))
def test_every_reel_frame_belongs_to_one_shot(counts: list[int], rates: list[int]) -> None:
    sources = [
        sequence(frames=tuple(range(10, 10 + count)), read=reading(Fraction(rate)))
        for count, rate in zip(counts, rates, strict=False)
    ]
    reel = programme(reel_of(*sources))
    covered = [frame for n in range(len(counts)) for frame in spanned(reel.timeline.span(n))]
    assert covered == list(range(1, reel.timeline.length + 1))
    for frame in covered:
        part = reel.timeline.shot_at(frame)
        assert part.ask(frame).frame in part.laid.range


def spanned(span) -> range:  # type: ignore[no-untyped-def]
    return range(span.first, span.last + 1)
