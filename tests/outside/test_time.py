"""Time against SMPTE's rules, OpenTimelineIO, and facts of the trade."""

from __future__ import annotations

from fractions import Fraction

import opentimelineio as otio
import pytest

from waxseal.core.timing.ranges import FrameRange
from waxseal.core.timing.rate_matching import convert_rate, length_on_reel
from waxseal.core.timing.timecode import Counting, to_timecode

NTSC = Fraction(30_000, 1001)


# SMPTE ST 12-1, from memory: 00 and 01 are skipped each minute but the tenth.
@pytest.mark.parametrize(
    ("frame", "timecode"),
    [
        (0, "00:00:00;00"),
        (1799, "00:00:59;29"),
        (1800, "00:01:00;02"),
        (17_981, "00:09:59;29"),
        (17_982, "00:10:00;00"),
        (107_892, "01:00:00;00"),
    ],
)
def test_drop_frame_skips_two_numbers_but_not_each_tenth_minute(frame: int, timecode: str) -> None:
    assert to_timecode(frame, NTSC, Counting.DROP) == timecode
    assert otio_timecode(frame, NTSC, drop=True) == timecode


def otio_timecode(frame: int, rate: Fraction, *, drop: bool) -> str:
    reference = otio.opentime.RationalTime(frame, float(rate))
    return str(otio.opentime.to_timecode(reference, float(rate), drop_frame=drop))


@pytest.mark.parametrize("rate", [Fraction(24), Fraction(25), Fraction(30), Fraction(60)])
def test_whole_rates_against_opentimelineio(rate: Fraction) -> None:
    for frame in (0, 1, 23, 24, 59, 60, 1439, 1440, 86_399, 90_000):
        assert to_timecode(frame, rate) == otio_timecode(frame, rate, drop=False)


def test_drop_frame_against_opentimelineio_over_an_hour() -> None:
    for frame in range(0, 108_000, 37):
        assert to_timecode(frame, NTSC, Counting.DROP) == otio_timecode(frame, NTSC, drop=True)


# Common practice, no source.
@pytest.mark.parametrize(
    ("frames", "rate", "seconds"), [(240, 30, 8), (48, 24, 2), (192, 24, 8), (105, 15, 7)]
)
def test_frames_and_seconds(frames: int, rate: int, seconds: int) -> None:
    assert Fraction(frames, rate) == seconds
    assert length_on_reel(frames, Fraction(rate), Fraction(rate)) == frames


def test_nought_to_two_hundred_is_two_hundred_and_one_frames() -> None:
    """Common practice, no source."""
    assert FrameRange(0, 200).count == 201


def test_on_twos_every_frame_shows_twice() -> None:
    """Common practice, no source: 12 in a programme of 24."""
    shown = convert_rate(12, Fraction(12), Fraction(24))
    assert [shown.count(frame) for frame in range(12)] == [2] * 12
