"""Waiting for frames that are still being rendered, until all that were expected are there."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from waxseal.cli.talking import say
from waxseal.core.arrive.arrival import arrival_of
from waxseal.core.arrive.quick import look_again
from waxseal.core.arrive.sources import Scan, scan
from waxseal.core.deliver.ahead import sources_awaited
from waxseal.core.deliver.naming import path_of
from waxseal.core.deliver.process.orders import EncodingProcess
from waxseal.core.deliver.process.words import Before
from waxseal.core.job.edits import refresh_sources
from waxseal.core.job.model import Delivery, Job, Sequence
from waxseal.core.progress import CancelToken, silent
from waxseal.core.words import counted, left_words, plain

__all__ = ["wait_for_all", "wait_for_frames"]

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
    said: list[str] | None = None
    while True:
        found = expecting(scan(paths, token=token))
        sequences = [one for one in found.sources if isinstance(one, Sequence)]
        lines = [line_of(one) for one in sequences if one.kind == "sequence"]
        if lines != said:
            say(*(lines or ["Nothing is there yet."]))
            said = lines
        if sequences and not any(one.missing or one.is_arriving for one in sequences):
            return found
        for _ in range(round(PAUSE / STEP)):
            token.check()
            time.sleep(STEP)


def wait_for_frames(job: Job, deliveries: list[Delivery], token: CancelToken) -> Job:
    """The job as soon as all that deliveries need is there; what is whole is encoded meanwhile.

    Raises JobError, Cancelled.
    """
    said: list[str] | None = None
    while True:
        fresh = tuple(look_again(one, token=token) for one in job.sequences)
        job = refresh_sources(job, sources=fresh)
        awaited = sources_awaited(job, deliveries)
        if not awaited:
            return job
        lines = [line_of(one) for one in awaited]
        if lines != said:
            say(*lines)
            said = lines
        for delivery in deliveries:
            token.check()
            done = EncodingProcess().deliver(
                job, delivery, report=silent, token=token, before=Before.AHEAD
            )
            if done.segments_made:
                made = counted(done.segments_made, "segment")
                say(f"{plain(path_of(delivery).name)}: {made} encoded already")
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
