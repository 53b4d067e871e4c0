"""How long the window keeps the event loop waiting while 2 000 sequences are dropped on it.

`python -m benchmarks.dropping FOLDER [COUNT]`: prints one line of JSON. The folder is
filled with small sequences once.
"""

from __future__ import annotations

import json
import os
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from PySide6.QtCore import QSettings, QTimer

from waxseal.app.main import HELPERS_NICE, SWITCH_S, make_application
from waxseal.app.window import Window
from waxseal.core.apart import use_helpers
from waxseal.core.frames.writing import write_pixels

SETTLED_S = 3.0  # before the drop: what the window does after its start is over
LONGEST_S = 90.0


def fill(folder: Path, count: int) -> Path:
    """Sequences of two small frames, one folder each."""
    whole = folder / f"dropped-{count}"
    if not whole.is_dir():
        small = np.full((36, 64, 3), 90, np.uint8)
        for number in range(count):
            place = whole / f"sh{number:04}"
            place.mkdir(parents=True)
            for frame in (1, 2):
                write_pixels(place / f"sh{number:04}.{frame:04}.png", small)
    return whole


def main(folder: Path, count: int) -> None:
    whole = fill(folder, count)
    with tempfile.TemporaryDirectory() as place:
        for name in ("DATA", "STATE", "CONFIG", "CACHE"):
            os.environ[f"XDG_{name}_HOME"] = place
        app = make_application()
        use_helpers(nice=HELPERS_NICE)
        sys.setswitchinterval(SWITCH_S)
        settings = QSettings(str(Path(place) / "settings.ini"), QSettings.Format.IniFormat)
        window = Window(settings, Path(place) / "autosave")
        window.show()
        gaps: list[float] = []
        last, dropped, first_card = time.monotonic(), 0.0, 0.0

        def tick() -> None:
            nonlocal last, first_card
            now = time.monotonic()
            if dropped:
                gaps.append(now - last)
                if window.tray.cards and not first_card:
                    first_card = now - dropped
                is_done = len(window.desk.job.sources) == count and not window.arriving.is_busy
                if (is_done and not window.tray.is_busy) or now - dropped > LONGEST_S:
                    tell(gaps, first_card, now - dropped)
            last = now

        def drop() -> None:
            nonlocal dropped
            window.take([whole])
            dropped = time.monotonic()

        timer = QTimer(interval=2)
        timer.timeout.connect(tick)
        timer.start()
        QTimer.singleShot(int(SETTLED_S * 1000), drop)
        app.exec()


def tell(gaps: list[float], first_card: float, whole: float) -> None:
    """Print the figures, and end at once: the drop is measured, not the end."""
    gaps.sort()
    figures = {
        "first card": round(first_card, 2),
        "all": round(whole, 1),
        "longest gap": round(gaps[-1], 3),
        "p99": round(gaps[int(len(gaps) * 0.99)], 3),
        "over 0.1 s": sum(gap > 0.1 for gap in gaps),
    }
    sys.stdout.write(json.dumps(figures) + "\n")
    sys.stdout.flush()
    os._exit(0)


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 2000)
