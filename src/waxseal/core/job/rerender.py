"""The re-render list as text: what has to come again, altogether and for each reason."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from pathlib import Path

from waxseal.core.job.sources import FindingKind, Sequence
from waxseal.core.timing.ranges import write_frames
from waxseal.core.words import plain

__all__ = ["reasons_to_render", "rerender_text"]


def reasons_to_render(sequence: Sequence) -> dict[str, str]:
    """Frame ranges in Fileseq's notation by reason; those to look at are not to come again."""
    doubtful = {
        finding.frame
        for finding in sequence.findings
        if finding.kind not in (FindingKind.DAMAGED, FindingKind.STRAY)
    }
    ranges = {
        "not there": write_frames(sequence.missing),
        "damaged": write_frames(sequence.damaged),
        "to look at": write_frames(doubtful),
    }
    return {reason: frames for reason, frames in ranges.items() if frames}


def rerender_text(sequences: Iterable[Sequence]) -> str:
    """A block of lines for each sequence that has something to come again or to look at."""
    return "\n".join(line for sequence in sequences for line in block_of(sequence))


def block_of(sequence: Sequence) -> Iterator[str]:
    reasons = reasons_to_render(sequence)
    if not reasons:
        return
    yield plain(Path(sequence.files.folder) / sequence.files.pattern)
    if sequence.to_rerender:
        yield f"  re-render: {write_frames(sequence.to_rerender)}"
    for reason, frames in reasons.items():
        yield f"  {reason}: {frames}"
    yield ""
