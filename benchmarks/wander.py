"""A hand that does whatever there is: `python -m benchmarks.wander --count N --seed S`.

Opens the window with a copy of the demo's job and, again and again, presses a visible button,
chooses from a list, types into a field, triggers an action, presses a key, clicks or turns the
wheel somewhere. Nothing may raise; the job has to be written and read as the same job at any
time; undone to the beginning it is the job that was opened, and redone it is the last one.
Dialogs are answered as if nobody chose anything.
"""

from __future__ import annotations

import argparse
import gc
import os
import random
import sys
import time
import traceback
from collections.abc import Callable
from functools import partial
from pathlib import Path
from types import TracebackType

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEvent, QPoint, QSettings, Qt
from PySide6.QtGui import QAction, QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QColorDialog,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMenu,
    QMessageBox,
    QPlainTextEdit,
    QWidget,
)

from benchmarks.seeds import try_each
from waxseal.app.look.palette import Look
from waxseal.app.start_window import make_application
from waxseal.app.window import Window
from waxseal.core.folders import demo_folder
from waxseal.core.job.job_file import read_job, write_job
from waxseal.core.job.model import Job, change
from waxseal.demo.making import make_demo

LEFT = Qt.MouseButton.LeftButton
TYPED = (
    *("", "0", "1", "12", "25", "-3", "1/2", "23.976", "1e9", "99999999999", "nan", "abc"),
    *("1920x1080", "#ff8000", "00:00:10:00", "50%", "10 MB", "a/b", "x" * 300, "é ü 日本", "1-20"),
)
KEYS = (
    *(Qt.Key.Key_Tab, Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Space, Qt.Key.Key_Delete),
    *(Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Home),
    *(Qt.Key.Key_End, Qt.Key.Key_PageDown, Qt.Key.Key_D, Qt.Key.Key_L, Qt.Key.Key_I, Qt.Key.Key_O),
)
NONE, CONTROL = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier
SHIFT, ALT = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier
LEFT_OUT = ("Quit", "Close", "Open", "New", "Save", "window")  # other jobs are another question
PATIENCE_S = 60.0


def answer_nothing() -> None:
    """Every dialog that would wait for somebody is closed at once."""
    answers: tuple[tuple[type, str, object], ...] = (
        (QFileDialog, "getOpenFileName", ("", "")),
        (QFileDialog, "getSaveFileName", ("", "")),
        (QFileDialog, "getOpenFileNames", ([], "")),
        (QFileDialog, "getExistingDirectory", ""),
        (QColorDialog, "getColor", QColor()),
        (QInputDialog, "getItem", ("", False)),
        (QMessageBox, "about", None),
        (QDialog, "exec", 0),
        (QMessageBox, "exec", 0),
        (QMenu, "exec", None),
    )
    for kind, name, answer in answers:
        # (Each with its own answer: a name in a loop would be the last one's.)
        setattr(kind, name, lambda *_words, said=answer, **_more: said)


class Hand:
    def __init__(self, window: Window, seed: int) -> None:
        self.window, self.chance = window, random.Random(seed)  # noqa: S311 - to be repeated
        self.done: list[str] = []
        self.ways: tuple[tuple[int, Callable[[], str]], ...] = (
            (6, self.press),
            (4, self.choose),
            (4, self.type),
            (3, self.trigger),
            (4, self.key),
            (3, self.click),
            (1, self.wheel),
            (1, self.undo),
            (2, self.wait),
        )

    def act(self) -> None:
        weights = [weight for weight, _ in self.ways]
        (way,) = self.chance.choices([one for _, one in self.ways], weights)
        self.done.append(way() or way.__name__)
        QApplication.processEvents()

    def seen(self, kind: type[QWidget]) -> list[QWidget]:
        return [
            one
            for one in self.window.findChildren(kind)
            if one.isVisible() and one.isEnabled() and not one.visibleRegion().isEmpty()
        ]

    def one(self, kind: type[QWidget]) -> QWidget | None:
        there = self.seen(kind)
        return self.chance.choice(there) if there else None

    def press(self) -> str:
        button = self.one(QAbstractButton)
        if not isinstance(button, QAbstractButton):
            return ""
        words = f"press {button.text()!r} {button.objectName()}"
        QTest.mouseClick(button, LEFT)
        return words

    def choose(self) -> str:
        box = self.one(QComboBox)
        if not isinstance(box, QComboBox) or not box.count():
            return ""
        at = self.chance.randrange(box.count())
        words = f"choose {box.itemText(at)!r} of {box.objectName()}"
        box.setFocus()
        box.setCurrentIndex(at)
        box.activated.emit(at)
        return words

    def type(self) -> str:
        field = self.one(self.chance.choice((QLineEdit, QLineEdit, QPlainTextEdit)))
        if field is None:
            return ""
        text = self.chance.choice(TYPED)
        words = f"type {text[:20]!r} into {field.objectName()} {field.accessibleName()}"
        field.setFocus()
        QTest.keyClick(field, Qt.Key.Key_A, CONTROL)
        if text.isascii():
            QTest.keyClicks(field, text)
        elif isinstance(field, QLineEdit):
            field.insert(text)
        if isinstance(field, QLineEdit):
            QTest.keyClick(field, Qt.Key.Key_Return)
        return words

    def trigger(self) -> str:
        actions = [
            one
            for one in self.window.findChildren(QAction)
            if one.isEnabled() and one.isVisible() and one.text() and one.menu() is None
            if not any(word in one.text().replace("&", "") for word in LEFT_OUT)
        ]
        action = self.chance.choice(actions)
        words = f"trigger {action.text()!r}"
        action.trigger()
        return words

    def key(self) -> str:
        target = QApplication.focusWidget() or self.window
        key = self.chance.choice(KEYS)
        modifier = self.chance.choice((NONE, NONE, NONE, SHIFT, ALT))
        words = f"key {key.name} {modifier.name} on {type(target).__name__}"
        QTest.keyClick(target, key, modifier)
        return words

    def click(self) -> str:
        widget = self.one(QWidget)
        if widget is None:
            return ""
        place = QPoint(
            self.chance.randrange(max(1, widget.width())),
            self.chance.randrange(max(1, widget.height())),
        )
        words = f"click {type(widget).__name__} at {place.x()}, {place.y()}"
        if self.chance.random() < 0.3:
            QTest.mousePress(widget, LEFT, pos=place)
            QTest.mouseMove(widget, place + QPoint(self.chance.randrange(-80, 80), 5))
            QTest.mouseRelease(widget, LEFT, pos=place + QPoint(30, 5))
        elif self.chance.random() < 0.2:
            QTest.mouseDClick(widget, LEFT, pos=place)
        else:
            QTest.mouseClick(widget, LEFT, pos=place)
        return words

    def wheel(self) -> str:
        from tests.window.driving import turn_wheel

        widget = self.one(QWidget)
        if widget is None:
            return ""
        words = f"wheel on {type(widget).__name__} {widget.objectName()}"
        turn_wheel(widget, self.chance.choice((-2, 1)))
        return words

    def undo(self) -> str:
        (self.window.document.undo if self.chance.random() < 0.6 else self.window.document.redo)()
        return "undo or redo"

    def wait(self) -> str:
        until = time.monotonic() + self.chance.choice((0.0, 0.02, 0.3))
        while time.monotonic() < until:
            QApplication.processEvents()
        return "wait"


def same(one: Job, other: Job) -> bool:
    """Two jobs, but for what was found out and not done."""

    def bare(job: Job) -> Job:
        deliveries = tuple(change(each, outcome=None) for each in job.deliveries)
        return change(job, deliveries=deliveries)

    return bare(one) == bare(other)


def wander(folder: Path, demo: Path, seed: int, acts: int) -> str:
    """What went wrong; empty for nothing."""
    job = read_job(demo.read_bytes(), demo.parent)
    moved = [change(one, folder=str(folder)) for one in job.deliveries]
    job = change(job, deliveries=tuple(moved))
    settings = QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat)
    window = Window(settings, folder / "autosave")
    window.resize(1280, 800)
    window.show()
    found: list[str] = []

    def note(kind: type[BaseException], error: BaseException, where: TracebackType | None) -> None:
        found.append("".join(traceback.format_exception(kind, error, where)))

    sys.excepthook = note
    hand = Hand(window, seed)
    try:
        window.document.begin(job)
        for _ in range(acts):
            hand.act()
            if found:
                break
            now = window.document.job
            if read_job(write_job(now, Path("/")).encode(), Path("/")) != now:
                found.append("The job is another when it is written and read.")
                break
        until = time.monotonic() + PATIENCE_S
        while window.elsewhere.is_busy and time.monotonic() < until:
            QApplication.processEvents()
        last = window.document.job
        steps = 0
        while window.document.history.undo_name and not found:
            window.document.undo()
            steps += 1
        if not found and window.document.job.reel != job.reel:
            found.append("Undone to the beginning, it is not the reel that was opened.")
        for _ in range(steps):
            window.document.redo()
        if not found and not same(window.document.job, last):
            found.append("Redone, it is not the job that was undone.")
    except Exception:  # noqa: BLE001 - whatever it is, it is a finding
        found.append(traceback.format_exc())
    finally:
        window.end(is_orderly=True)
        window.hide()
        window.deleteLater()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        gc.collect()  # nobody else does: see app.tidying
    return "\n".join([*found, *hand.done[-12:]]) if found else ""


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=10)
    parser.add_argument("--acts", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1, help="of the first one")
    wishes = parser.parse_args()
    demo = make_demo(demo_folder())
    make_application(Look.DAY)
    answer_nothing()
    seeds = range(wishes.seed, wishes.seed + wishes.count)
    return try_each(seeds, partial(wander_in, demo=demo, acts=wishes.acts), "walks")


def wander_in(folder: Path, seed: int, *, demo: Path, acts: int) -> str:
    """A walk with nothing kept from the one before."""
    for name in ("DATA", "STATE", "CONFIG", "CACHE"):
        os.environ[f"XDG_{name}_HOME"] = str(folder / name.lower())
    return wander(folder, demo, seed, acts)


if __name__ == "__main__":
    raise SystemExit(main())
