"""A sound that came with frames follows them in every edit: clicks are where their frames are."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray

from tests.making import write_sequence
from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import SoundError
from waxseal.core.job.edits import (
    add_sources,
    bind_sound,
    change_join,
    change_overlay,
    change_reading,
    change_sound,
    change_timing,
    conform,
    lay_over,
    lay_sound,
    lift_sound,
    move_shot,
    remove_shot,
    set_length,
    set_reel_rate,
    take_in,
    trim_head,
    trim_tail,
)
from waxseal.core.job.model import Job, JoinKind, Order, Retimed, SoundFade
from waxseal.core.plan.sound_pieces import sound_plan
from waxseal.core.plan.strayed_sounds import strayed_sounds
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.sound.mix import mix_blocks
from waxseal.core.timing.ranges import FrameRange

RATE = 48_000
LOUD = 0.9


def write_clicks(path: Path, at: Iterable[float], seconds: float, rate: int = RATE) -> Path:
    """A sound that is silent but for single samples, at these seconds."""
    samples = np.zeros((round(seconds * rate), 2), np.float32)
    for second in at:
        samples[round(second * rate)] = LOUD
    path.parent.mkdir(parents=True, exist_ok=True)
    soundfile.write(path, samples, rate, subtype="FLOAT")
    return path


def frames_with_clicks(folder: Path, name: str, at: Iterable[float], frames: int = 30) -> Path:
    """Frames at 30 a second, numbered from 1001, and the sound of their name."""
    write_sequence(folder, f"{name}.%04d.png", frames=range(1001, 1001 + frames))
    write_clicks(folder / f"{name}.wav", at, frames / 30)
    return folder


def job_with(*folders: Path) -> Job:
    job = take_in(Job(), sources=scan(folders).sources, folder="/nowhere")
    for source in job.sequences:
        if source.kind == "sequence":
            job = change_reading(job, source=source.id, rate=Fraction(30))
    return job


def mixed(job: Job, first: int = 1, last: int | None = None) -> NDArray[np.float32]:
    timeline = timeline_of(job)
    plan = sound_plan(timeline, FrameRange(first, last or timeline.length))
    assert plan is not None
    return np.concatenate(list(mix_blocks(plan, 4096)))


def clicks(job: Job, first: int = 1, last: int | None = None) -> list[float]:
    """The seconds at which something is heard, each once."""
    heard = np.flatnonzero(np.abs(mixed(job, first, last)).max(axis=1) > LOUD / 3)
    starts = [at for n, at in enumerate(heard) if n == 0 or at - heard[n - 1] > 100]
    return [at / RATE for at in starts]


def notes(job: Job) -> tuple[str, ...]:
    timeline = timeline_of(job)
    plan = sound_plan(timeline, FrameRange(1, timeline.length))
    return plan.notes if plan is not None else ()


def near(times: Sequence[float], samples: float = 1) -> object:
    return pytest.approx(times, abs=samples / RATE)


@pytest.fixture
def shot(tmp_path: Path) -> Job:
    """A shot of a second, at 30, with clicks at 0.5 and 0.8 s."""
    return job_with(frames_with_clicks(tmp_path / "sh010", "sh010", [0.5, 0.8]))


def test_what_arrives_together_is_bound(shot: Job) -> None:
    (laid,) = shot.reel.sounds
    assert laid.bound
    assert laid.shot == shot.reel.shots[0].id
    assert clicks(shot) == near([0.5, 0.8])
    assert notes(shot) == ()


def test_trimming_trims_the_sound(shot: Job) -> None:
    trimmed = trim_head(shot, shot="a1", first=1011)
    assert clicks(trimmed) == near([0.5 - 1 / 3, 0.8 - 1 / 3])
    assert notes(trimmed) == ()
    cut = trim_tail(trimmed, shot="a1", last=1024)  # 0.8 s is where frame 1025 begins
    assert clicks(cut) == near([0.5 - 1 / 3])
    assert clicks(trim_tail(shot, shot="a1", last=1025)) == near([0.5, 0.8])


def test_a_range_of_the_reel_has_its_own_sound(shot: Job) -> None:
    assert clicks(shot, 16, 30) == near([0.0, 0.3])
    assert clicks(shot, 16, 24) == near([0.0])


def test_a_title_before_it_moves_both(shot: Job, tmp_path: Path) -> None:
    write_sequence(tmp_path / "title", "title.%04d.png", frames=range(1, 61))
    job = take_in(shot, sources=scan([tmp_path / "title"]).sources, folder="/nowhere")
    job = change_reading(job, source=job.sequences[-1].id, rate=Fraction(30))
    assert clicks(job) == near([0.5, 0.8])
    job = move_shot(job, shot="a2", to=0)
    assert clicks(job) == near([2.5, 2.8])


def test_shots_are_moved_with_their_sounds_and_taken_off_with_them(tmp_path: Path) -> None:
    job = job_with(
        frames_with_clicks(tmp_path / "a", "sh010", [0.5]),
        frames_with_clicks(tmp_path / "b", "sh020", [0.2]),
    )
    assert clicks(job) == near([0.5, 1.2])
    assert clicks(move_shot(job, shot="a2", to=0)) == near([0.2, 1.5])
    left = remove_shot(job, shot="a1")
    assert clicks(left) == near([0.2])
    assert [one.shot for one in left.reel.sounds] == ["a2"]


def test_reversed_frames_turn_their_sound(shot: Job) -> None:
    """The frame that a click begins with is shown at 0.5 s − 1/30 s; its click ends it."""
    turned = change_timing(shot, of="a1", backwards=True)
    last = 1 / RATE  # a sample turned begins where it ended
    assert clicks(turned) == near([0.2 - last, 0.5 - last])
    assert notes(turned) == ("The sound is heard backwards, as its frames are shown.",)
    silent = change_sound(turned, sound="m1", turned=False)
    assert np.abs(mixed(silent)).max() == 0
    assert notes(silent) == ("The sound is left out where its frames run backwards.",)
    read = change_reading(shot, source=shot.sequences[0].id, order=Order.REVERSED)
    assert clicks(read) == clicks(turned)


def test_to_and_fro_again_and_pieces_left_out(shot: Job) -> None:
    assert clicks(change_timing(shot, of="a1", times=2)) == near([0.5, 0.8, 1.5, 1.8])
    fro = change_timing(shot, of="a1", to_and_fro=True)  # 30 frames on, 28 back
    last = 1 / RATE
    back = [1 + (29 / 30 - at) - last for at in (0.8, 0.5)]
    assert clicks(fro) == near([0.5, 0.8, *back])
    out = change_timing(shot, of="a1", without=((1004, 1006), (1020, 1021)))
    assert clicks(out) == near([0.5 - 3 / 30, 0.8 - 5 / 30])


def test_a_held_frame_is_silent_and_what_follows_comes_later(shot: Job) -> None:
    held = change_timing(shot, of="a1", holds=((1016, 7),))  # the frame of the first click
    assert clicks(held) == near([0.5, 0.8 + 6 / 30])
    assert "The sound is silent while a frame is held." in notes(held)


def test_another_speed_is_followed_with_the_pitch_kept_or_not_at_all(shot: Job) -> None:
    slow = change_timing(shot, of="a1", speed=Fraction(1, 2))
    assert clicks(slow) == near([1.0, 1.6], samples=400)  # a tenth of a frame and more is heard
    said = "The sound runs at 50 % of its speed, as its frames do, its pitch kept."
    assert notes(slow) == (said,)
    plainly = change_sound(slow, sound="m1", retimed=Retimed.SPEED)
    assert clicks(plainly) == near([1.0, 1.6], samples=30)  # a sample becomes a filter's answer
    out = change_sound(slow, sound="m1", retimed=Retimed.OUT)
    assert np.abs(mixed(out)).max() == 0
    assert notes(out) == ("The sound is left out: its frames are shown at 50 % of their speed.",)


def test_every_frame_held_twice_is_half_the_speed(shot: Job) -> None:
    twos = change_timing(shot, of="a1", holds=tuple((n, 2) for n in range(1001, 1031)))
    assert clicks(twos) == near([1.0, 1.6], samples=400)


def test_another_rate_of_the_reel_leaves_it_alone(shot: Job) -> None:
    for rate in (Fraction(24), Fraction(60), Fraction(30_000, 1001)):
        assert clicks(set_reel_rate(shot, rate=rate)) == near([0.5, 0.8])


def test_conformed_frames_take_their_sound_along(shot: Job) -> None:
    job = conform(set_reel_rate(shot, rate=Fraction(30_000, 1001)), source="s1")
    assert clicks(job) == near([0.5 * 1.001, 0.8 * 1.001], samples=30)


def test_a_dissolve_crosses_both_sounds_at_equal_power(tmp_path: Path) -> None:
    for name in ("sh010", "sh020"):
        write_sequence(tmp_path / name, f"{name}.%04d.png", frames=range(1, 31))
        soundfile.write(tmp_path / name / f"{name}.wav", np.full((48_000, 2), 0.5), RATE)
    job = job_with(tmp_path / "sh010", tmp_path / "sh020")
    job = change_join(job, shot="a2", kind=JoinKind.DISSOLVE, length=10)
    first, second = (lift_sound(job, sound=one) for one in ("m2", "m1"))
    alone = [mixed(one)[:, 0] for one in (first, second)]
    overlap = slice(20 * 1600, 30 * 1600)  # frames 21 to 30
    power = sum(one[overlap].astype(float) ** 2 for one in alone)
    np.testing.assert_allclose(power, 0.25, rtol=1e-3)
    assert np.abs(alone[0][30 * 1600 :]).max() == 0
    assert np.abs(alone[1][: 20 * 1600]).max() == 0
    np.testing.assert_allclose(mixed(job)[:, 0], alone[0] + alone[1], atol=1e-6)


def test_an_overlay_brings_its_sound(shot: Job, tmp_path: Path) -> None:
    folder = frames_with_clicks(tmp_path / "logo", "logo", [0.1], frames=15)
    job = add_sources(shot, sources=scan([folder]).sources)
    job = change_reading(job, source=job.sequences[-1].id, rate=Fraction(30))
    job = lay_over(job, source=job.sequences[-1].id, at=4)
    assert clicks(job) == near([0.2, 0.5, 0.8])
    later = change_overlay(job, overlay="o1", at=10)
    assert clicks(later) == near([0.4, 0.5, 0.8])


def test_a_still_has_no_sound_of_its_own(tmp_path: Path) -> None:
    write_sequence(tmp_path, "title.%04d.png", frames=range(1, 2))
    write_clicks(tmp_path / "music.wav", [0.5], 1.0)
    job = take_in(Job(), sources=scan([tmp_path]).sources, folder="/nowhere")
    assert [one.bound for one in job.reel.sounds] == [False]
    assert clicks(set_length(job, of="a1", frames=24, count=1)) == near([0.5])


def test_a_free_sound_stays_in_time_or_goes_with_a_shot(shot: Job, tmp_path: Path) -> None:
    job = add_sources(shot, sources=scan([write_clicks(tmp_path / "x.wav", [0.1], 0.2)]).sources)
    source = job.sounds[-1].id
    at = Fraction(4) + Fraction(1, 1600)  # a sample after frame 4 begins
    free = lay_sound(lift_sound(job, sound="m1"), source=source, at=at)
    assert clicks(free) == near([0.2 + 1 / RATE], samples=0.1)
    trimmed = trim_head(free, shot="a1", first=1011)
    assert clicks(trimmed) == clicks(free)
    loops = change_sound(free, sound="m1", loops=True)
    assert clicks(loops) == near([0.2 + n * 0.2 + 1 / RATE for n in range(4)], samples=0.1)
    tied = change_sound(free, sound="m1", shot="a1", at=Fraction(4), tail=Fraction(1, 20))
    assert clicks(tied) == near([0.2])
    assert not remove_shot(tied, shot="a1").reel.sounds


def test_an_old_job_opens_as_it_was_and_its_sound_can_be_bound(shot: Job) -> None:
    """Once a sound lay from the reel's start, whatever its frames did."""
    old = Job.model_validate(
        shot.model_dump() | {"reel": shot.reel.model_dump() | {"sounds": [{"source": "s2"}]}}
    )
    assert old.reel.sounds[0].is_free
    assert not list(strayed_sounds(timeline_of(old)))
    trimmed = trim_head(old, shot="a1", first=1011)
    assert clicks(trimmed) == near([0.5])  # the reel ends before the other
    (strayed,) = strayed_sounds(timeline_of(trimmed))
    assert strayed.late == 10
    assert strayed.words.startswith("is heard 10 frames after its picture, sh010")
    assert clicks(bind_sound(trimmed, sound="m1")) == near([0.5 - 1 / 3, 0.8 - 1 / 3])
    said = change_sound(trimmed, sound="m1", placed=True)
    assert not list(strayed_sounds(timeline_of(said)))
    turned = change_timing(old, of="a1", backwards=True)
    assert [one.late for one in strayed_sounds(timeline_of(turned))] == [None]


def test_gain_pan_and_fades(shot: Job) -> None:
    soft = change_sound(shot, sound="m1", gain=-6.0)
    assert np.abs(mixed(soft)).max() == pytest.approx(LOUD * 10 ** (-6 / 20), rel=1e-5)
    left = np.abs(mixed(change_sound(shot, sound="m1", pan=-1.0))).max(axis=0)
    assert left == pytest.approx([LOUD, 0], abs=1e-6)
    fade = SoundFade(seconds=Fraction(1))
    faded = mixed(change_sound(shot, sound="m1", fade_in=fade))
    at = round(0.5 * RATE)
    assert faded[at, 0] == pytest.approx(LOUD * np.sin(np.pi / 4), rel=1e-3)


def test_a_sound_too_short_to_loop_is_refused_and_not_cut_off(shot: Job, tmp_path: Path) -> None:
    path = write_clicks(tmp_path / "tick.wav", [0.0], 2 / RATE)
    job = add_sources(shot, sources=scan([path]).sources)
    job = lay_sound(job, source=job.sounds[-1].id, loops=True)
    job = change_timing(job, of="a1", times=20)
    with pytest.raises(SoundError, match="too short"):
        mixed(job)
