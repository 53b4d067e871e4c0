from __future__ import annotations

from fractions import Fraction

import pytest

from waxseal.core.errors import WrongUse
from waxseal.core.timing.entry import parse_frames, parse_place
from waxseal.core.timing.timecode import length_words, seconds_words, to_timecode


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
