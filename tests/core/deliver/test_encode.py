"""The encode is a function of values: it changes neither the film nor the form."""

from __future__ import annotations

import hashlib
import pickle
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import pytest

from tests.making import job_of, write_sequence
from waxseal.core.deliver.encode.encode_film import encode
from waxseal.core.deliver.encode.encode_state import EncodeState
from waxseal.core.deliver.encode.prefetch import Prefetch, Unreadable
from waxseal.core.deliver.encode.segments.segment_file import EncodedPicture
from waxseal.core.deliver.encode.segments.segment_pictures import StreamOfPictures
from waxseal.core.deliver.format.delivery_settings import form_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.errors import Cancelled, FrameError
from waxseal.core.job.edits import mark
from waxseal.core.job.model import Job
from waxseal.core.plan.programme import programme
from waxseal.core.plan.recipe import Recipe
from waxseal.core.progress import CancelToken, Progress, silent
from waxseal.core.timing.ranges import FrameRange


@dataclass(frozen=True)
class Stretch:
    """A film as it could be sent elsewhere: nothing but recipes."""

    frames: FrameRange
    recipes: tuple[Recipe, ...]

    def recipe(self, reel_frame: int) -> Recipe:
        return self.recipes[reel_frame - self.frames.first]


@pytest.fixture
def job(tmp_path: Path) -> Job:
    folder = write_sequence(tmp_path / "frames", frames=range(1, 25), width=160, height=90)
    return mark(job_of(folder), first=5, last=16)


def planned(job: Job) -> tuple[Stretch, ResolvedFormat]:
    plan = programme(job)
    film = plan.film()
    recipes = tuple(film.recipe(frame) for frame in film.frames)
    return Stretch(film.frames, recipes), form_of(plan.timeline, job.deliveries[0])


def test_what_is_sent_elsewhere_gives_the_same_bytes(job: Job, tmp_path: Path) -> None:
    here = planned(job)
    there = pickle.loads(pickle.dumps(here))  # noqa: S301 - our own values
    digests = []
    for name, (film, form) in (("a.mp4", here), ("b.mp4", there)):
        encoded = encode(film, form, tmp_path / name, silent, CancelToken())
        assert (len(encoded.marks), encoded.unreadable) == (12, ())
        digests.append(hashlib.sha256((tmp_path / name).read_bytes()).hexdigest())
    assert digests[0] == digests[1]


def test_frames_that_cannot_be_read_come_back_by_name(job: Job, tmp_path: Path) -> None:
    film, form = planned(job)

    def report(progress: Progress) -> None:
        if progress.done == 1:
            for frame in (13, 15, 20):
                (tmp_path / "frames" / f"shot.{frame:04}.png").unlink()

    encoded = encode(film, form, tmp_path / "a.mp4", report, CancelToken())
    assert encoded.marks == ()
    assert [(one.source, one.frame) for one in encoded.unreadable] == [("s1", 13), ("s1", 15)]
    assert isinstance(encoded.unreadable[0], Unreadable)
    assert "not there" in encoded.unreadable[0].why


def test_a_file_that_is_not_whole_is_never_taken_for_done(
    job: Job, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A frame that failed once, and can be read when it is asked for again."""
    film, form = planned(job)
    (tmp_path / "frames" / "shot.0007.png").unlink()
    monkeypatch.setattr(Prefetch, "unreadable_in", lambda *_: ())
    with pytest.raises(FrameError, match="not there"):
        encode(film, form, tmp_path / "a.mp4", silent, CancelToken())


def test_recipes_are_worked_out_as_they_are_asked_for(job: Job) -> None:
    film = programme(job).film()
    assert film.recipe(5) is film.recipe(5)
    assert len(film.made) == 1
    key = film.key()
    assert len(film.made) == 12
    assert programme(job).film().key() == key


@pytest.fixture
def emptying(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """Has something in it as soon as the encoder has got its last picture."""
    reached: list[int] = []
    rest = StreamOfPictures.rest

    def noted(self: StreamOfPictures) -> Iterator[EncodedPicture]:
        reached.append(1)
        return rest(self)

    monkeypatch.setattr(StreamOfPictures, "rest", noted)
    return reached


def test_what_the_encoder_keeps_back_is_not_said_to_be_done(
    job: Job, tmp_path: Path, emptying: list[int]
) -> None:
    film, form = planned(job)
    before: list[int] = []
    after: list[int] = []

    def report(progress: Progress) -> None:
        (after if emptying else before).append(progress.done)

    encode(film, form, tmp_path / "a.mp4", report, CancelToken())
    assert before == sorted(before)
    assert 0 < before[-1] < 12, "it has all pictures, and has coded few"
    assert after == list(range(before[-1] + 1, 13)), "each frame that comes out is told"


def test_a_stop_is_heard_while_the_encoder_empties_itself(
    job: Job, tmp_path: Path, emptying: list[int]
) -> None:
    film, form = planned(job)
    token, after = CancelToken(), []

    def report(progress: Progress) -> None:
        if emptying:
            after.append(progress.done)
            token.cancel()

    with pytest.raises(Cancelled):
        encode(film, form, tmp_path / "a.mp4", report, token)
    assert len(after) == 1


def test_what_was_held_is_not_counted_as_slow(job: Job, monkeypatch: pytest.MonkeyPatch) -> None:
    now = [0.0]
    monkeypatch.setattr("waxseal.core.speedometer.time.monotonic", lambda: now[0])
    film, form = planned(job)
    said: list[float] = []
    token = CancelToken()
    work = EncodeState(film, form, lambda progress: said.append(progress.per_second), token)

    def held() -> None:  # for an hour; two threads wait it out
        now[0] += 3600
        token.go_on()

    monkeypatch.setattr(CancelToken, "check", lambda _: held())
    for place in range(6):
        now[0] += 2
        work.made(place, None)
        work.coded(0)
        token.hold()
        work.check()
    assert said[1:] == [pytest.approx(0.5)] * 5
