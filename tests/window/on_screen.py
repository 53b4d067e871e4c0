"""Run by test_on_screen under a virtual screen: the window as a person sees it."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QSettings
from PySide6.QtTest import QTest

from waxseal.app.look.palette import Look
from waxseal.app.main import make_application
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

    until(lambda: bool(window.desk.job.reel.shots) and window.viewer.has_picture)
    shown = window.screen().grabWindow(window.winId()).toImage()
    middle = window.viewer.mapTo(window, window.viewer.rect().center())
    surround = window.viewer.mapTo(window, window.viewer.rect().topLeft())
    picture, grey = shown.pixelColor(middle), shown.pixelColor(surround.x() + 3, surround.y() + 60)
    assert grey.red() == grey.green() == grey.blue()
    assert picture != grey
    window.outbox.send_all()

    def is_sealed() -> bool:
        outcome = window.desk.job.deliveries[0].outcome
        return outcome is not None and outcome.state is DeliveryState.SEALED

    until(is_sealed)
    window.end(is_orderly=True)
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), Path(sys.argv[2])))
