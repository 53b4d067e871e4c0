"""Deliveries that are made one after the other: each frame is decoded once for all of them."""

from __future__ import annotations

import shutil
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest

from tests.making import job_of, write_sequence
from waxseal.core.deliver.encode.encode_state import EncodeOptions, EncodeState
from waxseal.core.deliver.encode.segments import segment_cuts
from waxseal.core.deliver.encode.segments.segment_cuts import Piece
from waxseal.core.deliver.encode.segments.segment_store import SegmentStore
from waxseal.core.deliver.format.delivery_settings import film_of, form_of
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run import shared_encode
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.run.shared_encode import stretches_of
from waxseal.core.folders import segments_folder
from waxseal.core.frames import decode_ahead, frame_reader
from waxseal.core.job.edits import add_delivery, change_delivery
from waxseal.core.job.model import DeliveryState, Framing, Job, Outcome, Size
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, Progress, silent

pytestmark = pytest.mark.usefixtures("short_segments")

FRAMES = 19
SMALL = Size(width=128, height=72)


@pytest.fixture
def decoded(monkeypatch: pytest.MonkeyPatch) -> Counter[str]:
    """How often each file was decoded."""
    count: Counter[str] = Counter()
    real = frame_reader.read_pixels

    def read_pixels(path: Path, **wishes: Any) -> Any:
        count[path.name] += 1
        return real(path, **wishes)

    monkeypatch.setattr(decode_ahead, "read_pixels", read_pixels)
    return count


@pytest.fixture
def job(tmp_path: Path) -> Job:
    """Wide in H.264, small and square in H.264, and ProRes, whose segments are others."""
    write_sequence(tmp_path / "a", frames=range(1, FRAMES + 1), width=256, height=144)
    job = job_of(tmp_path / "a")
    others: tuple[dict[str, object], ...] = (
        {"size": SMALL},
        {"size": Size(width=96, height=96), "framing": Framing.FILL},
        {"codec": "ProRes LT", "container": "MOV"},
    )
    for number, fields in enumerate(others, 2):
        job = add_delivery(job, name=f"film{number}", folder=str(tmp_path / "a"))
        job = change_delivery(job, delivery=f"d{number}", **fields)
    return job


def delivered(job: Job, *names: str, report: Any = silent) -> list[Outcome]:
    """Made in that order, as a queue does it."""
    left = [job.delivery(name) for name in names]
    outcomes = []
    while left:
        one, *left = left
        path_of(one).unlink(missing_ok=True)
        outcomes.append(make_delivery(job, one, report, CancelToken(), beside=left))
    for outcome in outcomes:
        assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return outcomes


def test_each_file_is_decoded_once_and_the_bytes_are_those_of_each_alone(
    job: Job, decoded: Counter[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    # (The check makes a few frames again.)
    monkeypatch.setattr("waxseal.core.deliver.compare.written_check.LOOKED_AT_WHOLE", 0)
    alone = []
    for name in ("d1", "d2", "d3", "d4"):
        alone += [one.sha256 for one in delivered(job, name)]
    assert set(decoded.values()) == {4}
    shutil.rmtree(segments_folder())
    decoded.clear()
    outcomes = delivered(job, "d1", "d2", "d3", "d4")
    assert [one.sha256 for one in outcomes] == alone
    assert len(decoded) == FRAMES
    assert set(decoded.values()) == {1}


def test_the_first_says_what_it_made_and_the_others_what_they_found(job: Job) -> None:
    first, second = delivered(job, "d1", "d2")
    assert (first.segments_made, first.segments_kept) == (2, 0)
    assert (second.segments_made, second.segments_kept) == (0, 2)


def test_progress_counts_the_frames_of_the_first(job: Job) -> None:
    said: list[Progress] = []
    make_delivery(job, job.delivery("d1"), said.append, CancelToken(), beside=[job.delivery("d2")])
    encoding = [one for one in said if one.stage == "encoding"]
    assert max(one.done for one in encoding) == FRAMES
    assert {one.total for one in encoding} == {FRAMES}


def test_what_was_encoded_before_is_not_encoded_again(job: Job, decoded: Counter[str]) -> None:
    delivered(job, "d2")
    decoded.clear()
    first, second = delivered(job, "d1", "d2")
    assert first.segments_made == 2
    assert second.segments_made == 0


@pytest.mark.parametrize(
    "fields",
    [
        {"range": (1, 12)},
        {"rate": 25},
        {"most_bytes": 10_000_000},
        {"lut": "/nowhere/a.cube"},
        {"codec": "nothing"},
    ],
)
def test_what_shows_other_frames_or_cannot_be_made_yet_is_left_to_its_turn(
    job: Job, fields: dict[str, Any]
) -> None:
    if "codec" in fields:  # of a job file from elsewhere
        others = job.delivery("d2").model_copy(update=fields)
        job = job.model_copy(update={"deliveries": (job.deliveries[0], others)})
    else:
        job = change_delivery(job, delivery="d2", **fields)
    outcome = make_delivery(
        job, job.delivery("d1"), silent, CancelToken(), beside=[job.delivery("d2")]
    )
    assert outcome.state is DeliveryState.SEALED
    assert outcome.segments_made == 2
    assert len(list(segments_folder().iterdir())) == 2


@pytest.mark.parametrize("limit", ["MOST_HELD", "MOST_STORED"])
def test_without_room_for_both_each_is_made_alone(
    job: Job, monkeypatch: pytest.MonkeyPatch, limit: str
) -> None:
    monkeypatch.setattr(shared_encode, limit, 1)
    delivered(job, "d1")
    make_delivery(job, job.delivery("d1"), silent, CancelToken(), beside=[job.delivery("d2")])
    assert len(list(segments_folder().iterdir())) == 2


def test_a_frame_that_cannot_be_read_is_said_by_the_delivery_itself(job: Job) -> None:
    files = job.sequences[0].files
    (Path(files.folder) / files.name_of(7)).write_bytes(b"no picture at all")
    outcome = make_delivery(
        job, job.delivery("d1"), silent, CancelToken(), beside=[job.delivery("d2")]
    )
    assert outcome.state is DeliveryState.REFUSED
    assert "7" in outcome.reasons[0]


def test_stopped_on_the_way_it_goes_on_where_it_was(job: Job) -> None:
    token = CancelToken()

    def stop(progress: Progress) -> None:
        if progress.done > 17:
            token.cancel()

    beside = [job.delivery("d2")]
    outcome = make_delivery(job, job.delivery("d1"), stop, token, beside=beside)
    assert outcome.state is DeliveryState.STOPPED
    assert list(segments_folder().glob("*.segment"))
    delivered(job, "d1", "d2")


def test_somebody_may_empty_the_store_before_the_delivery_itself(
    job: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = shared_encode.encode_together

    def emptied(*words: Any, **more: Any) -> int:
        own = real(*words, **more)
        shutil.rmtree(segments_folder())
        return own

    monkeypatch.setattr("waxseal.core.deliver.run.delivery_run.encode_together", emptied)
    beside = [job.delivery("d2")]
    outcome = make_delivery(job, job.delivery("d1"), silent, CancelToken(), beside=beside)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert outcome.segments_kept == 0


def test_as_many_segments_at_a_time_as_was_said(job: Job, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[int] = []

    def pool(workers: int, name: str) -> ThreadPoolExecutor:
        asked.append(workers)
        return ThreadPoolExecutor(workers, name)

    monkeypatch.setattr(shared_encode, "ThreadPoolExecutor", pool)
    one, beside = job.delivery("d1"), [job.delivery("d2")]
    make_delivery(job, one, silent, CancelToken(), who=EncodeOptions(workers=1), beside=beside)
    assert asked == [1]


@pytest.mark.parametrize(("names", "workers"), [(("d1", "d2"), 3), (("d1", "d2", "d3"), 2)])
def test_a_crash_would_cost_a_segment_of_each_worker_or_delivery(
    job: Job, monkeypatch: pytest.MonkeyPatch, names: tuple[str, ...], workers: int
) -> None:
    monkeypatch.setattr(segment_cuts, "SHORTEST", 2)
    monkeypatch.setattr(segment_cuts, "LONGEST", 4)
    being_written, at_a_time, real = 0, [0], shared_encode.kept

    @contextmanager
    def kept(store: SegmentStore, piece: Piece) -> Iterator[Any]:
        nonlocal being_written
        with real(store, piece) as sink:
            being_written += 1
            at_a_time.append(being_written)
            try:
                yield sink
            finally:
                being_written -= 1

    monkeypatch.setattr(shared_encode, "kept", kept)
    first, *beside = (job.delivery(name) for name in names)
    who = EncodeOptions(workers=workers)
    make_delivery(job, first, silent, CancelToken(), who=who, beside=beside)
    assert len(at_a_time) > 2 * len(names)
    assert max(at_a_time) == len(names)


def test_a_long_film_begins_before_all_of_it_is_planned(
    job: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(segment_cuts, "LONGEST_ALONE", 6)
    planned = programme(job)
    works = [
        EncodeState(film_of(planned, one), form_of(planned.timeline, one), silent, token)
        for one, token in ((job.delivery(name), CancelToken()) for name in ("d1", "d4"))
    ]
    stretches = stretches_of(works)
    assert cuts(next(stretches)) == [["1-8", "9-19"], ["1-6", "7-12", "13-19"]]
    film = film_of(planned, job.delivery("d1"))
    alike = [EncodeState(film, works[0].form, silent, CancelToken()) for _ in range(2)]
    stretches = stretches_of(alike)
    assert cuts(next(stretches)) == [["1-8"], ["1-8"]]
    assert len(film.made) < FRAMES
    assert cuts(next(stretches)) == [["9-19"], ["9-19"]]
    assert list(stretches) == []


def cuts(stretch: list[list[Piece]]) -> list[list[str]]:
    return [[str(piece.span) for piece in pieces] for pieces in stretch]
