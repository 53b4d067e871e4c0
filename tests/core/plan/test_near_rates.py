"""23.976 on 24 and their like: nothing twice, nothing dropped, and conformed with the sound."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from tests.making import reading, sequence, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import JobError
from waxseal.core.job.edits import (
    add_sources,
    change_timing,
    conform,
    lay_sound,
    near_rate,
    put_on_reel,
    set_reel_rate,
)
from waxseal.core.job.model import Conversion, Job
from waxseal.core.plan.sound_pieces import sound_plan
from waxseal.core.plan.timeline import Timeline, timeline_of
from waxseal.core.sound.mix import mix_blocks
from waxseal.core.timing.ranges import FrameRange

FILM = Fraction(24_000, 1001)


def job_of(count: int, rate: Fraction, reel: Fraction) -> Job:
    read = reading(rate=rate)
    source = sequence(frames=tuple(range(1, count + 1)), read=read)
    return set_reel_rate(
        put_on_reel(add_sources(Job(), sources=[source]), sources=["s1"]), rate=reel
    )


def shown(timeline: Timeline) -> list[int]:
    part = timeline.shots[0]
    return [part.ask(n).frame for n in range(1, timeline.length + 1)]


@pytest.mark.parametrize("conversion", list(Conversion))
def test_every_frame_is_shown_once(conversion: Conversion) -> None:
    job = change_timing(job_of(48, FILM, Fraction(24)), of="a1", conversion=conversion)
    timeline = timeline_of(job)
    assert shown(timeline) == list(range(1, 49))
    assert all(timeline.shots[0].ask(n).following is None for n in range(1, 49)), "none is mixed"


def test_what_is_needed_is_what_is_shown_and_where_it_is_shown() -> None:
    timeline = timeline_of(job_of(3000, FILM, Fraction(24)))
    part = timeline.shots[0]
    frames = shown(timeline)
    assert part.frames_asked(1, timeline.length) == set(frames) == set(range(1, 3001))
    for frame in (1, 2, 500, 501, 502, 503, 2999, 3000):
        assert timeline.where("s1", frame) == frames.index(frame) + 1


def test_conforming_reads_at_the_rate_of_the_reel() -> None:
    job = job_of(3000, FILM, Fraction(24))
    assert near_rate(job, "s1") == 24
    conformed = conform(job, source="s1")
    assert shown(timeline_of(conformed)) == list(range(1, 3001))
    assert near_rate(conformed, "s1") is None
    with pytest.raises(JobError, match="another rate than the reel, or the same"):
        conform(job_of(10, Fraction(12), Fraction(24)), source="s1")


def test_the_sound_that_belongs_to_the_frames_runs_along(tmp_path: Path) -> None:
    """A thousandth shorter, to the sample, and a thousandth higher."""
    tone = write_tone(tmp_path / "s1.wav", seconds=20)
    job = job_of(480, FILM, Fraction(24))
    job = plain = add_sources(job, sources=scan([tone]).sources)
    sound = job.sounds[0]
    job = lay_sound(conform(job, source="s1"), source=sound.id)
    heard = job.sound(sound.id)
    assert heard.speed == Fraction(1001, 1000)
    assert heard.seconds == sound.seconds * 1000 / 1001
    plan = sound_plan(timeline_of(job), FrameRange(1, 480))
    assert plan is not None
    assert any("0.10% faster" in note for note in plan.notes)
    samples = np.concatenate(list(mix_blocks(plan, 48_000)))[:, 0]
    crossings = np.flatnonzero(np.diff(np.signbit(samples[4800:-9600])))
    unconformed = lay_sound(plain, source=sound.id)
    before = sound_plan(timeline_of(unconformed), FrameRange(1, 480))
    assert before is not None
    whole = np.concatenate(list(mix_blocks(before, 48_000)))[:, 0]
    others = np.flatnonzero(np.diff(np.signbit(whole[4800:-9600])))
    assert len(crossings) / len(others) == pytest.approx(1.001, abs=2e-4)
