"""A window of our own on the bench, and how long its event loop is kept waiting."""

from __future__ import annotations

import json
import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import QSettings, QTimer
from PySide6.QtWidgets import QApplication

from waxseal.app.start_window import HELPERS_NICE, SWITCH_S, make_application, show
from waxseal.app.window import Window
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.helpers import use_helpers

__all__ = ["Gaps", "fill", "run_window", "tell"]

SETTLED_S = 3.0  # before anything is measured: what the window does after its start is over


class Gaps:
    """The times between two turns of the event loop, in seconds, from `begin` on.

    Beside each the processor time of the window's own thread: the rest of it, it waited for other
    threads, or for a machine that others share.
    """

    def __init__(self) -> None:
        self.seconds: list[float] = []
        self.own: list[float] = []
        self.begun = 0.0
        self._last, self._own = time.monotonic(), time.thread_time()

    def begin(self) -> None:
        self.begun = self._last = time.monotonic()
        self._own = time.thread_time()
        self.seconds.clear()
        self.own.clear()

    def tick(self) -> None:
        now, own = time.monotonic(), time.thread_time()
        if self.begun:
            self.seconds.append(now - self._last)
            self.own.append(own - self._own)
        self._last, self._own = now, own

    def figures(self) -> dict[str, float]:
        ordered = sorted(self.seconds)
        return {
            "longest gap": round(ordered[-1], 3),
            "most own work": round(max(self.own), 3),
            "p99": round(ordered[int(len(ordered) * 0.99)], 3),
            "over 0.1 s": sum(gap > 0.1 for gap in ordered),
        }


def fill(folder: Path, count: int) -> Path:
    """Sequences of two small frames, one folder each, made once."""
    whole = folder / f"dropped-{count}"
    if not whole.is_dir():
        small = np.full((36, 64, 3), 90, np.uint8)
        for number in range(count):
            place = whole / f"sh{number:04}"
            place.mkdir(parents=True)
            for frame in (1, 2):
                write_pixels(place / f"sh{number:04}.{frame:04}.png", small)
    return whole


def run_window(act: Callable[[Window, Gaps], Callable[[], None]]) -> None:
    """Start the window, let it settle, begin an act; what it returns is called at each turn."""
    with tempfile.TemporaryDirectory() as place:
        for name in ("DATA", "STATE", "CONFIG", "CACHE"):
            os.environ[f"XDG_{name}_HOME"] = place
        app: QApplication = make_application()
        use_helpers(nice=HELPERS_NICE)
        sys.setswitchinterval(SWITCH_S)
        settings = QSettings(str(Path(place) / "settings.ini"), QSettings.Format.IniFormat)
        window = Window(settings, Path(place) / "autosave")
        show(window)
        gaps = Gaps()
        timer = QTimer(interval=2)
        timer.timeout.connect(gaps.tick)
        timer.start()

        def begin() -> None:
            timer.timeout.connect(act(window, gaps))

        QTimer.singleShot(int(SETTLED_S * 1000), begin)
        app.exec()


def tell(figures: dict[str, float]) -> None:
    """Print the figures, and end at once: the act is measured, not the end."""
    sys.stdout.write(json.dumps(figures) + "\n")
    sys.stdout.flush()
    os._exit(0)
