"""Does it look whole: every frame decoded and compared with its neighbours.

What cannot be decoded is damaged. What can is measured once, small, and
judged with the whole sequence in view.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from waxseal.core.arrive.arrival import file_identity
from waxseal.core.arrive.frame_measures import FrameMeasure, measure_pixels
from waxseal.core.arrive.measure_cache import CachedMeasure, MeasureCache, still_known
from waxseal.core.arrive.sequence_findings import judge_looks
from waxseal.core.errors import FrameError
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.isolated import run_isolated
from waxseal.core.job.model import Finding, FindingKind, Sequence, change
from waxseal.core.progress import CancelToken, Report, silent
from waxseal.core.speedometer import Speedometer

__all__ = ["lights_of", "look_deep"]

BATCH, WORKERS = 32, 2
UNREADABLE = (FindingKind.DAMAGED, FindingKind.NOT_READ, FindingKind.ARRIVING)


def measure_file(path: Path, *, frame: int, part: str) -> FrameMeasure:
    """Decode a frame and measure it. Raises FrameError."""
    return measure_pixels(frame, read_pixels(path, frame=frame, part=part))


def look_deep(
    sequence: Sequence,
    *,
    memory: MeasureCache | None = None,
    afresh: bool = False,
    workers: int = WORKERS,
    report: Report = silent,
    token: CancelToken | None = None,
) -> Sequence:
    """Decode every frame; the source again, with what was found on top of the quick look.

    memory: where measures of unchanged files are taken from (unless all is
        looked at afresh), and kept, even when the look is cancelled.
    Raises Cancelled.
    """
    look = CloseLook(sequence, memory, token or CancelToken())
    look.recall(afresh=afresh)
    look.measure_all(workers, report)
    found = change(sequence.found, findings=look.findings(), is_opaque=look.is_opaque)
    return change(sequence, found=found)


def lights_of(
    sequence: Sequence, *, memory: MeasureCache | None = None, token: CancelToken | None = None
) -> dict[int, float]:
    """How bright each frame is on the whole, 0..1, of those that can be read. Raises Cancelled."""
    look = CloseLook(sequence, memory, token or CancelToken())
    look.recall(afresh=False)
    look.measure_all(WORKERS, silent)
    return look.lights


class CloseLook:
    """One close look at a source: what is known of its frames, and what follows from it."""

    def __init__(self, sequence: Sequence, memory: MeasureCache | None, token: CancelToken) -> None:
        self._sequence, self._memory, self._token = sequence, memory, token
        # What the quick look found damaged needs no decoder.
        self._quick = [finding for finding in sequence.found.findings if not finding.seen]
        broken = {one.frame for one in self._quick if one.kind in UNREADABLE}
        self._frames = [
            frame
            for first, last in sequence.files.runs
            for frame in range(first, last + 1)
            if frame not in broken
        ]
        self._paths = {frame: sequence.files.path_of(frame) for frame in self._frames}
        self._identities = {frame: file_identity(path) for frame, path in self._paths.items()}
        self._known: dict[int, CachedMeasure] = {}

    def recall(self, *, afresh: bool) -> None:
        """Take over what is remembered of files that have not changed."""
        if self._memory is not None and not afresh:
            recalled = self._memory.recall(self._sequence)
            self._known = dict(still_known(recalled, self._identities.items()))

    def measure_all(self, workers: int, report: Report) -> None:
        """Decode and measure every frame that is not known. Raises Cancelled."""
        fresh = [frame for frame in self._frames if frame not in self._known]
        speed = Speedometer("looking closely", len(fresh))
        try:
            with ThreadPoolExecutor(workers, "deep") as pool:
                for start in range(0, len(fresh), BATCH):
                    part = fresh[start : start + BATCH]
                    self._known |= zip(part, pool.map(self._measure, part), strict=True)
                    report(speed.at(start + len(part)))
        finally:
            if self._memory is not None and fresh:
                self._memory.keep(self._sequence, self._known)

    def _measure(self, frame: int) -> CachedMeasure:
        self._token.check()
        part = self._sequence.reading.part.value
        try:
            measure = run_isolated(measure_file, self._paths[frame], frame=frame, part=part)
        except FrameError as error:
            # What was not the file's fault is tried again at the next look.
            known_as = "" if error.is_passing else self._identities[frame]
            return CachedMeasure(known_as, None, str(error))
        return CachedMeasure(self._identities[frame], measure)

    @property
    def lights(self) -> dict[int, float]:
        """The light of each frame that could be read."""
        known = ((frame, one.measure) for frame, one in self._known.items())
        return {frame: measure.light for frame, measure in known if measure is not None}

    @property
    def is_opaque(self) -> bool:
        """Whether the alpha of every frame is 1 everywhere."""
        measures = [one.measure for one in self._known.values()]
        return bool(measures) and all(one is not None and one.is_opaque for one in measures)

    def findings(self) -> tuple[Finding, ...]:
        """What the quick look found, and what follows from all measures together."""
        in_order = [(frame, self._known[frame]) for frame in self._frames]
        measures = [one.measure for _, one in in_order if one.measure is not None]
        damaged = (
            self._found(FindingKind.DAMAGED, frame, one.trouble)
            for frame, one in in_order
            if one.measure is None
        )
        judged = judge_looks(measures, self._sequence.found.size.width)
        findings = [
            # An odd size asks to look closely; that has been done.
            *(one for one in self._quick if one.kind is not FindingKind.ODD_SIZE),
            *damaged,
            *(self._found(*look) for look in judged),
        ]
        return tuple(sorted(findings, key=lambda finding: (finding.frame, finding.kind)))

    def _found(self, kind: FindingKind, frame: int, what: str) -> Finding:
        file, seen = self._sequence.files.name_of(frame), self._identities[frame]
        return Finding(kind=kind, frame=frame, file=file, what=what, seen=seen)
