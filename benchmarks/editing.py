"""How long edits keep the event loop waiting, on a reel of 500 shots.

`python -m benchmarks.editing FOLDER [COUNT]`: prints one line of JSON. Trims, with an undo
after each fifth, then a change of the look, which is told apart.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QApplication

from benchmarks.gaps import Gaps, fill, run_window, tell
from waxseal.app.look.palette import Look, current
from waxseal.app.window import Window
from waxseal.core.arrive.scanning import scan
from waxseal.core.job.edits import Edit, put_on_reel, take_in, trim_tail
from waxseal.core.job.model import Job

EDITS = 200
BETWEEN_S = 0.1
SHOWN_S = 3.0


def main(folder: Path, count: int) -> None:
    sources = scan([fill(folder, 40)]).sources
    job = take_in(Job(), sources=sources, folder=str(folder))
    ids = [one.id for one in job.sequences]
    more = count - len(job.reel.shots)
    job = put_on_reel(job, sources=[ids[number % len(ids)] for number in range(more)])

    def edit(window: Window, gaps: Gaps) -> Callable[[], None]:
        window.document.begin(job)
        shot = job.reel.shots[3]
        due, done = time.monotonic() + SHOWN_S, 0

        def turn() -> None:
            nonlocal due, done
            if time.monotonic() < due:
                return
            if not gaps.begun:
                gaps.begin()
            if done == EDITS:
                tell(gaps.figures() | {"look": look_time(window)})
            if done % 6 == 5:
                window.document.undo()
            else:
                last = shot.first + done % 2
                window.document.do(Edit("trim", partial(trim_tail, shot=shot.id, last=last)))
            done, due = done + 1, time.monotonic() + BETWEEN_S

        return turn

    run_window(edit)


def look_time(window: Window) -> float:
    """Seconds until another look is on and drawn."""
    begun = time.monotonic()
    window.use_look(Look.DAY if current().look is Look.LAMP else Look.LAMP)
    QApplication.processEvents()
    return round(time.monotonic() - begun, 3)


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 500)
