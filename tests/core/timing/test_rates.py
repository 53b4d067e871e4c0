from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel, ValidationError

from waxseal.core.errors import WrongUse
from waxseal.core.timing.rates import Rate, parse_rate, rate_words, write_rate


@pytest.mark.parametrize(
    ("text", "rate"),
    [
        ("24", Fraction(24)),
        (" 25 ", Fraction(25)),
        ("24000/1001", Fraction(24_000, 1001)),
        ("12.5", Fraction(25, 2)),
        ("12,5", Fraction(25, 2)),
        ("23.976", Fraction(24_000, 1001)),
        ("29.97", Fraction(30_000, 1001)),
        ("29.970", Fraction(30_000, 1001)),
        ("59.940", Fraction(60_000, 1001)),
        ("23.9760", Fraction(24_000, 1001)),
        ("239.76", Fraction(240_000, 1001)),
        ("59.94", Fraction(60_000, 1001)),
        ("1/2", Fraction(1, 2)),
    ],
)
def test_a_rate_is_read_exactly(text: str, rate: Fraction) -> None:
    assert parse_rate(text) == rate


@pytest.mark.parametrize(
    "text", ["0", "abc", "1e9", "", "-24", "24/0", "nan", "inf", "1001", "1/61", "24 fps", "1.2.3"]
)
def test_what_is_no_rate_gets_a_sentence(text: str) -> None:
    with pytest.raises(WrongUse) as caught:
        parse_rate(text)
    assert str(caught.value).endswith(".")


@given(
    st.fractions(min_value=Fraction(1, 10), max_value=1000, max_denominator=1001).filter(
        lambda rate: rate > 0
    )
)
def test_what_is_written_is_read_back(rate: Fraction) -> None:
    assert parse_rate(write_rate(rate)) == rate


def test_rates_are_said_as_the_trade_says_them() -> None:
    assert rate_words(Fraction(24_000, 1001)) == "23.976"
    assert rate_words(Fraction(25)) == "25"
    assert rate_words(Fraction(25, 2)) == "12.5"
    assert rate_words(Fraction(1, 3)) == "1/3"


class Holder(BaseModel):
    rate: Rate


def test_a_rounded_rate_is_refused_in_a_job() -> None:
    with pytest.raises(ValidationError, match="write a fraction"):
        Holder(rate=23.976)
    assert Holder(rate="24000/1001").rate == Fraction(24_000, 1001)
