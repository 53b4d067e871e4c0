"""One encode while it runs: what is to be made, and how far it is."""

from __future__ import annotations

import shutil
import threading
import time
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from waxseal.core.deliver.form import Form
from waxseal.core.errors import Cancelled
from waxseal.core.job.model import Quality
from waxseal.core.picture.kernels.choice import KernelChoice
from waxseal.core.plan.film import Recipes
from waxseal.core.progress import CancelToken, Progress, Report
from waxseal.core.speed import Speedometer
from waxseal.core.words import bytes_words

__all__ = ["HERE", "Who", "Work"]


@dataclass(frozen=True, slots=True)
class Who:
    """workers: segments at a time on this machine; 0 for as many as are of use.

    cluster: the address of a Dask scheduler, or its file; empty for this machine alone.
    """

    workers: int = 0
    cluster: str = ""


HERE = Who()

PATIENCE, TICK = 600.0, 1.0  # seconds that somebody has to make room
MARGIN = 1_000_000  # bytes, for sound and container


class Work:
    """Told of each frame, from any thread.

    marks: of the frames that are encoded, by their places from 0.
    sizes: of the segments that are done, in bytes, by the places of their first frames.
    keys: of the segments, as the store has them. who: encodes it.
    qualities: of segments that have another one than the form says, by the same places.
    """

    def __init__(
        self,
        film: Recipes,
        form: Form,
        kernels: KernelChoice,
        report: Report,
        token: CancelToken,
        *,
        stage: str = "encoding",
        who: Who = HERE,
        qualities: Mapping[int, Quality] | None = None,
    ) -> None:
        self.film, self.form, self.kernels, self.token = film, form, kernels, token
        self.comparison = form.comparison
        self.marks: dict[int, Any] = {}
        self.who = who
        self.sizes: dict[int, int] = {}
        self.segments_kept = 0
        self.keys: list[str] = []
        self.qualities = qualities or {}
        self._report = report
        self._speed = Speedometer(stage, film.frames.count)
        self._lock = threading.Lock()
        self._given_up = threading.Event()

    def check(self) -> None:
        """Raise Cancelled where nobody wants the work any more."""
        self.token.check()
        if self._given_up.is_set():
            raise Cancelled

    def give_up(self) -> None:
        """Let the threads that still work at it end."""
        self._given_up.set()

    def made(self, place: int, mark: Any) -> None:
        """A frame was encoded."""
        with self._lock:
            self.marks[place] = mark
            self._report(self._speed.at(len(self.marks)))

    def found(self, place: int, marks: tuple[Any, ...]) -> None:
        """Frames from a place on had been encoded before."""
        with self._lock:
            self.marks.update(enumerate(marks, place))
            self.segments_kept += 1
            self._speed.skip(len(marks))
            self._report(self._speed.at(len(self.marks)))

    def came(self, place: int, marks: tuple[Any, ...]) -> None:
        """Frames from a place on were encoded elsewhere."""
        with self._lock:
            self.marks.update(enumerate(marks, place))
            self._report(self._speed.at(len(self.marks)))

    def wait_for_room(self, folder: Path, needed: int) -> None:
        """Until so many bytes are free; after a while what is written says that they are not."""
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until:
            missing = needed + MARGIN - shutil.disk_usage(folder).free
            if missing <= 0:
                return
            self.check()
            stage = f"waiting for {bytes_words(missing)} more on the disk"
            self._report(Progress(stage, len(self.marks), self.film.frames.count))
            time.sleep(TICK)

    def unmade(self, place: int, count: int) -> None:
        """Frames are to be encoded again, in another way."""
        with self._lock:
            for one in range(place, place + count):
                self.marks.pop(one, None)
