"""Waiting for frames that are still being rendered, until all that were expected are there."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from waxseal.cli.talking import say
from waxseal.core.arrive.arrival import arrival_of
from waxseal.core.arrive.sources import Scan, scan
from waxseal.core.job.model import Sequence
from waxseal.core.progress import CancelToken
from waxseal.core.words import left_words, plain

__all__ = ["wait_for_all"]

STEP = 0.2  # seconds between two looks at Ctrl-C
PAUSE = 2.0  # seconds between two looks at the folders


def wait_for_all(
    paths: list[Path], *, expecting: Callable[[Scan], Scan], token: CancelToken
) -> Scan:
    """Look again and again; a line for each change.

    expecting: puts what should be there into what was found. Returns what is
    there once no sequence lacks a frame and none is being written.
    Raises Cancelled, UnreadableInput.
    """
    said = ""
    while True:
        found = expecting(scan(paths, token=token))
        sequences = [one for one in found.sources if isinstance(one, Sequence)]
        lines = "\n".join(line_of(one) for one in sequences if one.kind == "sequence")
        if lines != said:
            say(lines or "Nothing is there yet.")
            said = lines
        if sequences and not any(one.missing or one.is_arriving for one in sequences):
            return found
        for _ in range(round(PAUSE / STEP)):
            token.check()
            time.sleep(STEP)


def line_of(sequence: Sequence) -> str:
    arrival = arrival_of(sequence, time.time_ns())
    words = f"{plain(sequence.files.pattern)}: {arrival.there} of {arrival.expected}"
    words += left_words(arrival.seconds_left, ", about ")
    if sequence.damaged:
        words += f", {len(sequence.damaged)} damaged"
    return words
