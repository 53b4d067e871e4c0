"""How long a job of 2 000 sources keeps the event loop waiting while it is opened and saved.

`python -m benchmarks.opening FOLDER [COUNT]`: prints one line of JSON.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QTimer

from benchmarks.gaps import Gaps, fill, run_window, tell
from waxseal.app.modal_wait import is_waiting
from waxseal.app.window import Window
from waxseal.core.arrive.scanning import scan
from waxseal.core.job.edits import take_in
from waxseal.core.job.job_file import save
from waxseal.core.job.model import Job

LONGEST_S = 90.0


def main(folder: Path, count: int) -> None:
    path = folder / f"opened-{count}.waxseal"
    save(take_in(Job(), sources=scan([fill(folder, count)]).sources, folder=str(folder)), path)

    def open_and_save(window: Window, gaps: Gaps) -> Callable[[], None]:
        is_asked = False
        gaps.begin()
        window.take([path])
        opened = time.monotonic() - gaps.begun
        assert len(window.document.job.sources) == count

        def look() -> None:
            late = time.monotonic() - gaps.begun > LONGEST_S
            if is_waiting() or (window.arriving.is_busy and not late):
                return
            nonlocal is_asked
            if not is_asked:  # not in here: the timer that counts would wait for it
                QTimer.singleShot(0, save_it)
            is_asked = True

        def save_it() -> None:
            begun = time.monotonic()
            assert window.files.save()
            saved = time.monotonic() - begun
            times = {"opened": round(opened, 2), "saved": round(saved, 2)}
            QTimer.singleShot(100, lambda: tell(times | gaps.figures()))

        return look

    run_window(open_and_save)


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 2000)
