"""What an empty window does not need, imported in its first free moments.

The modules of cards, rows and dockets are imported when the first one is made. This imports
them before anybody asks for one, a module in each turn of the event loop. It works on the
window's own thread, because two threads must not load the toolkit's classes at once.
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
