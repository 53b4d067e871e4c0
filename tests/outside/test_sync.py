"""Sound beside its picture in finished files, read back by the codecs' library alone.

Claps are laid with frames; after trims, joins, titles, re-timing and in ranges they have to be
where those frames are, to within a sample. A common practice, without a published source: EBU R 37
allows the sound to be 40 ms early and 60 ms late, which is what nobody sees.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray

from tests.making import write_movie, write_sequence
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.codecs import CODECS, Codec
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.run.each_shot import each_shot
from waxseal.core.job.edits import (
    change_delivery,
    change_join,
    change_reading,
    change_timing,
    move_shot,
    take_in,
    trim_head,
    trim_tail,
)
from waxseal.core.job.model import DeliveryState, Job, JoinKind, Size, change
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.progress import CancelToken, silent

RATE, FPS = 48_000, 24
NOISE = np.random.default_rng(3).uniform(-0.8, 0.8, 1200)
CLAP = (NOISE * np.exp(-np.arange(1200) / 200)).astype(np.float32)


def claps(at: list[float], seconds: float) -> NDArray[np.float32]:
    samples = np.zeros((round(seconds * RATE), 2), np.float32)
    for second in at:
        first = round(second * RATE)
        samples[first : first + len(CLAP)] += CLAP[: len(samples) - first, None]
    return samples


def time_of(frame: Any) -> Fraction:
    return Fraction(frame.pts * frame.time_base)


def heard(path: Path) -> NDArray[np.float32]:
    """The sound of a film in mono, from the moment at which its first picture is shown."""
    with av.open(str(path), "r") as film:
        shown = time_of(next(film.decode(video=0)))
    with av.open(str(path), "r") as film:
        parts, first = [], None
        mono = av.AudioResampler(format="fltp", layout="stereo", rate=RATE)
        for frame in film.decode(audio=0):
            if first is None:
                first = time_of(frame)
            parts += [one.to_ndarray()[0] for one in mono.resample(frame)]
    assert first is not None
    begins = round((first - shown) * RATE)
    samples = np.concatenate(parts)
    return samples[-begins:] if begins < 0 else np.concatenate([np.zeros(begins), samples])


def lag_of(samples: NDArray[Any], second: float) -> int:
    """By how many samples the clap is later than it should be."""
    around = 400
    first = round(second * RATE)
    padded = np.concatenate([np.zeros(around), samples, np.zeros(around + len(CLAP))])
    part = padded[first : first + 2 * around + len(CLAP)]
    answer = np.correlate(part, CLAP, "valid")
    assert answer.max() > 0.3 * float((CLAP**2).sum()), "there is a clap"
    return int(answer.argmax()) - around


def seal(job: Job, **fields: object) -> Path:
    job = change_delivery(job, delivery=job.deliveries[0].id, **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return path_of(job.deliveries[0])


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A title, frames with the sound of their name, and a movie with its own."""
    there = tmp_path_factory.mktemp("sync")
    write_sequence(there, "title.%04d.png", frames=range(1, 25), width=320, height=180)
    write_sequence(there, "sh010.%04d.png", frames=range(1001, 1049), width=320, height=180)
    soundfile.write(there / "sh010.wav", claps([1.0, 1.75], 2.0), RATE, subtype="FLOAT")
    write_movie(there / "live.mov", codec="libx264", count=48)
    with_sound(there / "live.mov", claps([0.75, 1.5], 2.0))
    return there


def with_sound(path: Path, samples: NDArray[np.float32]) -> None:
    """Put a sound of 16 bits beside the pictures of a movie."""
    made = path.with_name("made.mov")
    with av.open(str(path), "r") as silent_one, av.open(str(made), "w") as film:
        shown = film.add_stream_from_template(silent_one.streams.video[0])
        stream: Any = film.add_stream("pcm_s16le", rate=RATE, layout="stereo")
        for packet in silent_one.demux(video=0):
            if packet.dts is not None:
                packet.stream = shown
                film.mux(packet)
        whole = np.round(np.clip(samples, -1, 1) * 32767).astype(np.int16)
        frame = av.AudioFrame.from_ndarray(whole.reshape(1, -1), format="s16", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = RATE, 0, Fraction(1, RATE)
        film.mux(stream.encode(frame))
        film.mux(stream.encode(None))
    made.replace(path)


@pytest.fixture
def job(folder: Path, tmp_path: Path) -> Job:
    """Title, frames without their first ten, and the movie without its first six."""
    job = take_in(Job(), sources=scan([folder]).sources, folder=str(tmp_path))
    order = [job.sequence(shot.source).name for shot in job.reel.shots]
    for to, name in enumerate(("title", "sh010", "live")):
        job = move_shot(job, shot=job.reel.shots[order.index(name)].id, to=to)
        order = [job.sequence(shot.source).name for shot in job.reel.shots]
    for shot in job.reel.shots:
        job = change_reading(job, source=shot.source, rate=Fraction(FPS))
    _, frames, movie = job.reel.shots
    job = trim_head(job, shot=frames.id, first=1011)
    job = trim_head(job, shot=movie.id, first=7)
    return change_delivery(job, delivery="d1", size=Size(width=128, height=72))


# The title lasts a second, the frames 38/24 s; what is trimmed comes off what was laid.
AFTER = 1.0 + 38 / FPS
LAID = [2.0 - 10 / FPS, 2.75 - 10 / FPS, AFTER + 0.5, AFTER + 1.25]


def carrier(container: str) -> Codec:
    """A codec that a container carries."""
    return next(one for one in CODECS.values() if container in one.containers)


CARRIED = [
    pytest.param(one.name, sound.name, id=f"{one.name}-{sound.name}")
    for one in CONTAINERS.values()
    for sound in one.sounds
    if not one.is_folder
]


@pytest.mark.parametrize(("container", "sound"), CARRIED)
def test_claps_are_where_they_were_laid(job: Job, container: str, sound: str) -> None:
    codec = carrier(container)
    path = seal(
        job, codec=codec.name, container=container, sound_codec=sound, space=codec.usual_space
    )
    samples = heard(path)
    assert [lag_of(samples, second) for second in LAID] == pytest.approx([0] * 4, abs=1)


def test_a_range_and_every_shot_as_its_own_file(job: Job) -> None:
    part = heard(seal(job, name="part", range=(37, 62)))  # from 1.5 s of the reel on
    assert [lag_of(part, second - 1.5) for second in LAID[:2]] == pytest.approx([0, 0], abs=1)
    own = []
    for one in each_shot(timeline_of(job), job.deliveries[0]):
        alone = change(job, deliveries=(one,))
        own.append(heard(seal(alone)) if "title" not in one.name else None)
    frames, movie = own[1], own[2]
    assert frames is not None
    assert movie is not None
    expected = [1.0 - 10 / FPS, 1.75 - 10 / FPS]
    assert [lag_of(frames, one) for one in expected] == pytest.approx([0, 0], abs=1)
    assert [lag_of(movie, one) for one in (0.5, 1.25)] == pytest.approx([0, 0], abs=1)


def test_joins_turns_and_other_rates(job: Job) -> None:
    _, frames, movie = job.reel.shots
    joined = change_join(job, shot=frames.id, kind=JoinKind.DISSOLVE, length=6)
    samples = heard(seal(joined, name="joined"))
    laid = [second - 6 / FPS for second in LAID]
    assert [lag_of(samples, second) for second in laid] == pytest.approx([0] * 4, abs=1)
    held = change_timing(job, of=frames.id, holds=((1024, 13),))  # before the first clap's frame
    samples = heard(seal(held, name="held"))
    laid = [second + 12 / FPS for second in LAID]
    assert [lag_of(samples, second) for second in laid] == pytest.approx([0] * 4, abs=1)
    faster = seal(job, name="faster", rate=Fraction(30_000, 1001))
    assert [lag_of(heard(faster), second) for second in LAID] == pytest.approx([0] * 4, abs=1)
    short = trim_tail(job, shot=movie.id, last=30)
    samples = heard(seal(short, name="short"))
    assert [lag_of(samples, second) for second in LAID[:3]] == pytest.approx([0] * 3, abs=1)
