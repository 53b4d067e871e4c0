"""Levels of codecs against what the trade knows, and against what MediaInfo reads in our files."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest
from pymediainfo import MediaInfo

from tests.making import job_of, write_sequence
from waxseal.core.deliver.codecs.codec_levels import least_level
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import DeliveryState, Size
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.measure_movie import measure_movie


# Common knowledge of the trade, no source: what cameras and players name their levels for.
@pytest.mark.parametrize(
    ("codec", "size", "rate", "level"),
    [
        ("h264", (1280, 720), 30, "3.1"),
        ("h264", (1920, 1080), 30, "4"),
        ("h264", (1920, 1080), 60, "4.2"),
        ("h264", (3840, 2160), 30, "5.1"),
        ("h264", (3840, 2160), 60, "5.2"),
        ("h264", (720, 576), 25, "3"),
        ("hevc", (1920, 1080), 30, "4"),
        ("hevc", (1920, 1080), 60, "4.1"),
        ("hevc", (3840, 2160), 30, "5"),
        ("hevc", (3840, 2160), 60, "5.1"),
        ("av1", (1920, 1080), 30, "4"),
        ("av1", (3840, 2160), 60, "5.1"),
        ("h264", (20_000, 16), 30, ""),
        ("prores", (1920, 1080), 30, ""),
    ],
)
def test_the_least_level(codec: str, size: tuple[int, int], rate: int, level: str) -> None:
    wide, tall = size
    assert least_level(codec, Size(width=wide, height=tall), Fraction(rate)) == level


@pytest.mark.parametrize(("codec", "container"), [("H.264", "MP4"), ("H.264", "MKV"),
                                                  ("H.265", "MOV"), ("AV1", "MP4")])  # fmt: skip
def test_the_file_says_what_mediainfo_reads(tmp_path: Path, codec: str, container: str) -> None:
    folder = write_sequence(tmp_path / "a", frames=range(1, 4), width=640, height=360)
    job = change_delivery(job_of(folder), delivery="d1", codec=codec, container=container)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    path = path_of(job.deliveries[0])
    found = measure_movie(path).level
    (video,) = MediaInfo.parse(path).video_tracks
    assert f"@L{found}" in video.format_profile
    assert float(found) >= float(
        least_level(measure_movie(path).codec, Size(width=640, height=360), Fraction(24))
    )
