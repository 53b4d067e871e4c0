"""The quick look: the header and the end of every file of a source, side by side."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from collections.abc import Sequence as Row
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from pathlib import Path
from typing import Any, Protocol

from waxseal.core.arrive.alpha_guess import with_alpha_seen
from waxseal.core.arrive.arrival import file_identity, is_settling
from waxseal.core.arrive.first_reading import first_reading
from waxseal.core.arrive.header_findings import ScannedHeader, check_files, header_kind
from waxseal.core.arrive.listing import list_paths
from waxseal.core.arrive.movie_sources import examine_movie
from waxseal.core.errors import FrameError, HelperLost, UnreadableInput
from waxseal.core.frames.headers import Format, Header, look
from waxseal.core.helpers import run_apart
from waxseal.core.job.model import (
    Alpha,
    Files,
    Finding,
    FindingKind,
    Found,
    Habits,
    Sequence,
    Size,
    change,
)
from waxseal.core.progress import CancelToken, Progress, Report, silent
from waxseal.core.text_format import plain

__all__ = ["SourceScan", "elsewhere", "examine", "found_in", "frames_in", "look_again"]

UNREADABLE = (FindingKind.DAMAGED, FindingKind.NOT_READ)
BATCH = 32  # files that a thread looks at, between two reports and looks at the stop token


class SourceScan(Protocol):
    """A look at a source's files: the source again, with what was found."""

    def __call__(
        self, sequence: Sequence, *, report: Report = ..., token: CancelToken | None = ...
    ) -> Sequence: ...


def frames_in(files: Files) -> Iterable[int]:
    return (frame for first, last in files.runs for frame in range(first, last + 1))


def found_in(header: Header | None, findings: tuple[Finding, ...]) -> Found:
    if header is None:
        nothing = Size(width=16, height=16)
        return Found(format="", size=nothing, channels=(), depth="", findings=findings)
    return Found(
        format=header.format,
        size=Size(width=header.width, height=header.height),
        channels=header.channels,
        depth=header.depth,
        parts=header.parts if len(header.parts) > 1 else (),
        findings=findings,
    )


def examine(
    sequence: Sequence, *, report: Report = silent, token: CancelToken | None = None
) -> Sequence:
    """Look at every file's header and end; the source again, with what was found.

    The size and kind that most frames have are the sequence's; the others are
    findings. Raises Cancelled.
    """
    token = token or CancelToken()
    if sequence.kind == "movie":
        return with_still_seen(examine_movie(sequence), sequence)
    files = sequence.files
    frames = list(frames_in(files))

    def one(frame: int) -> ScannedHeader:
        path = files.path_of(frame)
        try:
            return ScannedHeader(frame, header_of(path, frame))
        except FrameError as error:
            is_growing = error.is_incomplete and is_settling(path)
            return ScannedHeader(
                frame, None, str(error), is_growing=is_growing, is_not_read=error.is_not_read
            )

    def some(frames: Row[int]) -> list[ScannedHeader]:
        return [one(frame) for frame in frames]

    looked: list[ScannedHeader] = []
    with ThreadPoolExecutor(2, "look") as pool:
        for start in range(0, len(frames), 2 * BATCH):
            token.check()
            middle = start + BATCH
            for looks in pool.map(some, (frames[start:middle], frames[middle : middle + BATCH])):
                looked += looks
            report(Progress("looking", len(looked), len(frames)))
    usual = most_common([one.header for one in looked if one.header is not None])
    quick = check_files(files, looked, usual)
    if usual is None and sequence.found.format:  # all gone: what it was is still known
        now = change(sequence.found, findings=quick)
    else:
        now = found_in(usual, quick)
    reading = sequence.reading
    if usual is not None and not sequence.found.format:
        reading = first_reading(usual, Habits())
    looked_at = with_still_seen(change(sequence, found=now, reading=reading), sequence)
    if now.format == Format.EXR:
        from waxseal.core.arrive.datalike import with_part_seen  # NumPy: only where needed

        return with_part_seen(looked_at)
    if reading.alpha.value is Alpha.NONE:
        return looked_at
    return with_alpha_seen(looked_at)


def header_of(path: Path, frame: int) -> Header:
    """As `look`: of a file that has not changed since it was looked at, what was seen then.

    So a look at tens of thousands of frames, of which one has come, opens one. A file that was
    written a moment ago is opened in any case: it may have changed without another time.
    """
    if is_settling(path):
        return look(path, frame)
    return header_seen(path, frame, file_identity(path))


@lru_cache(maxsize=100_000)
def header_seen(path: Path, frame: int, _identity: str) -> Header:
    return look(path, frame)


def still_seen(sequence: Sequence) -> list[Finding]:
    """What a close look found in files that have not changed since."""
    return [
        finding
        for finding in sequence.found.findings
        if finding.seen and finding.seen == file_identity(sequence.files.path_of(finding.frame))
    ]


def with_still_seen(sequence: Sequence, before: Sequence) -> Sequence:
    """The findings of a quick look, with what a close one saw before it in the same file."""
    quick = sequence.found.findings
    broken = {finding.frame for finding in quick if finding.kind in UNREADABLE}
    kept = [finding for finding in still_seen(before) if finding.frame not in broken]
    explained = {finding.frame for finding in kept}
    findings = [
        *(
            one
            for one in quick
            if one.kind is not FindingKind.ODD_SIZE or one.frame not in explained
        ),
        *kept,
    ]
    findings.sort(key=lambda finding: finding.frame)
    return change(sequence, found=change(sequence.found, findings=tuple(findings)))


def most_common(headers: Row[Header]) -> Header | None:
    """A header of the size and kind that most have; the earliest where they are as many."""
    if not headers:
        return None
    counts = Counter(header_kind(header) for header in headers)
    usual = counts.most_common(1)[0][0]
    return next(header for header in headers if header_kind(header) == usual)


def mark_moved(sequence: Sequence) -> Sequence:
    files = sequence.files
    folder = Path(files.folder)
    name = files.name_of(files.range.first) if folder.is_dir() else plain(folder)
    finding = Finding(
        kind=FindingKind.MOVED,
        frame=files.range.first,
        file=files.name_of(files.range.first),
        what=f"{name} is not where it was: find it elsewhere, or bring it back",
    )
    return change(sequence, found=change(sequence.found, findings=(finding,)))


def look_again(
    sequence: Sequence, *, report: Report = silent, token: CancelToken | None = None
) -> Sequence:
    """The same source from its folder as it is now: frames may have come, gone or been mended.

    A folder, or a single file, that is gone leaves the source as it was but for
    one finding, which says that it is not where it was.
    """
    folder = Path(sequence.files.folder)
    one_file = sequence.files.path_of(sequence.files.range.first)
    is_single = sequence.kind == "movie" or sequence.files.count == 1
    if not folder.is_dir() or (is_single and not one_file.exists()):
        return mark_moved(sequence)
    if sequence.kind == "movie":
        return examine(sequence, report=report, token=token)
    listed = list_paths([folder], token)
    for found_in_folder, named in listed.sequences:
        files = named.files_in(found_in_folder)
        if (files.folder, files.pattern) == (sequence.files.folder, sequence.files.pattern):
            return examine(change(sequence, files=files), report=report, token=token)
    return examine(sequence, report=report, token=token)


def elsewhere(look: SourceScan, sequence: Sequence) -> Sequence:
    """A short look in a helper process, where this process has them.

    Hundreds of looks in this process would keep its other threads waiting.
    Raises UnreadableInput where the helper did not survive it.
    """
    try:
        return Sequence.model_validate(run_apart("", look_at_parts, look, sequence.model_dump()))
    except HelperLost as error:
        raise UnreadableInput(f"{sequence.name} could not be looked at: {error}.") from error


def look_at_parts(look: SourceScan, parts: dict[str, Any]) -> dict[str, Any]:
    """A source goes there and back in its parts: its own classes cannot be sent."""
    return look(Sequence.model_validate(parts)).model_dump()
