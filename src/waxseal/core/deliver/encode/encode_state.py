"""One encode while it runs: what is to be made, and how far it is."""

from __future__ import annotations

import shutil
import threading
import time
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.errors import Cancelled
from waxseal.core.job.model import Quality
from waxseal.core.plan.recipe_range import Recipes
from waxseal.core.progress import CancelToken, Progress, Report
from waxseal.core.speedometer import Speedometer
from waxseal.core.text_format import bytes_words

__all__ = ["HERE", "EncodeOptions", "EncodeState"]


@dataclass(frozen=True, slots=True)
class EncodeOptions:
    """workers: segments at a time on this machine; 0 for as many as are of use.

    cluster: the address of a Dask scheduler, or its file; empty for this machine alone.
    is_fresh: whether only segments that this process encodes are used, none that were kept.
    keeps: whether what is encoded is kept; what only looks changes nothing.
    """

    workers: int = 0
    cluster: str = ""
    is_fresh: bool = False
    keeps: bool = True


HERE = EncodeOptions()

PATIENCE, TICK = 600.0, 1.0  # seconds that somebody has to make room
MARGIN = 1_000_000  # bytes, for sound and container


class EncodeState:
    """Told of each frame, from any thread.

    marks: of the frames that are encoded, by their places from 0.
    sizes: of the segments that are done, in bytes, by the places of their first frames.
    keys: of the segments, as the store has them. who: encodes it. remarks: sentences on how it
    went.
    qualities: of segments that have another one than the form says, by the same places.
    """

    def __init__(
        self,
        film: Recipes,
        form: ResolvedFormat,
        report: Report,
        token: CancelToken,
        *,
        stage: str = "encoding",
        who: EncodeOptions = HERE,
        qualities: Mapping[int, Quality] | None = None,
    ) -> None:
        self.film, self.form, self.token = film, form, token
        self.comparison = form.comparison
        self.marks: dict[int, Any] = {}
        self.who = who
        self.sizes: dict[int, int] = {}
        self.segments_kept = 0
        self.keys: list[str] = []
        self.remarks: list[str] = []
        self.qualities = qualities or {}
        self._report = report
        self._speed = Speedometer(stage, film.frames.count)
        # Encoders keep dozens of pictures back: a frame is half done when its picture is made.
        self._halves = 0
        self._coded: Counter[int] = Counter()  # frames, by the places of their segments
        self._rested = 0.0  # until when, by the clock
        self._lock = threading.Lock()
        self._given_up = threading.Event()

    def check(self) -> None:
        """Wait while the work is held; raise Cancelled where nobody wants it any more."""
        was_held, begun = self.token.is_held, time.monotonic()
        self.token.check()
        if was_held:
            self._rest(begun)
        if self._given_up.is_set():
            raise Cancelled

    def _rest(self, begun: float) -> None:
        """Nothing was done since then; several threads may say so of the same time."""
        with self._lock:
            now = time.monotonic()
            self._speed.rest(now - max(begun, self._rested))
            self._rested = now

    def remark(self, sentence: str) -> None:
        """Note something for the seal and whoever ordered the delivery."""
        self.remarks.append(sentence)

    def give_up(self) -> None:
        """Let the threads that still work at it end."""
        self._given_up.set()

    def made(self, place: int, mark: Any) -> None:
        """A picture was made, and the encoder has it."""
        with self._lock:
            self.marks[place] = mark
            self._go_on(1)

    def coded(self, segment: int) -> None:
        """A frame was encoded, of the segment that begins at a place."""
        with self._lock:
            self._coded[segment] += 1
            self._go_on(1)

    def found(self, place: int, marks: tuple[Any, ...]) -> None:
        """Frames from a place on had been encoded before."""
        with self._lock:
            self.segments_kept += 1
            self._speed.skip(len(marks))
            self._come(place, marks)

    def came(self, place: int, marks: tuple[Any, ...]) -> None:
        """Frames from a place on were encoded elsewhere."""
        with self._lock:
            self._come(place, marks)

    def _come(self, place: int, marks: tuple[Any, ...]) -> None:
        self.marks.update(enumerate(marks, place))
        self._coded[place] = len(marks)
        self._go_on(2 * len(marks))

    def _go_on(self, halves: int) -> None:
        before = self._halves // 2
        self._halves += halves
        if self._halves // 2 != before:
            self._report(self._speed.at(self._halves // 2))

    def wait_for_room(self, folder: Path, needed: int) -> None:
        """Until so many bytes are free; after a while what is written says that they are not."""
        begun = time.monotonic()
        while time.monotonic() < begun + PATIENCE:
            missing = needed + MARGIN - shutil.disk_usage(folder).free
            if missing <= 0:
                break
            self.check()
            stage = f"waiting for {bytes_words(missing)} more on the disk"
            self._report(Progress(stage, self._halves // 2, self.film.frames.count))
            time.sleep(TICK)
        self._rest(begun)

    def unmade(self, place: int, count: int) -> None:
        """Frames are to be encoded again, in another way."""
        with self._lock:
            there = [one for one in range(place, place + count) if one in self.marks]
            for one in there:
                del self.marks[one]
            self._halves -= len(there) + self._coded.pop(place, 0)
