"""Waiting for frames that are still being rendered, until all that were expected are there."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from waxseal.cli.terminal import say
from waxseal.core.arrive.arrival import SETTLING_NS, arrival_of
from waxseal.core.arrive.header_scan import look_again
from waxseal.core.arrive.scanning import Scan, scan
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.process.worker_messages import Before
from waxseal.core.deliver.process.worker_process import EncodingProcess
from waxseal.core.deliver.run.encode_available import sources_awaited
from waxseal.core.errors import WaxSealError
from waxseal.core.job.edits import refresh_sources
from waxseal.core.job.model import Delivery, Job, Sequence
from waxseal.core.plan.filestates import FileState, state_of
from waxseal.core.progress import CancelToken, silent
from waxseal.core.text_format import counted, left_words, plain

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
    incomplete = Unsettled()
    while True:
        found = expecting(scan(paths, token=token))
        sequences = [one for one in found.sources if isinstance(one, Sequence)]
        lines = [line_of(one) for one in sequences if one.kind == "sequence"]
        if lines != said:
            say(*(lines or ["Nothing is there yet."]))
            said = lines
        is_all_there = sequences and not any(one.missing or one.is_arriving for one in sequences)
        if is_all_there and not incomplete.may_change(sequences):
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
            made = encoded_ahead(job, delivery, token)
            if made:
                segments = counted(made, "segment")
                say(f"{plain(path_of(delivery).name)}: {segments} encoded already")
        for _ in range(round(PAUSE / STEP)):
            token.check()
            time.sleep(STEP)


def encoded_ahead(job: Job, delivery: Delivery, token: CancelToken) -> int:
    """How many segments were encoded of what is whole. Raises Cancelled."""
    process = EncodingProcess()
    try:
        done = process.deliver(job, delivery, report=silent, token=token, before=Before.AHEAD)
    except WaxSealError:
        token.check()
        return 0  # a process that ended: what it would have done is done later
    return done.segments_made


class Unsettled:
    """Files that are not whole, and perhaps are being written: seen by their changes alone.

    The times that files have are of the clock of whoever keeps them, and may be hours away.
    """

    def __init__(self) -> None:
        self._states: tuple[FileState, ...] = ()
        self._since = 0.0

    def may_change(self, sequences: list[Sequence]) -> bool:
        """Whether any has changed a short time ago, or is seen for the first time."""
        paths = (one.files.path_of(frame) for one in sequences for frame in one.damaged)
        states = tuple(state_of(path) for path in paths)
        if states != self._states:
            self._states, self._since = states, time.monotonic()
        return bool(states) and time.monotonic() - self._since < SETTLING_NS / 1e9


def line_of(sequence: Sequence) -> str:
    arrival = arrival_of(sequence, time.time_ns())
    words = f"{plain(sequence.files.pattern)}: {arrival.there} of {arrival.expected}"
    words += left_words(arrival.seconds_left, ", about ")
    if sequence.damaged:
        words += f", {len(sequence.damaged)} damaged"
    return words
