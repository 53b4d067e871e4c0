"""A reel of ten minutes, played on and on: `python -m benchmarks.playing --minutes N`.

Six hundred shots of a second with their own sounds, in the real window, on the silent device,
which runs by the clock on the wall. Says each minute how far the picture was from that clock,
how many pictures were left out, and how much memory the window takes. Ends with 1 where the
picture was more than a frame away while it had the machine for itself, or memory grew.
"""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
import time
from functools import partial
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
import psutil
import soundfile
from PySide6.QtCore import QSettings

from waxseal.app.start_window import make_application
from waxseal.app.window import Window
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import Edit, put_on_reel
from waxseal.core.sound.audio_devices import SilentOutlet

RATE, SECOND, SHOTS = 48_000, 24, 600
WARM_MINUTES = 3  # until caches are full and libraries have what they keep
MOST_GROWTH = 1.1


def write_shot(folder: Path) -> None:
    """A second of frames that move, with a noise of their name."""
    folder.mkdir()
    random = np.random.default_rng(1)
    for number in range(1, SECOND + 1):
        pixels = np.full((360, 640, 3), 40, np.uint8)
        pixels[:, number * 25 : number * 25 + 20] = 230
        write_pixels(folder / f"shot.{number:04}.png", pixels)
    soundfile.write(folder / "shot.wav", random.uniform(-0.1, 0.1, (RATE, 2)), RATE)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=10)
    minutes = parser.parse_args().minutes
    with tempfile.TemporaryDirectory() as folder:
        write_shot(Path(folder) / "shot")
        app = make_application()
        window = Window(QSettings(str(Path(folder) / "settings.ini"), QSettings.Format.IniFormat))
        window.player.sounding.opener = lambda rate, channels, _name: SilentOutlet(rate, channels)
        window.resize(1280, 800)
        window.show()
        window.take([Path(folder) / "shot"])
        while not window.document.job.reel.shots:
            app.processEvents()
        source = window.document.job.reel.shots[0].source
        window.document.do(Edit("repeat", partial(put_on_reel, sources=[source] * (SHOTS - 1))))
        watched = Watched(window)
        window.player.toggle()
        until = time.monotonic() + minutes * 60
        while time.monotonic() < until:
            app.processEvents()
            time.sleep(0.001)
        window.player.stop()
        os._exit(watched.verdict())  # closing would ask whether to save
    return watched.verdict()


class Watched:
    """late: by how many frames a picture was behind the clock, each time that one came."""

    def __init__(self, window: Window) -> None:
        self._window = window
        self._begun: float | None = None
        self._minute = 0
        self._late: list[float] = []
        self._dropped = 0
        self._memory: list[int] = []
        self._worst = 0.0
        window.player.moved.connect(self._moved)
        window.player.dropped.connect(self._drop)

    def _drop(self, count: int) -> None:
        self._dropped = count

    def _moved(self, frame: int) -> None:
        now = time.monotonic()
        if not self._window.player.is_playing:
            return
        if self._begun is None:  # the device has opened: its clock runs from here on
            self._begun = now - (frame - 1) / SECOND
        length = SECOND * SHOTS
        due = (now - self._begun) * SECOND
        late = (due - (frame - 1) + length / 2) % length - length / 2
        self._late.append(late)
        if now - self._begun >= 60 * (self._minute + 1):
            self._tell()

    def _tell(self) -> None:
        self._minute += 1
        memory = psutil.Process().memory_info().rss
        self._memory.append(memory)
        middle, far = np.median(self._late), max(self._late, key=abs)
        self._worst = max(self._worst, abs(float(middle)))
        print(
            f"minute {self._minute:3}: {middle:+.2f} frames from the clock, {far:+.2f} at most; "
            f"{self._dropped} pictures left out; {memory >> 20} MB",
            flush=True,
        )
        self._late = []

    def verdict(self) -> int:
        memory = self._memory[WARM_MINUTES:]
        grew = len(memory) > 1 and memory[-1] > memory[0] * MOST_GROWTH
        is_late = self._worst > 1
        print("memory grows" if grew else "memory stays", "·", "late" if is_late else "in step")
        return 1 if grew or is_late else 0


if __name__ == "__main__":
    sys.exit(main())
