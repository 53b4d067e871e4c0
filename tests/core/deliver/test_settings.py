from __future__ import annotations

from fractions import Fraction

import pytest

from waxseal.core.deliver.settings import estimated_bytes, parse_bitrate, parse_quality, stored_size
from waxseal.core.errors import WrongUse
from waxseal.core.job.model import Bitrate, Codec, ConstantQuality, Delivery, Size


@pytest.mark.parametrize(
    ("text", "figure"), [("good", 20), ("Draft", 28), ("18", 18), ("22,5", 22.5), ("0", 0)]
)
def test_a_quality_is_a_grade_or_a_figure(text: str, figure: float) -> None:
    assert parse_quality(text).figure == figure


@pytest.mark.parametrize(
    ("text", "bits"), [("5M", 5_000_000), ("800k", 800_000), ("2.5M", 2_500_000), ("64000", 64_000)]
)
def test_a_bitrate_is_read(text: str, bits: int) -> None:
    assert parse_bitrate(text).bits_per_second == bits


@pytest.mark.parametrize("text", ["best", "52", "-1", "nan", ""])
def test_what_is_no_quality(text: str) -> None:
    with pytest.raises(WrongUse, match="no quality"):
        parse_quality(text)


@pytest.mark.parametrize("text", ["fast", "0", "9G", "-5M", "99999M"])
def test_what_is_no_bitrate(text: str) -> None:
    with pytest.raises(WrongUse, match="no bitrate"):
        parse_bitrate(text)


def test_sides_are_made_even() -> None:
    assert stored_size(Size(width=641, height=360)) == (642, 360)
    assert stored_size(Size(width=640, height=361)) == (640, 362)


def ordered(quality: Bitrate | ConstantQuality, codec: Codec = Codec.H264) -> Delivery:
    return Delivery(id="d1", name="a", folder="/", quality=quality, codec=codec)


def test_frames_of_light_take_their_room() -> None:
    """Three halves a pixel, uncompressed."""
    size = Size(width=1920, height=1080)
    room = estimated_bytes(ordered(ConstantQuality(), Codec.EXR), size, 24, Fraction(24))
    assert room == pytest.approx(24 * 1920 * 1080 * 6, rel=0.01)


def test_half_the_bitrate_is_about_half_the_file() -> None:
    size = Size(width=1920, height=1080)
    ten, five = (
        estimated_bytes(ordered(Bitrate(bits_per_second=rate)), size, 2400, Fraction(24))
        for rate in (10_000_000, 5_000_000)
    )
    assert 0.45 < five / ten < 0.55
    fine, coarse = (
        estimated_bytes(ordered(ConstantQuality(figure=figure)), size, 240, Fraction(24))
        for figure in (12, 18)
    )
    assert fine > 1.8 * coarse
