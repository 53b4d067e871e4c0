"""How a stack's passes compare with the beauty: a figure, a picture, the worst frame."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from waxseal.core.errors import JobError
from waxseal.core.job.model import Colourway, Job, Space
from waxseal.core.picture.light.light_reader import Means, light_of, light_of_shown
from waxseal.core.picture.light.pass_stacking import Difference, difference
from waxseal.core.plan.frame_picks import pick_of, pick_passes
from waxseal.core.progress import CancelToken

__all__ = ["Compared", "compare_frame", "compare_stack"]

EQUAL = 2e-3  # of the mean light: what halves in a sum of passes come to


@dataclass(frozen=True, slots=True)
class Compared:
    """worst: the frame that is farthest apart, and how far; frames: how many were looked at."""

    frame: int
    worst: Difference
    frames: int

    @property
    def is_equal(self) -> bool:
        return self.worst.part <= EQUAL

    @property
    def words(self) -> str:
        share = f"{self.worst.part * 100:.2f} %"
        if self.is_equal:
            return (
                f"The passes add up to the beauty: they differ by at most {share}, "
                f"at frame {self.frame}."
            )
        return (
            f"The passes do not add up to the beauty: at frame {self.frame} they differ by "
            f"{share} of the light, by up to {self.worst.greatest:.3f} in a pixel."
        )


def compare_frame(job: Job, source: str, frame: int) -> tuple[Difference, NDArray[np.float32]]:
    """The difference at one frame, and as a picture of light, (h, w, 3), always positive.

    Raises JobError where there is no stack or no beauty, FrameError.
    """
    sequence = job.sequence(source)
    stack = sequence.stack
    if stack is None or not stack.beauty:
        raise JobError(f"{sequence.name} has no beauty to compare its passes with.")
    means = Means(Colourway(), Space.LINEAR)
    sources = {one.id: one for one in job.sequences}
    passes = pick_passes(stack, frame, sources)
    summed = light_of_shown(passes, means)
    beauty = light_of(pick_of(job.sequence(stack.beauty), frame), means)
    if summed.shape[:2] != beauty.shape[:2]:
        raise JobError("The passes have another size than the beauty.")
    return difference(summed, beauty), np.abs(summed[..., :3] - beauty[..., :3])


def compare_stack(
    job: Job,
    source: str,
    frames: Iterable[int],
    token: CancelToken | None = None,
) -> Compared:
    """The worst of some frames. Raises JobError, FrameError, Cancelled."""
    found: dict[int, Difference] = {}
    for frame in frames:
        if token is not None:
            token.check()
        found[frame] = compare_frame(job, source, frame)[0]
    if not found:
        raise JobError("There is no frame to compare.")
    worst = max(found, key=lambda frame: found[frame].part)
    return Compared(worst, found[worst], len(found))
