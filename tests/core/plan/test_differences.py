"""What a sound has to do with the frames beside it, in words."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from tests.making import reading, sequence, sound
from waxseal.core.job.edits import add_sources
from waxseal.core.job.model import Job, Origin, Sequence, Sound, change
from waxseal.core.plan.recipe_differences import sound_against


def shot(name: str = "sh010", frames: int = 24) -> Sequence:
    return change(sequence(frames=tuple(range(1, frames + 1))), name=name)


def job_of(*sequences: Sequence) -> Job:
    return Job(
        sources=tuple(change(one, id=f"s{number}") for number, one in enumerate(sequences, 1))
    )


def against(job: Job, one: Sound) -> str:
    return sound_against(
        change(job, sources=(*job.sources, change(one, id="s9"))), change(one, id="s9")
    )


@pytest.mark.parametrize(
    ("samples", "words"),
    [
        (48_000, "as long as sh010"),
        (48_000 + 900, "as long as sh010"),  # less than half a frame
        (48_000 + 1100, "0.02 s longer than sh010"),
        (24_000, "0.50 s shorter than sh010"),
    ],
)
def test_its_length_is_said_beside_the_frames(samples: int, words: str) -> None:
    assert against(job_of(shot()), sound(samples=samples)) == words


def test_it_is_held_against_the_frames_of_its_name_or_those_alone_beside_it() -> None:
    two = job_of(shot("sh010"), shot("tone", 48))
    assert against(two, sound()) == "1.00 s shorter than tone"
    assert against(job_of(shot("sh010"), shot("sh020")), sound()) == ""
    elsewhere: Any = change(sound(), path="/other/x.wav")
    assert against(job_of(shot()), elsewhere) == ""
    assert against(Job(), sound()) == ""


def test_one_of_two_sounds_in_a_folder_is_of_no_frames() -> None:
    other = change(sound(), id="s8", path=str(Path(sound().path).with_name("music.wav")))
    job = change(job_of(shot()), sources=(*job_of(shot()).sources, other))
    assert against(job, sound()) == ""


def test_a_length_that_gives_the_rate_is_said() -> None:
    guessed = change(shot("tone", 45), reading=reading(origin=Origin.GUESS))
    job = add_sources(Job(), sources=[guessed, sound(samples=72_000)])
    assert job.sequences[0].reading.rate.value == 30
    assert job.sequences[0].reading.rate.origin is Origin.GUESS
    assert job.sequences[0].reading.rate.why == "45 frames beside 1.500 s of sound"
    assert sound_against(job, job.sounds[0]) == "as long as tone at 30"
