"""Frames that are still on their way: how fast they come, and when all will be there."""

from __future__ import annotations

import os
import time
from dataclasses import dataclass
from pathlib import Path

import xxhash

from waxseal.core.job.model import Sequence

__all__ = ["SETTLING_NS", "Arrival", "arrival_of", "file_identity", "fingerprint", "is_settling"]

SETTLING_NS = 10_000_000_000  # a file that was written within this time may still be growing
SECOND_NS = 1_000_000_000
RECENT = 12  # the last frames, by which the speed is taken
LONGEST_PAUSE = 4  # times the usual wait for a frame: then nothing comes any more
SHORTEST_PAUSE_NS = 60 * SECOND_NS
PAUSE_BEFORE_SPEED_NS = 15 * 60 * SECOND_NS  # while only one frame is there


@dataclass(frozen=True, slots=True)
class Arrival:
    """there, expected: frames. is_coming: whether the last came not long ago, and some are missing.

    seconds_each, seconds_left: None while too few have come to tell.
    """

    there: int
    expected: int
    is_coming: bool
    seconds_each: float | None
    seconds_left: float | None


def arrival_of(sequence: Sequence, now_ns: int) -> Arrival:
    """How far a sequence has come.

    now_ns: the time now, in nanoseconds since 1970, as files have it.
    """
    times = sorted(times_of(sequence))
    there, expected = sequence.count, sequence.range.count
    left = expected - there
    each = None
    pause_ns = PAUSE_BEFORE_SPEED_NS
    recent = times[-RECENT:]
    if len(recent) > 1 and recent[-1] > recent[0]:
        each_ns = (recent[-1] - recent[0]) / (len(recent) - 1)
        each = each_ns / SECOND_NS
        pause_ns = max(SHORTEST_PAUSE_NS, int(LONGEST_PAUSE * each_ns))
    # A clock that is ahead, here or there, makes no frame come.
    is_coming = left > 0 and bool(times) and abs(now_ns - times[-1]) < pause_ns
    return Arrival(
        there=there,
        expected=expected,
        is_coming=is_coming,
        seconds_each=each,
        seconds_left=left * each if each is not None and is_coming else None,
    )


def is_settling(path: Path) -> bool:
    """Whether a file was written so short a time ago that it may still be growing."""
    try:
        return abs(time.time_ns() - path.stat().st_mtime_ns) < SETTLING_NS
    except OSError:
        return False


def times_of(sequence: Sequence) -> list[int]:
    """When each of a sequence's files was written last."""
    names = {sequence.files.name_of(frame) for frame in frames_of(sequence)}
    try:
        with os.scandir(sequence.files.folder) as entries:
            return [entry.stat().st_mtime_ns for entry in entries if entry.name in names]
    except OSError:
        return []


def frames_of(sequence: Sequence) -> list[int]:
    wanted = sequence.range
    return [
        frame
        for first, last in sequence.files.runs
        for frame in range(max(first, wanted.first), min(last, wanted.last) + 1)
    ]


def fingerprint(folder: Path) -> str:
    """Another one as soon as any file in a folder comes, goes, grows or is written again.

    Looked up by asking, as folders on a network send no word of what happens in them.
    """
    total = xxhash.xxh3_64()
    try:
        with os.scandir(folder) as entries:
            for entry in sorted(entries, key=lambda one: one.name):
                status = entry.stat()
                total.update(os.fsencode(entry.name))
                total.update(f"{status.st_size} {status.st_mtime_ns}".encode())
    except OSError:
        return ""
    return total.hexdigest()


def file_identity(path: Path) -> str:
    """Unchanged as long as a file is not written again; empty if there is none."""
    try:
        status = path.stat()
    except OSError:
        return ""
    return f"{status.st_size} {status.st_mtime_ns}"
