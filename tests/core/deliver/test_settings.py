"""Qualities, bitrates and sizes, as they are typed and as they are estimated."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest

from tests.making import job_of, write_sequence
from waxseal.core.deliver.codecs import CODECS, codec_named
from waxseal.core.deliver.format.delivery_settings import estimate_bytes, form_of
from waxseal.core.deliver.format.quality import parse_bitrate, parse_quality
from waxseal.core.errors import JobError, WrongUse
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import (
    Bitrate,
    ConstantQuality,
    Delivery,
    Grade,
    Graded,
    Quality,
    Size,
)
from waxseal.core.picture.target import Layout
from waxseal.core.plan.timeline import timeline_of


@pytest.mark.parametrize(
    ("text", "quality"),
    [
        ("good", Graded(grade=Grade.GOOD)),
        ("Draft", Graded(grade=Grade.DRAFT)),
        ("18", ConstantQuality(figure=18)),
        ("22,5", ConstantQuality(figure=22.5)),
        ("0", ConstantQuality(figure=0)),
    ],
)
def test_a_quality_is_a_grade_or_a_figure(text: str, quality: Quality) -> None:
    assert parse_quality(text) == quality


@pytest.mark.parametrize(
    ("text", "bits"), [("5M", 5_000_000), ("800k", 800_000), ("2.5M", 2_500_000), ("64000", 64_000)]
)
def test_a_bitrate_is_read(text: str, bits: int) -> None:
    assert parse_bitrate(text).bits_per_second == bits


@pytest.mark.parametrize("text", ["best", "1e5", "99999", "nan", ""])
def test_what_is_no_quality(text: str) -> None:
    with pytest.raises(WrongUse, match="not a quality"):
        parse_quality(text)


@pytest.mark.parametrize("figure", [-1, 52])
def test_a_figure_that_a_codec_does_not_have_is_said(figure: float) -> None:
    trouble = CODECS["H.264"].quality_trouble(ConstantQuality(figure=figure))
    assert trouble == f"H.264 has no quality {figure}: choose from 0 (best) to 51."
    assert CODECS["EXR"].quality_trouble(ConstantQuality(figure=18)) != ""
    assert CODECS["EXR"].quality_trouble(Bitrate(bits_per_second=10**6)) != ""


@pytest.mark.parametrize("codec", [one for one in CODECS.values() if one.grades])
def test_each_codec_says_what_each_grade_is_to_it(codec: object) -> None:
    known = codec_named(codec.name)  # type: ignore[attr-defined]
    figures = [known.figure_for(Graded(grade=grade)) for grade in Grade]
    assert None not in figures
    coarseness = [known.coarseness(figure) for figure in figures if figure is not None]
    assert coarseness == sorted(coarseness, reverse=True)


def test_a_codec_that_is_not_known_is_said_with_those_that_are() -> None:
    assert codec_named("h.264").name == "H.264"
    with pytest.raises(JobError, match=r"choose one of H\.264, H\.265, "):
        codec_named("paper")


@pytest.mark.parametrize("text", ["fast", "0", "9G", "-5M", "99999M"])
def test_what_is_no_bitrate(text: str) -> None:
    with pytest.raises(WrongUse, match="bitrate"):
        parse_bitrate(text)


def test_sides_are_made_even() -> None:
    assert Layout.YUV420.stored_size(641, 360) == (642, 360)
    assert Layout.YUV420.stored_size(640, 361) == (640, 362)
    assert Layout.LIGHT.stored_size(641, 361) == (641, 361)


def ordered(quality: Quality, codec: str = "H.264") -> Delivery:
    return Delivery(id="d1", name="a", folder="/", quality=quality, codec=codec)


def test_frames_of_light_take_their_room() -> None:
    """Three halves a pixel, uncompressed."""
    size = Size(width=1920, height=1080)
    room = estimate_bytes(ordered(Graded(), "EXR"), size, 24, Fraction(24))
    assert room == pytest.approx(24 * 1920 * 1080 * 6, rel=0.01)


def test_half_the_bitrate_is_about_half_the_file() -> None:
    size = Size(width=1920, height=1080)
    ten, five = (
        estimate_bytes(ordered(Bitrate(bits_per_second=rate)), size, 2400, Fraction(24))
        for rate in (10_000_000, 5_000_000)
    )
    assert 0.45 < five / ten < 0.55
    fine, coarse = (
        estimate_bytes(ordered(ConstantQuality(figure=figure)), size, 240, Fraction(24))
        for figure in (12, 18)
    )
    assert fine > 1.8 * coarse


def test_a_bitrate_is_never_taken_for_a_fine_quality(tmp_path: Path) -> None:
    """Of three pictures of grain alone two may be one in the file, at 300k too."""
    job = job_of(write_sequence(tmp_path, frames=range(1, 4)))
    for bits in (20_000, 300_000, 50_000_000):
        job = change_delivery(job, delivery="d1", quality=Bitrate(bits_per_second=bits))
        assert form_of(timeline_of(job), job.deliveries[0]).coarseness > 0
