"""What an empty window does not need, imported in its first free moments.

The modules of cards, rows and dockets are imported when the first one is made. This imports
them before anybody asks for one, a module in each turn of the event loop. It works on the
window's own thread, because two threads must not load the toolkit's classes at once.
"""

from __future__ import annotations

from collections.abc import Iterator
from importlib import import_module

from PySide6.QtCore import QObject

from waxseal.app.look.idle_steps import IdleSteps

__all__ = ["Soon"]

NEEDED = (
    "waxseal.app.look.elided_label",
    "waxseal.core.deliver.match",
    "waxseal.core.deliver.specs.spec_book",
    "waxseal.app.finish_panel.finish_docket",
    "waxseal.app.tray.source_docket",
    "waxseal.app.tray.source_card",
    "waxseal.app.reel_view.shot_row",
    "waxseal.app.outbox.delivery_docket",
    "waxseal.app.outbox.delivery_card",
    "waxseal.app.reel_view.overlay_row",
    "waxseal.app.reel_view.sound_row",
    "waxseal.app.reel_view.reel_docket",
    "waxseal.app.tray.job_defaults",
    "waxseal.app.outbox.spec_menu",
    "waxseal.app.outbox.spec_book_dialog",
    "waxseal.app.notifications",
    "waxseal.app.actionlist",
)


class Soon(QObject):
    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._left: Iterator[str] = iter(NEEDED)
        self._steps = IdleSteps(self, self._fetch)

    def begin(self) -> None:
        self._steps.start()

    def _fetch(self) -> bool:
        name = next(self._left, "")
        if name:
            import_module(name)
        return bool(name)
