"""The queue: which deliveries wait, which one is made, and where each of them is. Values only.

A window or a command drives it: it starts what `next_to_start` names and says what
happened. No process and no clock here.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from waxseal.core.job.model import Delivery, DeliveryState, Outcome
from waxseal.core.progress import Progress

__all__ = ["RUNNING", "ChangesSince", "Queue", "Status", "changed_since"]

RUNNING = (DeliveryState.WAITING, DeliveryState.ENCODING, DeliveryState.CHECKING)


@dataclass(frozen=True, slots=True)
class Status:
    """Where a delivery is: its state, how far, and what it ended with."""

    state: DeliveryState
    progress: Progress | None = None
    outcome: Outcome | None = None
    is_held: bool = False
    is_awaiting: bool = False  # frames that are still to come

    @property
    def is_running(self) -> bool:
        return self.state in RUNNING


@dataclass(frozen=True, slots=True)
class Queue:
    """waiting: ids of deliveries, in order. current: the one that is made now; empty for none.

    is_held: whether the current one waits until somebody lets it go on.
    """

    waiting: tuple[str, ...] = ()
    current: str = ""
    progress: Progress | None = None
    is_held: bool = False

    @property
    def is_busy(self) -> bool:
        return bool(self.current)

    def add(self, delivery: str) -> Queue:
        """Put a delivery at the end; one that waits or is made already stays where it is."""
        if delivery == self.current or delivery in self.waiting:
            return self
        return replace(self, waiting=(*self.waiting, delivery))

    def remove(self, delivery: str) -> Queue:
        """Take a delivery out that still waits."""
        return replace(self, waiting=tuple(one for one in self.waiting if one != delivery))

    def clear(self) -> Queue:
        return replace(self, waiting=())

    def keep(self, there: Sequence[str]) -> Queue:
        """Those that wait and are in the job still, in its order."""
        return replace(self, waiting=tuple(one for one in there if one in self.waiting))

    def hold(self, *, held: bool) -> Queue:
        return replace(self, is_held=held and self.is_busy)

    def next_to_start(self) -> str:
        """What can be started now; empty for nothing."""
        return "" if self.current or not self.waiting else self.waiting[0]

    def start(self, delivery: str) -> Queue:
        return Queue(self.remove(delivery).waiting, delivery)

    def proceed(self, progress: Progress) -> Queue:
        """Note how far the current one is."""
        return replace(self, progress=progress)

    def end(self) -> Queue:
        """The current one is made, or not: it is over."""
        return Queue(self.waiting)

    def left(self, frames: Mapping[str, int]) -> tuple[int, float | None]:
        """Frames that are still to be made of all, and about how many seconds that takes.

        frames: of each delivery, by its id. None while the speed is not known.
        """
        done = speed = 0.0
        if self.progress is not None:
            is_checked = self.progress.stage == "checking"
            done = frames.get(self.current, 0) if is_checked else self.progress.done
            speed = 0.0 if is_checked else self.progress.per_second
        left = sum(frames.get(one, 0) for one in (self.current, *self.waiting)) - round(done)
        return max(0, left), left / speed if speed else None

    def status(self, delivery: Delivery) -> Status:
        if delivery.id == self.current:
            is_checking = self.progress is not None and self.progress.stage == "checking"
            state = DeliveryState.CHECKING if is_checking else DeliveryState.ENCODING
            return Status(state, self.progress, is_held=self.is_held)
        if delivery.id in self.waiting:
            return Status(DeliveryState.WAITING)
        if delivery.outcome is not None:
            return Status(delivery.outcome.state, None, delivery.outcome)
        return Status(DeliveryState.DRAFT)


class ChangesSince(StrEnum):
    """What is another since a file was sealed."""

    NOTHING = ""
    REEL = "reel"
    SETTINGS = "settings"
    FRAMES = "frames"


def changed_since(
    delivery: Delivery, outcome: Outcome, *, reel_key: str, film_key: str = ""
) -> ChangesSince:
    """film_key: of what the reel is made of now; empty where nobody has looked yet."""
    if outcome.made_from != reel_key:
        return ChangesSince.REEL
    if outcome.made_as not in ("", delivery.key):
        return ChangesSince.SETTINGS
    if film_key and outcome.made_of != film_key:
        return ChangesSince.FRAMES
    return ChangesSince.NOTHING
