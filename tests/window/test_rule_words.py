"""What the rule writes at its marks."""

from __future__ import annotations

import pytest

from waxseal.app.reel.rule import time_words


@pytest.mark.parametrize(
    ("seconds", "words"), [(0, "0 s"), (45, "45 s"), (60, "1 min"), (90, "1:30"), (1830, "30:30")]
)
def test_times_are_as_short_as_they_can_be(seconds: int, words: str) -> None:
    assert time_words(seconds) == words
