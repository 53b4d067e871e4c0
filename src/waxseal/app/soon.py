"""What is not needed to show the window, fetched in its first free moments.

A card, a row and a docket are fetched when the first is made. This is done before anybody
asks for one, a module in each turn of the loop. It has to be this thread: no other may
make the toolkit's classes.
"""

from __future__ import annotations

from collections.abc import Iterator
from importlib import import_module

from PySide6.QtCore import QObject

from waxseal.app.look.gradually import Gradually

__all__ = ["Soon"]

NEEDED = (
    "waxseal.app.look.eliding",
    "waxseal.core.deliver.match",
    "waxseal.core.deliver.specs.book",
    "waxseal.app.finish.docket",
    "waxseal.app.tray.docket",
    "waxseal.app.tray.card",
    "waxseal.app.reel.row",
    "waxseal.app.outbox.docket",
    "waxseal.app.outbox.card",
    "waxseal.app.reel.overlayrow",
    "waxseal.app.reel.soundrow",
    "waxseal.app.reel.reeldocket",
    "waxseal.app.tray.habits",
    "waxseal.app.outbox.bookmenu",
    "waxseal.app.outbox.specbook",
    "waxseal.app.announcing",
    "waxseal.app.actionlist",
)


class Soon(QObject):
    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._left: Iterator[str] = iter(NEEDED)
        self._steps = Gradually(self, self._fetch)

    def begin(self) -> None:
        self._steps.start()

    def _fetch(self) -> bool:
        name = next(self._left, "")
        if name:
            import_module(name)
        return bool(name)
