"""What a sound has to do with the frames beside it, in words."""

from __future__ import annotations

from typing import Any

import pytest

from tests.making import sequence, sound
from waxseal.core.job.model import Job, Sequence, change
from waxseal.core.plan.differences import sound_against


def shot(name: str = "sh010", frames: int = 24) -> Sequence:
    return change(sequence(frames=tuple(range(1, frames + 1))), name=name)


def job_of(*sequences: Sequence) -> Job:
    return Job(
        sources=tuple(change(one, id=f"s{number}") for number, one in enumerate(sequences, 1))
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
    assert sound_against(job_of(shot()), sound(samples=samples)) == words


def test_it_is_held_against_the_frames_of_its_name_or_those_alone_beside_it() -> None:
    two = job_of(shot("sh010"), shot("tone", 48))
    assert sound_against(two, sound()) == "1.00 s shorter than tone"
    assert sound_against(job_of(shot("sh010"), shot("sh020")), sound()) == ""
    elsewhere: Any = change(sound(), path="/other/x.wav")
    assert sound_against(job_of(shot()), elsewhere) == ""
    assert sound_against(Job(), sound()) == ""
