from __future__ import annotations

from fractions import Fraction
from functools import partial

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.making import reading, sequence, sound
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.errors import JobError
from waxseal.core.job import edits
from waxseal.core.job.edits import Edit
from waxseal.core.job.history import History
from waxseal.core.job.model import (
    Delivery,
    Health,
    Job,
    Origin,
    Sequence,
    Shot,
    Size,
    Sound,
    StandIn,
    change,
)


def dropped(*sources: Sequence | Sound) -> Job:
    return edits.take_in(Job(), sources=sources or (sequence(),), folder="/out")


def test_a_drop_puts_sequences_on_the_reel_lays_the_sound_and_makes_a_delivery() -> None:
    job = dropped(sequence("one"), sequence("two", frames=(1,)), sound())
    assert [source.id for source in job.sources] == ["s1", "s2", "s3"]
    assert [shot.source for shot in job.reel.shots] == ["s1", "s2"]
    assert job.reel.sounds[0].source == "s3"
    assert str(path_of(job.deliveries[0])) == "/out/one.mp4"


def test_a_second_drop_adds_to_the_first_and_keeps_its_delivery() -> None:
    job = edits.take_in(dropped(), sources=[sequence()], folder="/elsewhere")
    assert [shot.id for shot in job.reel.shots] == ["a1", "a2"]
    assert len(job.deliveries) == 1


def test_two_sounds_leave_a_choice() -> None:
    assert dropped(sequence(), sound(), sound()).reel.sounds == ()


def test_taking_a_source_out_takes_its_shots_and_sounds_along() -> None:
    job = dropped(sequence(), sequence(), sound())
    job = edits.remove_source(edits.remove_source(job, source="s1"), source="s3")
    assert [shot.source for shot in job.reel.shots] == ["s2"]
    assert job.reel.sounds == ()


def test_an_edit_makes_only_what_it_changes_anew() -> None:
    """With hundreds of shots, each that is made anew for nothing keeps the window waiting."""
    job = dropped(sequence(), sequence(), sequence())
    without = edits.remove_source(job, source="s1")
    assert all(one is job.shot(one.id) for one in without.reel.shots)
    assert all(one is job.sequence(one.id) for one in without.sequences)
    again = edits.copy_framing(job, of="a1")
    assert all(one is job.shot(one.id) for one in again.reel.shots)
    assert edits.set_reel_rate(job, rate=job.reel.rate) is job
    assert edits.change_placing(job, of="a2", x=3).shot("a1") is job.shot("a1")


def test_what_is_asked_for_is_checked_even_where_it_looks_the_same() -> None:
    job = dropped(sequence())
    with pytest.raises(JobError):
        change(job.reel, nothing_of_this_name=None)
    assert type(change(Size(width=1, height=2), width=True).width) is int


def test_shots_change_places() -> None:
    job = dropped(sequence(), sequence(), sequence())

    def order(job: Job) -> list[str]:
        return [shot.id for shot in job.reel.shots]

    assert order(edits.move_shot(job, shot="a1", to=2)) == ["a2", "a3", "a1"]
    assert order(edits.move_shot(job, shot="a3", to=0)) == ["a3", "a1", "a2"]
    assert order(edits.move_shot(job, shot="a2", to=99)) == ["a1", "a3", "a2"]
    assert order(edits.remove_shot(job, shot="a2")) == ["a1", "a3"]


@given(first=st.integers(-50, 50), last=st.integers(-50, 50))
def test_trimming_stays_inside_the_source_and_leaves_a_frame(first: int, last: int) -> None:
    job = edits.trim_head(dropped(), shot="a1", first=first)
    job = edits.trim_tail(job, shot="a1", last=last)
    shot = job.shot("a1")
    assert 1 <= shot.first <= shot.last <= 8


def test_a_rate_that_is_said_in_place_of_a_guess_is_said_of_all_guessed_alike() -> None:
    guessed, other = reading(origin=Origin.GUESS), reading(Fraction(30), origin=Origin.GUESS)
    job = dropped(sequence(read=guessed), sequence(read=guessed), sequence(read=other))
    job = edits.set_rate(job, source="s1", rate=Fraction(12))
    rates = [(one.reading.rate.value, one.reading.rate.origin) for one in job.sequences]
    assert rates == [
        (Fraction(12), Origin.SAID),
        (Fraction(12), Origin.SAID),
        (Fraction(30), Origin.GUESS),
    ]
    assert job.habits.rate == 12


def test_a_habit_is_what_those_have_that_follow_it() -> None:
    """One source at a rate of its own does not change what the others are read at."""
    habitual = reading(origin=Origin.HABIT)
    job = dropped(sequence(read=habitual), sequence(read=habitual))
    job = edits.set_habit(job, habit="rate", value=Fraction(25))
    job = edits.set_rate(job, source="s1", rate=Fraction(12))
    assert job.habits.rate == 25
    assert [one.reading.rate.value for one in job.sequences] == [12, 25]


def test_a_guess_does_not_take_the_reel_to_its_rate() -> None:
    guessed, known = reading(origin=Origin.GUESS), reading(Fraction(25), origin=Origin.WRITTEN)
    job = dropped(sequence(read=guessed), sequence(read=known))
    assert job.reel_rate == 25
    assert job.guessed_from is None
    alone = edits.remove_shot(job, shot="a2")
    assert alone.reel_rate == 24
    assert alone.guessed_from is not None
    assert edits.set_reel_rate(alone, rate=Fraction(24)).guessed_from is None
    assert edits.confirm_rates(alone, rate=Fraction(24)).guessed_from is None


def test_confirming_one_guess_confirms_all_like_it() -> None:
    guessed = reading(origin=Origin.GUESS)
    other = reading(Fraction(30), origin=Origin.GUESS)
    job = dropped(sequence(read=guessed), sequence(read=guessed), sequence(read=other))
    job = edits.confirm_rates(job, rate=Fraction(24))
    origins = [source.reading.rate.origin for source in job.sequences]
    assert origins == [Origin.SAID, Origin.SAID, Origin.GUESS]


def test_refreshing_keeps_what_was_said_and_trims_to_what_is_there() -> None:
    job = edits.change_reading(dropped(), source="s1", stand_in=StandIn.HOLD)
    fewer = sequence("s1", frames=(1, 2, 3, 5), damaged=(2,))
    job = edits.refresh_sources(job, sources=[fewer])
    assert (job.shot("a1").first, job.shot("a1").last) == (1, 5)
    assert job.sequence("s1").health is Health.DAMAGED
    assert job.sequence("s1").reading.stand_in.value is StandIn.HOLD
    moved = edits.refresh_sources(job, sources=[sequence("s1", frames=(100, 101))])
    assert (moved.shot("a1").first, moved.shot("a1").last) == (100, 101)


def test_what_was_expected_is_missing_and_widens_whole_shots() -> None:
    job = edits.set_expected(dropped(sequence(frames=(2, 3, 5))), source="s1", expected=(1, 8))
    source = job.sequence("s1")
    assert source.to_rerender == (1, 4, 6, 7, 8)
    assert source.health is Health.GAPS
    assert (job.shot("a1").first, job.shot("a1").last) == (1, 8)
    back = edits.set_expected(job, source="s1", expected=None)
    assert (back.shot("a1").first, back.shot("a1").last) == (2, 5)
    trimmed = edits.trim_tail(job, shot="a1", last=6)
    kept = edits.set_expected(trimmed, source="s1", expected=(1, 20))
    assert (kept.shot("a1").first, kept.shot("a1").last) == (1, 6)


def test_fewer_than_there_are_takes_nothing_away() -> None:
    job = edits.set_expected(dropped(), source="s1", expected=(3, 5))
    assert str(job.sequence("s1").range) == "1-8"
    assert job.sequence("s1").missing == ()


@pytest.mark.parametrize(
    "broken",
    [
        partial(edits.remove_shot, shot="none"),
        partial(edits.put_on_reel, sources=["none"]),
        partial(edits.lay_sound, source="s1"),
        partial(edits.change_reading, source="s1", rate=0.5),
        partial(edits.change_reading, source="s1", rate=Fraction(0)),
        partial(edits.change_reading, source="s1", colour="mauve"),
        partial(edits.change_delivery, delivery="d1", name="../up.mp4"),
        partial(edits.set_ground, colour="red"),
        partial(edits.set_expected, source="s1", expected=(9, 3)),
    ],
)
def test_what_cannot_be_is_refused_with_a_sentence(broken: object) -> None:
    with pytest.raises(JobError) as caught:
        broken(dropped())  # type: ignore[operator]
    assert len(str(caught.value)) > 10


def test_a_job_whose_parts_do_not_fit_cannot_be_made() -> None:
    job = dropped()
    with pytest.raises(JobError, match="outside"):
        change(job, reel=change(job.reel, shots=(Shot(id="a1", source="s1", first=1, last=99),)))
    with pytest.raises(JobError, match="same id"):
        change(job, sources=(*job.sources, *job.sources))


def test_a_delivery_gets_its_suffix_and_no_path() -> None:
    assert path_of(Delivery(id="d1", name="film", folder="/out")).name == "film.mp4"
    assert path_of(Delivery(id="d1", name="film.MP4", folder="/out")).name == "film.MP4"


def test_undo_and_redo_by_name() -> None:
    history = History(dropped())
    history = history.do(Edit("trim head", partial(edits.trim_head, shot="a1", first=3)))
    history = history.do(Edit("ground", partial(edits.set_ground, colour="#ffffff")))
    assert history.undo_name == "ground"
    back = history.undo().undo()
    assert back.job == dropped()
    assert back.redo_name == "trim head"
    assert back.redo().redo().job == history.job
    assert back.undo().job == back.job


def test_a_drag_is_one_step_and_the_next_drag_another() -> None:
    history = History(dropped())

    def drag(history: History, frame: int) -> History:
        trim = partial(edits.trim_head, shot="a1", first=frame)
        return history.do(Edit("trim head", trim, merges="head a1"))

    history = drag(drag(drag(history, 2), 3), 4).settle()
    history = drag(drag(history, 5), 6).settle()
    assert history.undo().job.shot("a1").first == 4
    assert history.undo().undo().job.shot("a1").first == 1


def test_what_changes_nothing_leaves_no_step() -> None:
    history = History(dropped())
    assert history.do(Edit("trim", partial(edits.trim_head, shot="a1", first=1))) is history


def test_what_was_found_out_reaches_the_past_too() -> None:
    history = History(dropped())
    history = history.do(Edit("trim", partial(edits.trim_head, shot="a1", first=3)))
    found = sequence("s1", damaged=(4,))
    history = history.amend(Edit("", partial(edits.refresh_sources, sources=[found])))
    assert history.undo().job.sequence("s1").damaged == (4,)
    assert len(history.past) == 1


def test_sizes_are_bounded() -> None:
    with pytest.raises(JobError):
        change(Size(width=10, height=10), width=0)


def test_what_a_job_remembers_of_its_sources_is_no_part_of_it() -> None:
    job = dropped(sequence())
    fresh = Job.model_validate(job.model_dump())
    assert job.sequence("s1") is job.sequences[0]
    assert job == fresh
    assert fresh == job
    assert job.model_dump_json() == fresh.model_dump_json()
    renamed = change(job, sources=(change(job.sequences[0], name="other"),))
    assert renamed.sequence("s1").name == "other"
