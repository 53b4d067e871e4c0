"""How a command talks: answers on standard output, everything else on standard error."""

from __future__ import annotations

import json
import os
import signal
import sys
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from types import FrameType
from typing import Any

from rich.console import Console
from rich.progress import BarColumn, MofNCompleteColumn, TextColumn
from rich.progress import Progress as Bars

from waxseal.core.progress import CancelToken, Progress, Report
from waxseal.core.text_format import left_words, plain

__all__ = [
    "DONE",
    "FINDINGS",
    "STOPPED",
    "WRONG",
    "answer",
    "fill_standard_files",
    "progress_line",
    "say",
    "stoppable",
    "tell",
]

DONE, FINDINGS, WRONG, STOPPED = 0, 1, 2, 130
PAUSE = 2.0  # seconds between two plain lines of progress


def fill_standard_files() -> None:
    """Where one of the three was closed, the next file that is opened would be taken for it."""
    for number in range(3):
        try:
            os.fstat(number)
        except OSError:
            os.open(os.devnull, os.O_RDWR)


def say(*lines: str) -> None:
    """Write messages for a person. If nobody listens any more, the work goes on all the same.

    Here words of others are cleaned: a name or a seal can neither forge a line nor move a cursor.
    """
    with suppress(OSError, ValueError, AttributeError):
        sys.stderr.write(text_of(lines))
        sys.stderr.flush()


def tell(*lines: str) -> None:
    """Write the answer of a command as lines of text, cleaned as `say` does."""
    sys.stdout.write(text_of(lines))


def text_of(lines: Iterable[str]) -> str:
    return "".join(f"{plain(line)}\n" for line in lines)


def answer(document: dict[str, Any]) -> None:
    """The one machine-readable answer."""
    sys.stdout.write(json.dumps(document, ensure_ascii=True, indent=1) + "\n")
    sys.stdout.flush()


@contextmanager
def stoppable() -> Iterator[CancelToken]:
    """A token that Ctrl-C, a polite kill or the end of the terminal cancels; a second one ends."""
    token = CancelToken()

    def stop(number: int, _frame: FrameType | None) -> None:
        signal.signal(number, signal.SIG_DFL)
        token.cancel()

    numbers = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP, signal.SIGQUIT)
    before = {number: signal.signal(number, stop) for number in numbers}
    try:
        yield token
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)


@contextmanager
def progress_line() -> Iterator[Report]:
    """A bar on a terminal, a plain line now and then elsewhere."""
    if sys.stderr is not None and sys.stderr.isatty():
        with bar() as report:
            yield report
    else:
        yield PlainLines()


class PlainLines:
    """A line when a stage begins, every few seconds, and at its end."""

    def __init__(self) -> None:
        self._stage = ""
        self._next = 0.0

    def __call__(self, progress: Progress) -> None:
        now = time.monotonic()
        is_over = 0 < progress.total <= progress.done
        if progress.stage == self._stage and now < self._next and not is_over:
            return
        self._stage, self._next = progress.stage, now + PAUSE
        say(line_of(progress))


def line_of(progress: Progress) -> str:
    speed = f", {progress.per_second:.1f} frames a second" if progress.per_second else ""
    until = left_words(progress.seconds_left, ", ")
    of = f" of {progress.total}" if progress.total else ""
    return f"{progress.stage}: {progress.done}{of}{speed}{until}"


@contextmanager
def bar() -> Iterator[Report]:
    bars = Bars(
        TextColumn("{task.description:>9}"),
        BarColumn(40, complete_style="red", finished_style="green"),
        MofNCompleteColumn(),
        TextColumn("{task.fields[speed]}"),
        console=Console(stderr=True),
    )
    tasks: dict[str, Any] = {}

    def report(progress: Progress) -> None:
        if progress.stage not in tasks:
            tasks[progress.stage] = bars.add_task(progress.stage, speed="")
        words = f"{progress.per_second:.1f} f/s" if progress.per_second else ""
        words += left_words(progress.seconds_left, " · ")
        bars.update(
            tasks[progress.stage],
            completed=progress.done,
            total=progress.total or None,
            speed=words,
        )

    with bars:
        yield report
