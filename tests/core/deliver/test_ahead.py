"""While frames still arrive, what is whole is encoded, and is what the film needs in the end."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.making import aged, gradient, write_sequence
from waxseal.core.arrive.header_scan import look_again
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.run.encode_available import encode_ahead, sources_awaited
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import (
    change_delivery,
    change_reading,
    refresh_sources,
    set_expected,
    take_in,
)
from waxseal.core.job.model import DeliveryState, Job, StandIn
from waxseal.core.progress import CancelToken, silent

pytestmark = pytest.mark.usefixtures("short_segments")


@pytest.fixture
def job(tmp_path: Path) -> Job:
    """Nineteen of thirty-two frames."""
    write_sequence(tmp_path / "a", "a.%04d.png", frames=range(1, 20))
    for path in (tmp_path / "a").iterdir():
        aged(path)
    job = take_in(Job(), sources=scan([tmp_path]).sources, folder=str(tmp_path))
    return set_expected(job, source="s1", expected=(1, 32))


def looked_at(job: Job) -> Job:
    return refresh_sources(job, sources=[look_again(one) for one in job.sequences])


def test_what_is_whole_is_encoded_ahead_and_used(job: Job, tmp_path: Path) -> None:
    delivery = job.deliveries[0]
    assert [one.name for one in sources_awaited(job, [delivery])] == ["a"]
    ahead = encode_ahead(job, delivery, silent, CancelToken())
    assert (ahead.segments_made, ahead.reasons) == (2, ())  # 1-8 and 9-16; 17-24 has holes
    again = encode_ahead(job, delivery, silent, CancelToken())
    assert (again.segments_made, again.segments_kept) == (0, 2)
    for number in range(20, 33):
        write_pixels(tmp_path / "a" / f"a.{number:04}.png", gradient(number))
        aged(tmp_path / "a" / f"a.{number:04}.png")
    job = looked_at(job)
    assert sources_awaited(job, [delivery]) == ()
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert (outcome.segments_made, outcome.segments_kept) == (2, 2)


def test_a_frame_that_something_stands_in_for_is_waited_for_too(job: Job) -> None:
    job = change_reading(job, source="s1", stand_in=StandIn.HOLD)
    assert len(sources_awaited(job, job.deliveries)) == 1
    assert encode_ahead(job, job.deliveries[0], silent, CancelToken()).segments_made == 2


def test_what_cannot_be_done_yet_is_no_trouble(job: Job) -> None:
    frames = change_delivery(job, delivery="d1", codec="PNG")
    assert encode_ahead(frames, frames.deliveries[0], silent, CancelToken()).segments_made == 0
    token = CancelToken()
    token.cancel()
    assert encode_ahead(job, job.deliveries[0], silent, token).state is DeliveryState.STOPPED
