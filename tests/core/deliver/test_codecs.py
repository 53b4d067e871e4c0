"""Codecs are values in a table: one more is one file and one line."""

from __future__ import annotations

import pickle
from pathlib import Path

import pytest

from tests.making import job_of, write_sequence
from waxseal.core.deliver.codecs import CODECS, Codec, StreamEncoder
from waxseal.core.deliver.codecs.codec import STANDARD_RANGE, Facts
from waxseal.core.deliver.codecs.h264 import bits_at_figure
from waxseal.core.deliver.containers import CONTAINERS, container_for
from waxseal.core.deliver.format.delivery_settings import estimate_bytes
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import DeliveryState, Grade, Job, Outcome, Size
from waxseal.core.picture.target import Layout
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.measure_movie import measure_movie

# All that a file in `deliver/codecs` would hold.
OLD = Codec(
    name="MPEG-4",
    title="MPEG-4 part 2, for old players",
    layout=Layout.YUV420,
    spaces=STANDARD_RANGE,
    facts=Facts("mpeg4", "Simple Profile", "yuv420p"),
    containers=("MP4",),
    coding=StreamEncoder("mpeg4", "yuv420p", {"flags": "+qscale"}, figures=("qscale",)),
    bits_a_pixel=bits_at_figure,
    most_pixels=8192 * 8192,
    longest=8192,
    has_bitrate=True,
    grades={Grade.DRAFT: 12, Grade.GOOD: 6, Grade.HIGH: 3, Grade.MASTER: 1},
    best=1,
    coarsest=31,
)


def made(job: Job) -> Outcome:
    return make_delivery(job, job.deliveries[0], silent, CancelToken())


@pytest.fixture
def job(tmp_path: Path) -> Job:
    return job_of(write_sequence(tmp_path / "frames", frames=range(1, 13), width=160, height=90))


def test_a_codec_is_added_by_one_line_in_the_table(
    job: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    refused = made(change_delivery(job, delivery="d1", codec="MPEG-4"))
    (reason,) = refused.reasons
    assert reason.startswith("There is no codec “MPEG-4” here: choose one of H.264, H.265, ")
    monkeypatch.setitem(CODECS, OLD.name, OLD)
    job = change_delivery(job, delivery="d1", codec="MPEG-4")
    outcome = made(job)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    measured = measure_movie(path_of(job.deliveries[0]))
    assert (measured.codec, measured.frames) == ("mpeg4", 12)
    assert estimate_bytes(job.deliveries[0], Size(width=160, height=90), 12, job.reel_rate) > 0


@pytest.mark.parametrize("codec", CODECS.values(), ids=lambda codec: codec.name)
def test_what_a_codec_says_holds_together(codec: Codec) -> None:
    assert all(name in CONTAINERS for name in codec.containers)
    assert codec.usual_space in codec.spaces
    assert set(codec.grades) in (set(), set(Grade))
    assert all(0 <= codec.coarseness(figure) <= 1 for figure in codec.grades.values())
    container = container_for(codec)
    # What the library writes gets a stream, anything else the bytes of files.
    assert bool(container.format) == isinstance(codec.coding, StreamEncoder)
    assert codec.size_trouble(Size(width=1920, height=1080)) == ""
    assert codec.size_trouble(Size(width=32_768, height=32_768)) != ""


@pytest.mark.parametrize("codec", CODECS.values(), ids=lambda codec: codec.name)
def test_a_codec_can_be_sent_to_another_process(codec: Codec) -> None:
    again = pickle.loads(pickle.dumps(codec))  # noqa: S301 - our own value
    assert again.name == codec.name
    assert again.coding == codec.coding
