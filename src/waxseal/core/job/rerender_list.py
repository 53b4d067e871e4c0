"""The re-render list as text: what has to come again, altogether and for each reason."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from types import MappingProxyType

from waxseal.core.job.pass_mismatches import Misfit
from waxseal.core.job.sources import FindingKind, Sequence
from waxseal.core.text_format import plain
from waxseal.core.timing.ranges import write_frames

__all__ = ["frames_to_rerender", "reasons_to_render", "rerender_text"]


def reasons_to_render(sequence: Sequence, misfit: Misfit | None = None) -> dict[str, str]:
    """Frame ranges in Fileseq's notation by reason; those to look at are not to come again.

    misfit: its frames that do not fit the stack that they are a pass of.
    """
    doubtful = {
        finding.frame
        for finding in sequence.findings
        if finding.kind not in (FindingKind.DAMAGED, FindingKind.NOT_READ, FindingKind.STRAY)
    }
    ranges = {
        "not there": write_frames(sequence.missing),
        "damaged": write_frames(sequence.damaged),
        "of another size than its stack": write_frames(misfit.frames if misfit else ()),
        "to look at": write_frames(doubtful),
    }
    return {reason: frames for reason, frames in ranges.items() if frames}


def frames_to_rerender(sequence: Sequence, misfit: Misfit | None = None) -> str:
    """The frames of the re-render list, in Fileseq's notation; empty where there are none."""
    return write_frames(sequence.to_rerender.joined(misfit.frames if misfit else ()))


def rerender_text(
    sequences: Iterable[Sequence], misfits: Mapping[str, Misfit] = MappingProxyType({})
) -> str:
    """A block of lines for each sequence that has something to come again or to look at."""
    return "\n".join(line for one in sequences for line in block_of(one, misfits.get(one.id)))


def block_of(sequence: Sequence, misfit: Misfit | None) -> Iterator[str]:
    reasons = reasons_to_render(sequence, misfit)
    if not reasons:
        return
    yield plain(Path(sequence.files.folder) / sequence.files.pattern)
    again = frames_to_rerender(sequence, misfit)
    if again:
        yield f"  re-render: {again}"
    for reason, frames in reasons.items():
        yield f"  {reason}: {frames}"
    yield ""
