"""Readings: what is wanted of a source, several read alike, the job's habits."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest

from tests.making import job_of, reading, sequence, write_sequence, write_tone
from waxseal.core.errors import JobError
from waxseal.core.job import edits
from waxseal.core.job.model import (
    BT709,
    Alpha,
    Colour,
    Health,
    Job,
    Origin,
    Sequence,
    Size,
    StandIn,
    change,
    colour_choices,
    colour_words,
    parse_pixel_shape,
)
from waxseal.core.job.primaries import PRIMARIES
from waxseal.core.plan.programme import programme, recipe


def dropped(*sources: Sequence) -> Job:
    return edits.take_in(Job(), sources=sources or (sequence(),), folder="/out")


def test_frames_that_are_not_wanted_are_left_out() -> None:
    frames = (*range(1, 9), *range(20, 24))
    job = dropped(sequence(frames=frames, damaged=(3, 21)))
    assert job.sequences[0].to_rerender == (3, *range(9, 20), 21)
    job = edits.set_range(job, source="s1", wanted=(1, 8))
    (source,) = job.sequences
    assert source.to_rerender == (3,)
    assert (source.range.first, source.range.last, source.count) == (1, 8, 8)
    assert source.files.count == 12  # none is gone
    assert job.reel.shots[0].last == 8
    everything = edits.set_range(job, source="s1", wanted=None)
    assert everything.reel.shots[0].last == 23
    assert everything.sequences[0].health is Health.DAMAGED


def test_of_several_sounds_the_one_of_the_frames_name_is_laid(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "f", "sh010.%04d.png")
    for name in ("sh010", "wild", "room"):
        write_tone(folder / f"{name}.wav", seconds=0.2)
    job = job_of(folder)
    assert [job.sound(laid.source).name for laid in job.reel.sounds] == ["sh010.wav"]
    (folder / "sh010.wav").unlink()
    assert job_of(folder).reel.sounds == ()


def test_a_trimmed_shot_keeps_its_trim_when_the_range_changes() -> None:
    job = edits.trim_tail(dropped(), shot="a1", last=5)
    assert edits.set_range(job, source="s1", wanted=(2, 8)).reel.shots[0].last == 5


def test_a_range_that_runs_backwards_is_refused() -> None:
    with pytest.raises(JobError, match="backwards"):
        edits.set_range(dropped(), source="s1", wanted=(8, 1))


def test_sources_alike_are_read_alike_at_once() -> None:
    one, two = sequence("s1"), sequence("s2")
    other = sequence("s3")
    other = change(other, found=change(other.found, format="EXR"))
    written = sequence("s4", read=reading(Fraction(25), Origin.WRITTEN))
    job = dropped(one, two, other, written)
    job = edits.change_reading(job, source="s1", rate=Fraction(12), alpha=Alpha.STRAIGHT)
    job = edits.read_alike(job, like="s1")
    first, second, third, fourth = job.sequences
    assert (second.reading.rate.value, second.reading.alpha.value) == (
        Fraction(12),
        Alpha.STRAIGHT,
    )
    assert second.reading.rate.origin is Origin.SAID
    assert third.reading == other.reading
    assert (fourth.reading.rate.value, fourth.reading.alpha.value) == (
        Fraction(25),
        Alpha.STRAIGHT,
    )
    assert first.reading.range is second.reading.range is None


def test_a_habit_reaches_what_was_taken_for_granted_and_nothing_else() -> None:
    guessed = sequence("s1", read=reading(Fraction(24), Origin.GUESS))
    said = sequence("s2", read=reading(Fraction(30), Origin.SAID))
    job = edits.set_habit(dropped(guessed, said), habit="rate", value=Fraction(12))
    assert job.habits.rate == 12
    assert [(one.reading.rate.value, one.reading.rate.origin) for one in job.sequences] == [
        (Fraction(12), Origin.HABIT),
        (Fraction(30), Origin.SAID),
    ]
    job = edits.set_habit(job, habit="stand_in", value=StandIn.HOLD)
    assert {one.reading.stand_in.value for one in job.sequences} == {StandIn.HOLD}
    job = edits.set_habit(job, habit="alpha", value=Alpha.PREMULTIPLIED)
    assert {one.reading.alpha.value for one in job.sequences} == {Alpha.NONE}


def test_the_pixel_shape_widens_what_is_shown(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "f", width=72, height=57)
    job = edits.change_reading(job_of(folder), source="s1", pixel_shape=Fraction(16, 15))
    assert job.reel_size == Size(width=77, height=57)
    made = recipe(job, 1)
    assert (made.width, made.height) == (77, 57)
    assert programme(job).timeline.length == 8


@pytest.mark.parametrize(
    ("text", "shape"), [("1", 1), ("16:15", Fraction(16, 15)), ("1,5", Fraction(3, 2)), (" 2 ", 2)]
)
def test_a_pixel_shape_is_read_as_people_write_it(text: str, shape: Fraction) -> None:
    assert parse_pixel_shape(text) == shape


@pytest.mark.parametrize("text", ["", "wide", "1:0", "4:3:2"])
def test_what_is_no_pixel_shape_is_said(text: str) -> None:
    with pytest.raises(ValueError, match="not a pixel shape"):
        parse_pixel_shape(text)


def test_a_pixel_shape_out_of_bounds_is_refused() -> None:
    with pytest.raises(JobError, match="outside"):
        edits.change_reading(dropped(), source="s1", pixel_shape=Fraction(9))


def test_every_reading_of_colour_has_a_name_of_its_own() -> None:
    names = [colour_words(*choice) for choice in colour_choices()]
    of_displays = ["BT.2020 display", "PQ P3"]  # in primaries that are not usual for them
    assert len(set(names)) == len(names) == len(PRIMARIES) + len(Colour) - 2 + len(of_displays)
    assert set(of_displays) < set(names)
    assert colour_words(Colour.LINEAR, BT709) == "scene-linear BT.709"
    own = (0.5, 0.3, 0.3, 0.6, 0.1, 0.1, 0.3, 0.3)
    assert colour_words(Colour.LINEAR, own) == "scene-linear own primaries"
