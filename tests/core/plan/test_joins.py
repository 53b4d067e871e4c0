"""Joins on the timeline: where they go, how far each frame is, and what there is no room for."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.making import sequence
from waxseal.core.errors import JobError
from waxseal.core.job.corrections import Values
from waxseal.core.job.edits import (
    add_sources,
    change_join,
    join_all,
    mark,
    move_shot,
    put_on_reel,
    remove_shot,
)
from waxseal.core.job.job_file import read_job, write_job
from waxseal.core.job.model import Job, JoinKind
from waxseal.core.plan.needed_frames import needed_frames
from waxseal.core.plan.programme import programme
from waxseal.core.plan.recipe import Dipped, Joined, Layer
from waxseal.core.plan.stand_ins import StandIns
from waxseal.core.plan.timeline import timeline_of

DISSOLVE, DIP = JoinKind.DISSOLVE, JoinKind.DIP


def reel_of(*counts: int) -> Job:
    """A shot of so many frames each, with frames from 1."""
    job = add_sources(Job(), sources=[sequence(frames=tuple(range(1, n + 1))) for n in counts])
    return put_on_reel(job, sources=[one.id for one in job.sequences])


def joined_by(job: Job, shot: str, kind: JoinKind, length: int) -> Job:
    return change_join(job, shot=shot, kind=kind, length=length)


def test_a_dissolve_makes_the_reel_shorter_and_uses_the_frames_of_both() -> None:
    timeline = timeline_of(joined_by(reel_of(10, 10), "a2", DISSOLVE, 4))
    assert timeline.length == 16
    assert [str(part.span) for part in timeline.shots] == ["1-10", "7-16"]
    asked = [[part.ask(n).frame for part in timeline.parts_at(n).shots] for n in (6, 7, 10, 11)]
    assert asked == [[6], [7, 1], [10, 4], [5]]
    shares = [timeline.parts_at(n).share for n in range(6, 12)]
    assert shares == [0, *(Fraction(part, 5) for part in (1, 2, 3, 4)), 0]
    assert [str(timeline.alone(n)) for n in (0, 1)] == ["1-6", "11-16"]


def test_a_dip_leaves_the_reel_as_long_and_is_all_colour_at_the_cut() -> None:
    timeline = timeline_of(joined_by(reel_of(10, 10), "a2", DIP, 8))
    assert timeline.length == 20
    covered = [timeline.parts_at(n).share for n in range(6, 16)]
    quarters = [0, 1, 2, 3, 4, 4, 3, 2, 1, 0]
    assert covered == [Fraction(part, 4) for part in quarters]
    assert [str(timeline.alone(n)) for n in (0, 1)] == ["1-6", "15-20"]


@pytest.mark.parametrize(("length", "halves"), [(1, (0, 1)), (5, (2, 3)), (6, (3, 3))])
def test_an_odd_frame_of_a_dip_is_the_coming_shots(length: int, halves: tuple[int, int]) -> None:
    (_, span) = timeline_of(joined_by(reel_of(10, 10), "a2", DIP, length)).joins
    assert span is not None
    assert (span.before, span.after) == halves


def test_each_shot_keeps_a_frame_for_itself_and_shares_the_others() -> None:
    job = reel_of(20, 9, 20)
    job = joined_by(job, "a2", DISSOLVE, 6)
    job = joined_by(job, "a3", DISSOLVE, 18)
    timeline = timeline_of(job)
    assert [timeline.join_length(n) for n in range(3)] == [0, 2, 6]
    assert timeline.short_joins == (1, 2)
    assert [str(timeline.alone(n)) for n in range(3)] == ["1-18", "21", "28-41"]


def test_a_join_does_not_change_those_further_away() -> None:
    job = reel_of(20, 9, 20, 9, 20)
    for shot in ("a2", "a3", "a4", "a5"):
        job = joined_by(job, shot, DISSOLVE, 6)
    before = [timeline_of(job).join_length(n) for n in range(5)]
    after = [timeline_of(joined_by(job, "a2", DIP, 30)).join_length(n) for n in range(5)]
    assert before == [0, 4, 4, 4, 4]
    assert after[3:] == before[3:]


def test_what_has_no_room_at_all_is_a_cut() -> None:
    timeline = timeline_of(joined_by(reel_of(10, 1), "a2", DISSOLVE, 12))
    assert timeline.joins == (None, None)
    assert timeline.short_joins == (1,)
    assert timeline.length == 11


def test_the_first_shot_meets_nothing_and_keeps_its_join_for_later() -> None:
    job = joined_by(reel_of(10, 10), "a2", DISSOLVE, 4)
    first = move_shot(job, shot="a2", to=0)
    assert timeline_of(first).joins == (None, None)
    assert timeline_of(first).short_joins == ()
    assert timeline_of(move_shot(first, shot="a2", to=1)).length == 16
    assert timeline_of(remove_shot(job, shot="a1")).length == 10


def test_all_shots_meet_alike() -> None:
    job = joined_by(reel_of(10, 10, 10), "a2", DIP, 6)
    job = change_join(job, shot="a2", colour="#ffffff", values=Values.LINEAR)
    alike = join_all(job, join=job.shot("a2").join)
    assert len({shot.join for shot in alike.reel.shots}) == 1
    assert timeline_of(alike).joins[2] is not None


def test_a_join_is_kept_in_the_file_and_a_cut_is_not_written(tmp_path: Path) -> None:
    job = joined_by(reel_of(10, 10), "a2", DISSOLVE, 4)
    text = write_job(job, tmp_path)
    assert read_job(text.encode(), tmp_path).reel == job.reel
    assert '"join"' in text
    assert '"join"' not in write_job(reel_of(10, 10), tmp_path)


@pytest.mark.parametrize("length", [0, -1, 100_001])
def test_a_length_that_is_none_is_refused(length: int) -> None:
    with pytest.raises(JobError, match="length: it has to be"):
        joined_by(reel_of(10, 10), "a2", DISSOLVE, length)


def test_recipes_say_what_is_joined() -> None:
    dissolve = programme(joined_by(reel_of(10, 10), "a2", DISSOLVE, 4))
    mixed = dissolve.recipe(8).programme
    assert isinstance(mixed, Joined)
    assert mixed.before is not None
    assert mixed.after is not None
    assert (mixed.before.pick.frame, mixed.after.pick.frame) == (8, 2)
    job = change_join(joined_by(reel_of(10, 10), "a2", DIP, 8), shot="a2", colour="#ffffff")
    dipped = programme(job)
    kinds = [type(dipped.recipe(n).programme) for n in (6, 7, 10, 11, 14, 15)]
    assert kinds == [Layer, Dipped, Dipped, Dipped, Dipped, Layer]
    whole = dipped.recipe(11).programme
    assert isinstance(whole, Dipped)
    assert (whole.cover.veil, whole.cover.veiled) == ("#ffffff", 1)
    assert len({dipped.recipe(n).key for n in range(6, 16)}) == 10


def test_what_a_dissolve_needs_of_a_marked_range_is_of_both_shots() -> None:
    job = mark(joined_by(reel_of(10, 10), "a2", DISSOLVE, 4), first=8, last=9)
    timeline = timeline_of(job)
    assert needed_frames(timeline, StandIns(timeline.job.sequences), timeline.frames) == {
        "s1": {8, 9},
        "s2": {2, 3},
    }


JOINS = st.tuples(st.sampled_from(list(JoinKind)), st.integers(1, 30))


@given(shots=st.lists(st.tuples(st.integers(1, 20), JOINS), min_size=1, max_size=6))
def test_whatever_is_joined_every_frame_is_made_of_one_shot_or_of_two(
    shots: list[tuple[int, tuple[JoinKind, int]]],
) -> None:
    job = reel_of(*(count for count, _ in shots))
    for number, (_, (kind, length)) in enumerate(shots, 1):
        job = joined_by(job, f"a{number}", kind, length)
    timeline = timeline_of(job)
    shown: dict[str, list[int]] = {}
    for frame in range(1, timeline.length + 1):
        together = timeline.parts_at(frame)
        assert 0 <= together.share <= 1
        overlaps = together.join is not None and together.join.overlaps
        assert len(together.shots) == (2 if overlaps else 1)
        for part in together.shots:
            assert frame in part.span
            shown.setdefault(part.laid.id, []).append(part.ask(frame).frame)
    # No frame of a shot is lost, shown twice or out of its order.
    assert list(shown.values()) == [list(range(1, count + 1)) for count, _ in shots]
    for number in range(len(shots)):
        alone = timeline.alone(number)
        assert alone.count >= 1
        assert all(timeline.parts_at(n).join is None for n in alone)


def test_both_halves_of_a_dip_get_shorter_where_one_has_no_room() -> None:
    (_, span) = timeline_of(joined_by(reel_of(30, 6), "a2", DIP, 24)).joins
    assert span is not None
    assert (span.before, span.after) == (5, 5)
