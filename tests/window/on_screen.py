"""Run by test_on_screen under a virtual screen: the window as a person sees it."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QSettings
from PySide6.QtTest import QTest

from waxseal.app.look.palette import Look
from waxseal.app.start_window import make_application
from waxseal.app.window import Window
from waxseal.core.job.model import DeliveryState


def main(folder: Path, place: Path) -> int:
    app = make_application(Look.LAMP)
    assert app.platformName() == "xcb"
    settings = QSettings(str(place / "settings.ini"), QSettings.Format.IniFormat)
    window = Window(settings, place / "autosave")
    window.show()
    assert QTest.qWaitForWindowExposed(window)
    window.take([folder])

    def until(is_so: Callable[[], bool]) -> None:
        end = time.monotonic() + 60
        while not is_so():
            assert time.monotonic() < end
            QTest.qWait(20)

    until(lambda: bool(window.document.job.reel.shots) and window.viewer.has_picture)
    middle = window.viewer.mapTo(window, window.viewer.rect().center())
    corner = window.viewer.mapTo(window, window.viewer.rect().topLeft())

    def is_painted() -> bool:
        """The surround is a grey without hue, and the picture stands out from it."""
        shown = window.screen().grabWindow(window.winId()).toImage()
        picture, grey = shown.pixelColor(middle), shown.pixelColor(corner.x() + 3, corner.y() + 60)
        return picture != grey and grey.red() == grey.green() == grey.blue() > 0

    until(is_painted)
    window.outbox.send_all()
    if window.outbox.asking.isVisible():
        window.outbox.asking.yes.click()

    def is_sealed() -> bool:
        outcome = window.document.job.deliveries[0].outcome
        return outcome is not None and outcome.state is DeliveryState.SEALED

    until(is_sealed)
    window.end(is_orderly=True)
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), Path(sys.argv[2])))
