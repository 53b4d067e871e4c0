"""How long the window keeps the event loop waiting while 2 000 sequences are dropped on it.

`python -m benchmarks.dropping FOLDER [COUNT]`: prints one line of JSON. The folder is
filled with small sequences once.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path

from benchmarks.gaps import Gaps, fill, run_window, tell
from waxseal.app.window import Window

LONGEST_S = 90.0


def main(folder: Path, count: int) -> None:
    whole = fill(folder, count)

    def drop(window: Window, gaps: Gaps) -> Callable[[], None]:
        first_card = 0.0
        window.take([whole])
        gaps.begin()

        def look() -> None:
            nonlocal first_card
            since = time.monotonic() - gaps.begun
            if window.tray.cards and not first_card:
                first_card = since
            is_done = len(window.document.job.sources) == count and not window.arriving.is_busy
            if (is_done and not window.tray.is_busy) or since > LONGEST_S:
                times = {"first card": round(first_card, 2), "all": round(since, 1)}
                tell(times | gaps.figures())

        return look

    run_window(drop)


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 2000)
