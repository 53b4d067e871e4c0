"""The errors that Wax Seal raises.

Every message is a sentence: what is, and what to do. A frame that cannot be
read is a finding where frames are looked through, and a FrameError only where
its pixels are needed now.
"""

from __future__ import annotations

from pathlib import Path

__all__ = [
    "Cancelled",
    "DeliveryRefused",
    "FrameError",
    "HelperLost",
    "JobError",
    "NewerJob",
    "SoundError",
    "UnreadableInput",
    "WaxSealError",
    "WorkerLost",
    "WrongUse",
]


class WaxSealError(Exception):
    """Anything that Wax Seal refuses, with a sentence for the person at the desk."""

    def __init__(self, message: str, *, path: Path | None = None, frame: int | None = None) -> None:
        super().__init__(message)
        self.path = path
        self.frame = frame


class WrongUse(WaxSealError):
    """A value that cannot be meant: a rate of 0, a range that runs backwards."""


class UnreadableInput(WaxSealError):
    """A file or folder that is not there, not allowed, or not what it says it is."""


class FrameError(UnreadableInput):
    """One frame whose pixels cannot be had.

    is_incomplete: whether its file just ends too early, and may still grow.
    is_passing: whether another try may go well: the file itself is not to blame.
    is_not_read: whether it is whole, as far as is known, and of a kind that is not read.
    """

    def __init__(
        self,
        message: str,
        *,
        path: Path | None = None,
        frame: int | None = None,
        is_incomplete: bool = False,
        is_passing: bool = False,
        is_not_read: bool = False,
    ) -> None:
        super().__init__(message, path=path, frame=frame)
        self.is_incomplete = is_incomplete
        self.is_passing = is_passing
        self.is_not_read = is_not_read


class SoundError(UnreadableInput):
    """A sound file that cannot be read."""


class JobError(WaxSealError):
    """A job, or an edit of one, that does not hold together."""


class NewerJob(JobError):
    """A job that a newer Wax Seal wrote."""


class DeliveryRefused(WaxSealError):
    """A delivery that is not made, or not good enough to be sealed."""

    def __init__(self, *reasons: str, path: Path | None = None) -> None:
        super().__init__(" ".join(reasons), path=path)
        self.reasons = reasons


class WorkerLost(WaxSealError):
    """The encoding process ended without a word."""


class HelperLost(WaxSealError):
    """A helper process that did not survive its work: the rest of a sentence on why.

    is_outside: whether something else than its work ended it.
    """

    def __init__(self, message: str, *, is_outside: bool = False) -> None:
        super().__init__(message)
        self.is_outside = is_outside


class Cancelled(Exception):
    """Somebody pressed Stop: raised by CancelToken.check(). Not an error."""
