"""Finishes at single frames, timings on the reel, and what depends on what."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest

from tests.making import reading, sequence
from waxseal.core.errors import JobError
from waxseal.core.job.corrections import (
    Curve,
    Exposure,
    Fade,
    Grain,
    Haze,
    Lut,
    Moment,
    Opacity,
    Text,
    Vignette,
)
from waxseal.core.job.edits import (
    REEL,
    add_sources,
    add_text,
    change_overlay,
    change_timing,
    copy_finish,
    finish_of,
    keep_inside,
    lay_over,
    make_stack,
    move_overlay,
    put_behind,
    put_on_reel,
    remove_correction,
    remove_overlay,
    remove_source,
    reset_finish,
    set_correction,
    set_length,
    set_reel_rate,
    switch_finish,
)
from waxseal.core.job.finish_settings import Finish, Inside
from waxseal.core.job.job_file import read_job, write_job
from waxseal.core.job.model import Conversion, Job, Stack, StackPass
from waxseal.core.plan.programme import programme, recipe
from waxseal.core.plan.recipe_builder import finish_at


def moment(at: int, length: int = 10, **more: object) -> Moment:
    return Moment(at, length, at + 1, Fraction(24), **more)  # type: ignore[arg-type]


def two_sources() -> Job:
    job = add_sources(Job(), sources=[sequence(), sequence()])
    return put_on_reel(job, sources=["s1"])


def shown(job: Job) -> list[int]:
    reel = programme(job)
    return [reel.place(frame).frame for frame in range(1, reel.timeline.length + 1)]


@pytest.mark.parametrize(
    ("fade", "expected"),
    [
        (Fade(frames_in=4), [1.0, 0.75, 0.5, 0.25, 0, 0, 0, 0, 0, 0]),
        (Fade(frames_out=2), [0, 0, 0, 0, 0, 0, 0, 0, 0.5, 1.0]),
        (Fade(frames_in=2, curve=Curve.EASED), [1.0, 0.5, 0, 0, 0, 0, 0, 0, 0, 0]),
    ],
)
def test_how_much_a_fade_covers(fade: Fade, expected: list[float]) -> None:
    finish = Finish(corrections=(fade,))
    covered = [finish_at(finish, moment(at))[1].veiled for at in range(10)]
    assert covered == pytest.approx(expected)


def test_an_opacity_between_its_points() -> None:
    opacity = Opacity(points=((2, 0.0), (4, 1.0), (8, 0.5)))
    assert [opacity.value_at(at) for at in (0, 2, 3, 4, 6, 9)] == [0, 0, 0.5, 1, 0.75, 0.5]
    with pytest.raises(ValueError, match="in order"):
        Opacity(points=((2, 0.0), (2, 1.0)))


def test_fields_of_a_text_are_filled_and_other_braces_stay() -> None:
    words = "{name} {frame} {timecode} {reel frame}/{count} {date} {0} {job}"
    text = Text(words=words, date="May 3")
    there = moment(25, number=1026, count=96, name="sh010")
    ((done,), _) = finish_at(Finish(corrections=(text,)), there)
    assert isinstance(done, Text)
    assert done.words == "sh010 1026 00:00:01:01 26/96 May 3 {0} {job}"


def test_grain_has_another_seed_at_each_frame_of_the_reel() -> None:
    finish = Finish(corrections=(Grain(),))
    seeds = [finish_at(finish, moment(at))[0][0] for at in (0, 1, 0)]
    assert seeds[0] != seeds[1]
    assert seeds[0] == seeds[2]


def test_a_still_hold_keeps_its_key_unless_the_finish_moves() -> None:
    job = change_timing(two_sources(), of="a1", holds=((1, 3),))
    assert recipe(job, 1).key == recipe(job, 2).key
    faded = set_correction(job, of="a1", correction=Fade(frames_in=3))
    assert recipe(faded, 1).key != recipe(faded, 2).key


def test_corrections_are_set_replaced_switched_copied_and_taken_away() -> None:
    job = put_on_reel(two_sources(), sources=["s2"])
    job = set_correction(job, of="a1", correction=Vignette())
    job = set_correction(job, of="a1", correction=Exposure(stops=1))
    job = set_correction(job, of="a1", correction=Exposure(stops=2))
    assert [one.kind for one in job.shot("a1").finish.corrections] == ["exposure", "vignette"]
    job = copy_finish(job, of="a1", to=["a2", REEL])
    assert job.shot("a2").finish == job.reel.finish == job.shot("a1").finish
    job = switch_finish(job, of="a2", on=False)
    assert job.shot("a2").finish.working == ()
    job = remove_correction(job, of="a1", kind="exposure")
    assert finish_of(job, "a1").of("exposure") is None
    with pytest.raises(JobError, match="to take away"):
        remove_correction(job, of="a1", kind="exposure")
    assert finish_of(reset_finish(job, of=REEL), REEL) == Finish()


def test_texts_are_many_and_told_apart_by_their_number() -> None:
    job = two_sources()
    for words in ("one", "two"):
        job = add_text(job, of=REEL, text=Text(words=words))
    job = set_correction(job, of=REEL, correction=Text(words="three"), number=1)
    assert [one.words for one in job.reel.finish.corrections if isinstance(one, Text)] == [
        "one",
        "three",
    ]
    job = remove_correction(job, of=REEL, kind="text", number=0)
    assert [one.words for one in job.reel.finish.corrections if isinstance(one, Text)] == ["three"]


# ---- time --------------------------------------------------------------------------------------


def test_half_the_speed_shows_every_frame_twice() -> None:
    job = change_timing(two_sources(), of="a1", speed=Fraction(1, 2))
    assert shown(job) == [frame for frame in range(1, 9) for _ in (1, 2)]


def test_a_length_is_met_exactly() -> None:
    job = set_length(two_sources(), of="a1", frames=12, count=8)
    assert programme(job).timeline.length == 12
    assert job.shot("a1").timing.speed == Fraction(2, 3)
    assert shown(job) == [1, 1, 2, 3, 3, 4, 5, 5, 6, 7, 7, 8]


def test_blending_asks_for_both_frames_and_how_far_between_they_are() -> None:
    """12 on 24, by hand: every second reel frame lies half way."""
    job = add_sources(Job(), sources=[sequence(read=reading(Fraction(12)))])
    job = set_reel_rate(put_on_reel(job, sources=["s1"]), rate=Fraction(24))
    job = change_timing(job, of="a1", conversion=Conversion.BLEND)
    (part,) = programme(job).timeline.shots
    asked = [part.ask(n) for n in (1, 2, 3, 16)]
    between = [(one.frame, one.following, one.share) for one in asked]
    half = Fraction(1, 2)
    assert between == [(1, None, 0), (1, 2, half), (2, None, 0), (8, None, 0)]


def test_a_shot_of_which_nothing_is_left_is_said() -> None:
    with pytest.raises(JobError, match="left out"):
        change_timing(two_sources(), of="a1", without=((1, 8),))


def test_backwards_of_reversed_is_forward() -> None:
    from waxseal.core.job.edits import change_reading
    from waxseal.core.job.model import Order

    job = change_timing(two_sources(), of="a1", backwards=True)
    assert shown(job) == list(range(8, 0, -1))
    assert shown(change_reading(job, source="s1", order=Order.REVERSED)) == list(range(1, 9))


# ---- overlays and helpers ----------------------------------------------------------------------


def test_overlays_have_an_order_and_a_place() -> None:
    job = two_sources()
    job = lay_over(lay_over(job, source="s2", at=3), source="s2", at=1)
    assert [one.id for one in job.reel.overlays] == ["o1", "o2"]
    job = move_overlay(job, overlay="o2", to=0)
    assert [one.id for one in job.reel.overlays] == ["o2", "o1"]
    job = change_overlay(job, overlay="o1", length=2)
    reel = programme(job)
    assert [part.laid.id for part in reel.timeline.parts_at(4).overlays] == ["o2", "o1"]
    assert [part.laid.id for part in reel.timeline.parts_at(5).overlays] == ["o2"]
    assert [one.id for one in remove_overlay(job, overlay="o2").reel.overlays] == ["o1"]


def test_what_goes_out_of_the_in_tray_goes_out_of_everything() -> None:
    job = put_behind(lay_over(two_sources(), source="s2", at=1), source="s2")
    job = set_correction(job, of="a1", correction=Haze(depth="s2"))
    job = keep_inside(job, of="a1", inside=Inside(source="s2"))
    passes = (StackPass(source="s1"), StackPass(source="s2"))
    job = make_stack(job, source="s1", stack=Stack(passes=passes, beauty="s2"))
    gone = remove_source(job, source="s2")
    assert gone.reel.overlays == ()
    assert gone.reel.behind == ""
    assert gone.shot("a1").finish == Finish()
    assert gone.sequence("s1").stack == Stack(passes=passes[:1])


def test_a_job_names_no_helper_that_is_not_there() -> None:
    with pytest.raises(JobError, match="not in the in-tray"):
        set_correction(two_sources(), of="a1", correction=Haze(depth="s9"))


def test_a_job_with_all_of_it_is_written_and_read_again(tmp_path: Path) -> None:
    home = tmp_path
    job = lay_over(two_sources(), source="s2", at=2)
    job = set_correction(job, of="o1", correction=Lut(path=str(home / "look.cube")))
    job = change_timing(job, of="a1", speed=Fraction(3, 7), without=((2, 3),))
    text = write_job(job, home)
    assert '"path": "look.cube"' in text
    assert read_job(text.encode(), home) == job
