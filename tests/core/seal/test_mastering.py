"""The mastering display: how it is typed, and what a finished file says of it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from pymediainfo import MediaInfo

from tests.making import job_of
from waxseal.core.deliver.codecs import CODECS
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.format.delivery_settings import form_of
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.errors import JobError
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.mastering import mastering_of
from waxseal.core.job.model import DeliveryState, Job, Outcome, Space
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.mastering_check import read_mastering, write_mastering
from waxseal.core.seal.record import read_seal


@pytest.fixture
def job(tmp_path: Path) -> Job:
    folder = tmp_path / "lamp"
    folder.mkdir()
    for number in range(1, 5):
        light = np.full((90, 160, 3), 0.05, np.float16)
        light[20:60, 40:100] = 8.0
        write_pixels(folder / f"lamp.{number:04}.exr", light)
    return change_delivery(
        job_of(folder), delivery="d1", space=Space.PQ, codec="H.265", mastering="p3 1000"
    )


def delivered(job: Job, **fields: object) -> tuple[Path, Outcome]:
    job = change_delivery(job, delivery="d1", **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    return path_of(job.deliveries[0]), outcome


@pytest.mark.parametrize("text", ["P3 1000 0.0001", "BT.2020 4000 0.005", "BT.709 100 0.1"])
def test_what_is_written_is_what_is_read(text: str) -> None:
    assert read_mastering(write_mastering(text)) == text
    assert write_mastering("") == b""
    assert read_mastering(b"") == ""


@pytest.mark.parametrize(
    "text", ["P3", "1000", "P3 0.5", "P3 20000", "P3 1000 5", "sRGB 100 0.1", "P3 1000 0.1 2"]
)
def test_what_is_no_mastering_display_is_refused_in_words(job: Job, text: str) -> None:
    with pytest.raises(ValueError, match="mastering display"):
        mastering_of(text)
    with pytest.raises(JobError, match="mastering"):
        change_delivery(job, delivery="d1", mastering=text)


@pytest.mark.parametrize("container", ["MP4", "MOV"])
def test_another_reader_finds_it_in_the_file(job: Job, container: str) -> None:
    path, outcome = delivered(job, container=container)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    (track,) = MediaInfo.parse(path).video_tracks
    assert track.mastering_display_color_primaries == "Display P3"
    assert track.mastering_display_luminance == "min: 0.0050 cd/m2, max: 1000 cd/m2"
    assert (read_seal(path) or {})["mastering"] == "P3 1000 0.005"
    assert not [one for one in outcome.notes if "mastering display" in one]


def test_a_film_brighter_than_its_display_has_a_note(job: Job) -> None:
    _, outcome = delivered(job, mastering="P3 300")
    assert outcome.state is DeliveryState.SEALED
    (note,) = [one for one in outcome.notes if "mastering display" in one]
    assert "the mastering display shows 300" in note


@pytest.mark.parametrize(
    "fields", [{"container": "MKV"}, {"space": Space.HLG}, {"codec": "H.264", "space": Space.SRGB}]
)
def test_where_it_cannot_be_said_the_delivery_is_refused(
    job: Job, fields: dict[str, object]
) -> None:
    _, outcome = delivered(job, **fields)
    assert outcome.state is DeliveryState.REFUSED
    assert any("mastering display" in reason for reason in outcome.reasons)


def test_whatever_may_be_told_a_mastering_display_says_it(job: Job) -> None:
    """No codec in PQ, in a container with boxes, leaves it out in silence."""
    for codec in CODECS.values():
        for name in codec.containers if Space.PQ in codec.spaces else ():
            if CONTAINERS[name].mastering_trouble("P3 1000 0.005", Space.PQ):
                continue
            asked = change_delivery(job, delivery="d1", codec=codec.name, container=name)
            form = form_of(timeline_of(asked), asked.deliveries[0])
            assert form.says_light_levels, (codec.name, name)
