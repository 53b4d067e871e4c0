"""Whatever is done to shots with bound sounds, each frame keeps its sample, or it is said.

The sound of each shot counts its own samples, so that what is heard says where it comes from.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from functools import partial

import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.making import sequence
from waxseal.core.errors import WaxSealError
from waxseal.core.job.edits import (
    add_sources,
    change_timing,
    move_shot,
    put_on_reel,
    remove_shot,
    trim_head,
    trim_tail,
)
from waxseal.core.job.model import Job, change
from waxseal.core.plan.sound_pieces import sound_plan
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.sound.mix import Mixer
from waxseal.core.sound.sound_files import probe_sound
from waxseal.core.timing.ranges import FrameRange

RATE, FPS, FRAMES, SHOTS = 48_000, 24, 24, 3
EACH = RATE // FPS
STEP = float(2**-22)  # a sample's number times this is its value, exact in 32 bits

Act = Callable[[Job], Job]


@pytest.fixture(scope="module")
def job(tmp_path_factory: pytest.TempPathFactory) -> Job:
    """Three shots of a second; the sound of shot n begins at n hundred thousand."""
    folder = tmp_path_factory.mktemp("bound")
    sources: list[object] = []
    for number in range(1, SHOTS + 1):
        values = (np.arange(RATE) + number * 100_000) * STEP
        path = folder / f"sh{number}.wav"
        soundfile.write(path, values.astype(np.float32), RATE, subtype="FLOAT")
        frames = sequence(f"s{number}", frames=tuple(range(1, FRAMES + 1)), folder=str(folder))
        sources += [change(frames, name=f"sh{number}"), probe_sound(path)]
    made = add_sources(Job(), sources=sources)  # type: ignore[arg-type]
    return put_on_reel(made, sources=[one.id for one in made.sequences])


SHOT = st.integers(1, SHOTS).map(lambda n: f"a{n}")
FRAME = st.integers(1, FRAMES)
ACTS = st.one_of(
    st.builds(lambda shot, n: partial(trim_head, shot=shot, first=n), SHOT, FRAME),
    st.builds(lambda shot, n: partial(trim_tail, shot=shot, last=n), SHOT, FRAME),
    st.builds(lambda shot, n: partial(move_shot, shot=shot, to=n), SHOT, st.integers(0, 2)),
    st.builds(lambda shot: partial(remove_shot, shot=shot), SHOT),
    st.builds(lambda shot, on: partial(change_timing, of=shot, backwards=on), SHOT, st.booleans()),
    st.builds(lambda shot, on: partial(change_timing, of=shot, to_and_fro=on), SHOT, st.booleans()),
    st.builds(lambda shot, n: partial(change_timing, of=shot, times=n), SHOT, st.integers(1, 3)),
    st.builds(
        lambda shot, n, m: partial(change_timing, of=shot, holds=((n, m),)),
        *(SHOT, FRAME, st.integers(1, 4)),
    ),
    st.builds(
        lambda shot, n, m: partial(change_timing, of=shot, without=((min(n, m), max(n, m)),)),
        *(SHOT, FRAME, FRAME),
    ),
)


@settings(max_examples=150, deadline=None)
@given(acts=st.lists(ACTS, max_size=8))
def test_each_frame_keeps_its_sample(job: Job, acts: list[Act]) -> None:
    for act in acts:
        try:
            job = act(job)
        except WaxSealError:
            continue  # the shot is gone, or every frame of it would be left out
    if not job.reel.shots:
        return
    timeline = timeline_of(job)
    plan = sound_plan(timeline, FrameRange(1, timeline.length))
    assert plan is not None
    mixer = Mixer(plan)
    heard = mixer.read(0, plan.count)[:, 0]
    mixer.close()
    is_said = any("held" in note for note in plan.notes)
    for part in timeline.shots:
        source = int(part.sequence.name.removeprefix("sh")) * 100_000
        for n in part.span:
            samples = heard[(n - 1) * EACH : n * EACH]
            first = source + (part.ask(n).frame - 1) * EACH
            onwards = (first + np.arange(EACH)) * STEP
            if np.array_equal(samples, onwards.astype(np.float32)):
                continue
            if np.array_equal(samples, onwards[::-1].astype(np.float32)):
                assert part.laid.timing.backwards or part.laid.timing.to_and_fro
                continue
            is_silent = not samples.any()
            assert is_silent, f"frame {n} shows {part.ask(n).frame}, and another is heard"
            assert is_said, f"frame {n} is silent, and nothing says so"


def test_the_speed_of_a_second_is_exact() -> None:
    """What the test above rests on: a frame is a whole number of samples."""
    assert Fraction(RATE, FPS) == EACH
