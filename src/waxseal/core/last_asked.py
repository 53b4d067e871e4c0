"""What was worked out last, kept for as long as the very same is asked."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

__all__ = ["LastAsked"]

A = TypeVar("A")
R = TypeVar("R")


class LastAsked(Generic[A, R]):
    """A function of one value that never changes. Another value is another object, not an equal."""

    def __init__(self, work: Callable[[A], R]) -> None:
        self._work = work
        self._last: tuple[A, R] | None = None

    def __call__(self, asked: A) -> R:
        last = self._last
        if last is None or last[0] is not asked:
            self._last = last = (asked, self._work(asked))
        return last[1]
