"""How long each act keeps the event loop waiting, with 2 000 sources, 500 shots
with their sounds, and 20 free ones.

`python -m benchmarks.acting FOLDER [COUNT]`: prints one line of JSON, the gaps of all acts and
the three longest by the act's name. The change of the look is left to `editing`.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import partial
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray
from PySide6.QtWidgets import QApplication, QLineEdit

from benchmarks.gaps import Gaps, fill, run_window, tell
from waxseal.app.window import Window
from waxseal.core.arrive.scanning import scan
from waxseal.core.job import edits
from waxseal.core.job.edits import Edit
from waxseal.core.job.model import Job, Size, change

SHOTS, SOUNDS = 500, 20
SHOWN_S, BETWEEN_S = 5.0, 0.8

Act = tuple[str, Callable[[], object]]


def main(folder: Path, count: int) -> None:
    whole = fill(folder, count)
    give_sounds(whole)
    job = edits.take_in(Job(), sources=scan([whole]).sources, folder=str(folder))
    shots = job.reel.shots[:SHOTS]
    there = {shot.id for shot in shots}
    sounds = tuple(one for one in job.reel.sounds if one.shot in there)
    job = change(job, reel=change(job.reel, shots=shots, sounds=sounds))
    for sound in job.sounds[-SOUNDS:]:
        job = edits.lay_sound(job, source=sound.id, at=1 + 40 * len(job.reel.sounds) % 900)

    def work(window: Window, gaps: Gaps) -> Callable[[], None]:
        window.document.begin(job)
        acts = acts_in(window, job)
        due, done, longest = time.monotonic() + SHOWN_S, "", dict[str, float]()
        before = 0  # gaps that there were when the act was begun

        def turn() -> None:
            nonlocal due, done, before
            if time.monotonic() < due or window.elsewhere.is_busy:
                return
            if done:
                longest[done] = max(longest.get(done, 0.0), *gaps.seconds[before:])
            elif not gaps.begun:
                gaps.begin()
            name, act = next(acts, ("", None))
            if act is None:
                worst = sorted(longest.items(), key=lambda one: -one[1])[:3]
                tell(gaps.figures() | {one: round(gap, 3) for one, gap in worst})
            else:
                before = len(gaps.seconds)
                act()
                done, due = name, time.monotonic() + BETWEEN_S

        return turn

    run_window(work)


def give_sounds(whole: Path) -> None:
    """To each of the shots its own, and some that are free."""
    second = np.zeros((4000, 2), np.float32)
    for number in range(SHOTS):
        write_once(whole / f"sh{number:04}" / f"sh{number:04}.wav", second)
    for number in range(SOUNDS):
        write_once(whole / "zz music" / f"music {number}.wav", np.tile(second, (20, 1)))


def write_once(path: Path, samples: NDArray[np.float32]) -> None:
    if not path.is_file():
        path.parent.mkdir(exist_ok=True)
        soundfile.write(path, samples, 48_000)


def acts_in(window: Window, job: Job) -> Iterator[Act]:
    """What somebody does in a long day, each change followed by its undo."""
    source, shot = job.sequences[1].id, job.reel.shots[1].id
    sound = job.reel.sounds[-1].id
    delivery, rate = job.deliveries[0].id, job.sequences[0].reading.rate.value
    (filtered, *_) = [one for one in window.tray.findChildren(QLineEdit) if one.isVisible()]

    def search(text: str) -> None:
        filtered.setText(text)
        filtered.textEdited.emit(text)

    def changes(name: str, edit: Callable[..., Job], **fields: object) -> Iterator[Act]:
        yield name, lambda: window.document.do(Edit(name, partial(edit, **fields)))
        yield f"undo: {name}", window.document.undo

    def many(name: str, edit: Callable[..., Job], **fields: object) -> Iterator[Act]:
        yield name, lambda: window.elsewhere.act(Edit(name, partial(edit, **fields)))
        yield f"undo: {name}", window.document.undo

    def menu() -> None:
        window.outbox.offer()

    def away() -> None:
        popup = QApplication.activePopupWidget()
        if popup is not None:
            popup.close()

    for text in ("s", "sh0", "sh001", ""):
        yield f"filter “{text}”", partial(search, text)
    for name, toggle in (
        ("docket of a source", partial(window.tray.toggle, source)),
        ("docket of a shot", partial(window.ledger.toggle, shot)),
        ("docket of a sound", partial(window.ledger.toggle, sound)),
        ("docket of a delivery", partial(window.outbox.toggle, delivery)),
        ("docket of the reel", window.ledger.toggle_reel),
        ("habits", window.tray.toggle_habits),
    ):
        yield name, toggle
        yield from changes(f"trim beside it: {name}", edits.trim_tail, shot=shot, last=1)
        yield f"{name}, closed", toggle
    yield "the spec book", menu
    yield "the spec book, closed", away
    for name in ("play", "play", "last", "first", "alpha", "alpha", "one", "fit", "tray", "tray"):
        yield name, window.actions_[name].trigger
    yield from many("confirm all rates", edits.confirm_rates, rate=rate)
    yield from many("a habit", edits.set_habit, habit="rate", value=Fraction(30))
    yield from changes("the reel's rate", edits.set_reel_rate, rate=Fraction(25))
    yield from changes("the reel's size", edits.set_reel_size, size=Size(width=128, height=72))
    yield from changes("move a shot", edits.move_shot, shot=shot, to=40)
    yield from changes("remove a shot", edits.remove_shot, shot=shot)
    yield from changes("remove a source", edits.remove_source, source=source)
    yield from changes("the gain of a sound", edits.change_sound, sound=sound, gain=-3.0)
    yield from changes("take a sound off", edits.lift_sound, sound=sound)
    yield "a delivery", window.outbox.add
    yield "undo: a delivery", window.document.undo


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 2000)
