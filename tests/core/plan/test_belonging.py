"""What belongs to a picture is of the same moment: its mattes, its depth, its passes."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

import pytest

from tests.making import sequence
from waxseal.core.deliver.match.time_rows import apart_sentence
from waxseal.core.job.corrections import Exposure, Haze
from waxseal.core.job.edits import (
    add_sources,
    change_reading,
    change_timing,
    keep_inside,
    make_stack,
    put_on_reel,
    set_correction,
    set_reel_rate,
)
from waxseal.core.job.finish_settings import Inside
from waxseal.core.job.model import Conversion, Job, Sequence, Stack, StackPass, StandIn, change
from waxseal.core.plan.pass_frames import helper_number
from waxseal.core.plan.programme import programme, recipe
from waxseal.core.plan.recipe import Beside

Way = Callable[[Job], Job]


def by_matte(job: Job) -> Job:
    job = set_correction(job, of="a1", correction=Exposure(stops=1))
    return keep_inside(job, of="a1", inside=Inside(source="s2"))


def by_haze(job: Job) -> Job:
    return set_correction(job, of="a1", correction=Haze(depth="s2"))


WAYS = pytest.mark.parametrize("way", [by_matte, by_haze])


def shot_and(helper: Sequence, **shot: tuple[int, ...]) -> Job:
    job = add_sources(Job(), sources=[sequence(**shot), helper])  # type: ignore[arg-type]
    return put_on_reel(job, sources=["s1"])


def beside(job: Job, frame: int) -> Beside:
    layer = recipe(job, frame).shot
    assert layer is not None
    if layer.finish.inside is not None:
        return layer.finish.inside.matte
    (found,) = (one for _, one in layer.finish.helpers)
    return found


@WAYS
def test_the_frame_that_stands_in_brings_what_belongs_to_it(way: Way) -> None:
    job = way(shot_and(sequence(), frames=(1, 2, 3, 4, 5, 7, 8)))
    job = change_reading(job, source="s1", stand_in=StandIn.HOLD)
    assert [beside(job, frame).pick.frame for frame in (5, 6, 7)] == [5, 5, 7]


@WAYS
def test_what_is_not_shown_is_not_asked_of_it(way: Way) -> None:
    """The matte of a frame that something stands in for may be missing, too."""
    there = (1, 2, 3, 4, 5, 7, 8)
    job = way(shot_and(sequence(frames=there), frames=there))
    job = change_reading(job, source="s1", stand_in=StandIn.HOLD)
    assert [one.sequence.id for one in programme(job).missing()] == ["s1"]


@WAYS
@pytest.mark.parametrize("conversion", [Conversion.BLEND, Conversion.MOTION])
def test_it_is_between_two_frames_where_the_picture_is(way: Way, conversion: Conversion) -> None:
    job = set_reel_rate(way(shot_and(sequence())), rate=Fraction(48))
    job = change_timing(job, of="a1", conversion=conversion)
    layer, found = recipe(job, 2).shot, beside(job, 2)
    assert layer is not None
    assert layer.between is not None
    assert found.following is not None
    assert (found.pick.frame, found.following.frame, found.share) == (1, 2, Fraction(1, 2))
    pictures = (layer.shown, layer.between.following)
    assert found.along == (pictures if conversion is Conversion.MOTION else None)


@WAYS
def test_a_tail_that_is_missing_is_missing(way: Way) -> None:
    job = way(shot_and(sequence(frames=(1, 2, 3, 4, 5, 6))))
    (missing,) = programme(job).missing()
    assert (missing.sequence.id, set(missing.frames), missing.is_stood_in) == ("s2", {7, 8}, False)
    held = change_reading(job, source="s2", stand_in=StandIn.HOLD)
    (missing,) = programme(held).missing()
    assert missing.is_stood_in
    assert beside(held, 8).pick.frame == 6


@WAYS
def test_numbers_that_do_not_meet_are_said(way: Way) -> None:
    job = way(shot_and(sequence(frames=tuple(range(1001, 1009)))))
    (missing,) = programme(job).missing()
    assert missing.is_apart
    assert apart_sentence(missing) == (
        "s1 has 1001-1008, and 1-8 are asked for: none of its frames belongs to the picture. "
        "Render it with the picture's numbers, or choose a stand-in."
    )


@WAYS
def test_a_still_belongs_to_every_frame(way: Way) -> None:
    still = change(sequence(frames=(77,)), kind="still")
    job = way(shot_and(still))
    assert {beside(job, frame).pick.frame for frame in range(1, 9)} == {77}
    assert programme(job).missing() == ()


@pytest.mark.parametrize(("helper", "of"), [("movie", "sequence"), ("sequence", "movie")])
def test_the_frames_of_a_movie_are_counted(helper: str, of: str) -> None:
    one = change(sequence(frames=(1, 2, 3)), kind=helper)
    other = change(sequence(frames=(1001, 1002, 1003)), kind=of)
    assert helper_number(one, other, 1002) == 2


@WAYS
def test_of_passes_it_goes_with_those_that_are_there(way: Way) -> None:
    whole, holed = tuple(range(1, 9)), (1, 2, 3, 4, 5, 7, 8)
    sources = [sequence(frames=holed), sequence(), sequence(frames=whole)]
    job = put_on_reel(add_sources(Job(), sources=sources), sources=["s1"])
    passes = (StackPass(source="s1"), StackPass(source="s3"))
    job = way(make_stack(job, source="s1", stack=Stack(passes=passes)))
    job = change_reading(job, source="s1", stand_in=StandIn.HOLD)
    assert beside(job, 6).pick.frame == 6
    alone = make_stack(job, source="s1", stack=Stack(passes=passes[:1]))
    assert beside(alone, 6).pick.frame == 5


def test_nothing_belongs_to_a_picture_that_is_not_shown() -> None:
    job = by_matte(shot_and(sequence(frames=(1, 2)), frames=(1, 2, 4)))
    job = change_reading(job, source="s1", stand_in=StandIn.BLACK)
    missing = {one.sequence.id: set(one.frames) for one in programme(job).missing()}
    assert missing == {"s1": {3}, "s2": {4}}
