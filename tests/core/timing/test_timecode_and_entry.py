from __future__ import annotations

from fractions import Fraction

import pytest

from waxseal.core.errors import WrongUse
from waxseal.core.timing.parse_length import parse_frames, parse_place
from waxseal.core.timing.timecode import (
    Counting,
    can_drop,
    length_words,
    seconds_words,
    to_timecode,
)


def test_timecode_without_dropping() -> None:
    assert to_timecode(0, Fraction(24)) == "00:00:00:00"
    assert to_timecode(104, Fraction(24)) == "00:00:04:08"
    assert to_timecode(86_400, Fraction(24)) == "01:00:00:00"


def test_lengths_are_said_in_seconds_and_frames() -> None:
    assert length_words(228, Fraction(24)) == "9 s 12 f"
    assert length_words(24 * 62 + 5, Fraction(24)) == "1 min 2 s 5 f"
    assert seconds_words(96, Fraction(24)) == "4.000 s"
    assert length_words(30, Fraction(30_000, 1001)) == "1 s 0 f"


@pytest.mark.parametrize(
    ("text", "frames"),
    [
        ("96", 96),
        ("96+12", 108),
        ("96 - 12", 84),
        ("00:00:04:00", 96),
        ("4:00", 96),
        ("4s", 96),
        ("1.5 s", 36),
        ("-5", -5),
        ("1s+1", 25),
    ],
)
def test_frames_are_typed_in_many_ways(text: str, frames: int) -> None:
    assert parse_frames(text, Fraction(24)) == frames


@pytest.mark.parametrize("text", ["", "abc", "4 5", "1:2:3:4:5:6", "++4", "4s4", "99999999999"])
def test_what_is_no_number_of_frames_gets_a_sentence(text: str) -> None:
    with pytest.raises(WrongUse):
        parse_frames(text, Fraction(24))


def test_seconds_need_a_rate() -> None:
    with pytest.raises(WrongUse, match="rate"):
        parse_frames("4s")


def test_a_place_counts_from_one_and_timecode_from_zero() -> None:
    assert parse_place("104", Fraction(24)) == 104
    assert parse_place("00:00:00:00", Fraction(24)) == 1


NTSC, TWICE = Fraction(30_000, 1001), Fraction(60_000, 1001)


@pytest.mark.parametrize("rate", [NTSC, TWICE])
def test_drop_frame_timecode_is_read_as_it_is_written(rate: Fraction) -> None:
    per_minute = round(rate) * 60
    for frame in [*range(0, 12 * per_minute, 331), per_minute - 1, per_minute, 10 * per_minute]:
        written = to_timecode(frame, rate, Counting.DROP)
        assert ";" in written
        assert parse_frames(written, rate) == frame
        assert parse_frames(written.replace(";", ":"), rate, Counting.DROP) == frame
        assert parse_place(written, rate) == frame + 1


def test_a_number_that_drop_frame_skips_is_refused() -> None:
    with pytest.raises(WrongUse, match="the minute begins with ;02"):
        parse_frames("00:01:00;00", NTSC)
    assert parse_frames("00:10:00;00", NTSC) == 17_982  # SMPTE ST 12-1: each tenth is whole
    assert parse_frames("00:01:00:00", NTSC) == 1800, "it does not drop unless it is said"


def test_drop_frame_is_for_the_rates_that_have_it() -> None:
    assert [can_drop(Fraction(one, 1001)) for one in (24_000, 30_000, 60_000)] == [0, 1, 1]
    with pytest.raises(WrongUse, match="for 29"):
        parse_frames("00:01:00;02", Fraction(24))
