"""Does it look whole: every frame decoded, and held against its neighbours.

What cannot be decoded is damaged. What can is measured once, small, and
judged with the whole sequence in view.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from waxseal.core.arrive.looks import judge_looks
from waxseal.core.arrive.measuring import Measure, measure_pixels
from waxseal.core.arrive.memory import Memory, Remembered, still_known
from waxseal.core.arrive.sources import identity
from waxseal.core.errors import Cancelled, FrameError
from waxseal.core.frames.careful import carefully
from waxseal.core.frames.reading import read_pixels
from waxseal.core.job.model import Finding, FindingKind, Sequence, changed
from waxseal.core.progress import CancelToken, Report, silent
from waxseal.core.speed import Speedometer

__all__ = ["look_deep"]

BATCH = 32


def measure_file(path: Path, *, frame: int, part: str) -> Measure:
    """Decode a frame and measure it. Raises FrameError."""
    return measure_pixels(frame, read_pixels(path, frame=frame, part=part))


def look_deep(
    sequence: Sequence,
    *,
    memory: Memory | None = None,
    afresh: bool = False,
    workers: int = 2,
    report: Report = silent,
    token: CancelToken | None = None,
) -> Sequence:
    """Decode every frame; the source again, with what was found on top of the quick look.

    memory: where measures of unchanged files are taken from (unless all is
        looked at afresh), and kept, even when the look is cancelled.
    Raises Cancelled.
    """
    token = token or CancelToken()
    # What the quick look found damaged needs no decoder.
    quick = [finding for finding in sequence.found.findings if not finding.seen]
    unreadable = (FindingKind.DAMAGED, FindingKind.ARRIVING)
    broken = {one.frame for one in quick if one.kind in unreadable}
    frames = [
        frame
        for first, last in sequence.files.runs
        for frame in range(first, last + 1)
        if frame not in broken
    ]
    paths = {frame: sequence.files.path_of(frame) for frame in frames}
    identities = {frame: identity(path) for frame, path in paths.items()}
    recalled = memory.recall(sequence) if memory is not None and not afresh else {}
    known = still_known(recalled, identities.items())
    fresh = [frame for frame in frames if frame not in known]
    wanted = sequence.reading.part.value
    speed = Speedometer("looking closely", len(fresh))

    def one(frame: int) -> Remembered:
        token.check()
        try:
            measure = carefully(measure_file, paths[frame], frame=frame, part=wanted)
        except FrameError as error:
            # What was not the file's fault is tried again at the next look.
            known_as = "" if error.is_passing else identities[frame]
            return Remembered(known_as, None, str(error))
        return Remembered(identities[frame], measure)

    try:
        with ThreadPoolExecutor(workers, "deep") as pool:
            for start in range(0, len(fresh), BATCH):
                part = fresh[start : start + BATCH]
                known |= zip(part, pool.map(one, part), strict=True)
                report(speed.at(start + len(part)))
    except Cancelled:
        if memory is not None:
            memory.keep(sequence, known)
        raise
    if memory is not None and fresh:
        memory.keep(sequence, known)

    def found(kind: FindingKind, frame: int, what: str) -> Finding:
        file = sequence.files.name_of(frame)
        return Finding(kind=kind, frame=frame, file=file, what=what, seen=identities[frame])

    in_order = [known[frame] for frame in frames]
    measures = [one.measure for one in in_order if one.measure is not None]
    findings = [
        # An odd size asks to look closely; that has been done.
        *(one for one in quick if one.kind is not FindingKind.ODD_SIZE),
        *(
            found(FindingKind.DAMAGED, frame, known[frame].trouble)
            for frame in frames
            if known[frame].measure is None
        ),
        *(found(*look) for look in judge_looks(measures, sequence.found.size.width)),
    ]
    findings.sort(key=lambda finding: (finding.frame, finding.kind))
    return changed(sequence, found=changed(sequence.found, findings=tuple(findings)))
