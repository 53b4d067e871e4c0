from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from waxseal.core.timing.rate_matching import (
    are_near,
    conversion_words,
    convert_rate,
    length_on_reel,
)

rates = st.sampled_from(
    [
        *(Fraction(rate) for rate in (12, 15, 24, 25, 30, 60)),
        *(Fraction(24_000, 1001), Fraction(30_000, 1001), Fraction(25, 2)),
    ]
)


@given(count=st.integers(1, 3_000), source=rates, reel=rates)
def test_converting_keeps_the_length_and_never_steps_back(
    count: int, source: Fraction, reel: Fraction
) -> None:
    shown = convert_rate(count, source, reel)
    assert abs(len(shown) / reel - count / source) < 1 / reel
    assert shown == sorted(shown)
    assert shown[0] == 0
    assert shown[-1] < count


@given(count=st.integers(1, 500), rate=rates)
def test_the_same_rate_shows_every_frame_once(count: int, rate: Fraction) -> None:
    assert convert_rate(count, rate, rate) == list(range(count))


@pytest.mark.parametrize(
    ("count", "source", "reel", "shown"),
    [
        (4, 12, 24, [0, 0, 1, 1, 2, 2, 3, 3]),
        (6, 24, 12, [0, 2, 4]),
        (2, 8, 24, [0, 0, 0, 1, 1, 1]),
        (5, 25, 30, [0, 0, 1, 2, 3, 4]),
        (6, 30, 25, [0, 1, 2, 3, 4]),
        (1, 24, 1, [0]),
    ],
)
def test_tables_made_by_hand(count: int, source: int, reel: int, shown: list[int]) -> None:
    assert convert_rate(count, Fraction(source), Fraction(reel)) == shown


FILM = Fraction(24_000, 1001)


@pytest.mark.parametrize(
    ("source", "reel", "count"),
    [
        (FILM, Fraction(24), 48),
        (FILM, Fraction(24), 999),
        (Fraction(24), FILM, 999),
        (Fraction(24), Fraction(25), 23),
        (Fraction(25), Fraction(24), 24),
    ],
)
def test_less_than_a_frame_over_the_shot_is_no_conversion(
    source: Fraction, reel: Fraction, count: int
) -> None:
    assert convert_rate(count, source, reel) == list(range(count))


@given(count=st.integers(2, 6_000), source=rates, reel=rates)
def test_near_rates_show_the_first_and_the_last_frame(
    count: int, source: Fraction, reel: Fraction
) -> None:
    shown = convert_rate(count, source, reel)
    if are_near(source, reel):
        assert (shown[0], shown[-1]) == (0, count - 1)
        more = abs(count * reel / source - count)
        changed = abs(len(shown) - count)
        assert changed <= more + 1
        steps = {after - before for before, after in pairwise(shown)}
        assert steps <= {0, 1, 2}


def test_one_frame_in_a_thousand_is_shown_twice_in_the_middle() -> None:
    shown = convert_rate(1200, FILM, Fraction(24))
    (twice,) = [n for n in range(1200) if shown.count(n) == 2]
    assert 400 < twice < 600


def test_a_shot_is_never_nothing() -> None:
    assert length_on_reel(1, Fraction(1000), Fraction(1)) == 1


def test_the_conversion_is_said() -> None:
    assert conversion_words(Fraction(12), Fraction(24)) == "every frame twice"
    assert conversion_words(Fraction(24), Fraction(8)) == "every 3rd frame"
    assert conversion_words(Fraction(24), Fraction(12)) == "every 2nd frame"
    assert conversion_words(Fraction(24), Fraction(25)) == "some frames repeated"
    assert conversion_words(Fraction(25), Fraction(24)) == "some frames dropped"
    assert conversion_words(Fraction(24), Fraction(24)) == ""
    assert conversion_words(FILM, Fraction(24), 48) == "every frame once"
    assert conversion_words(FILM, Fraction(24), 4800) == "some frames repeated"
