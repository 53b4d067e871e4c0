"""Starting the window. What is not needed to show it is imported later, on threads."""

from __future__ import annotations

import signal
import sys
from pathlib import Path

from PySide6.QtCore import QEvent, QSettings, QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from waxseal.app.gc_control import GarbageControl, collect_here_only
from waxseal.app.idle_imports import Soon
from waxseal.app.look.accessibility import let_widgets_speak
from waxseal.app.look.icons import icon_file
from waxseal.app.look.palette import Look, desktop_look, set_look
from waxseal.app.look.style_sheet import load_font
from waxseal.app.process_end import end_process
from waxseal.app.window import Window
from waxseal.app.window_settings import Settings
from waxseal.core.folders import has_screen
from waxseal.core.helpers import use_helpers
from waxseal.core.private_folder import folder_troubles

__all__ = ["HELPERS_NICE", "SWITCH_S", "make_application", "open_window", "show"]

HELPERS_NICE = 5  # a busy machine decodes a little later; the window answers at once
SWITCH_S = 0.0002  # how long another thread keeps the window waiting: it asks for little at a time
SOON_MS = 100  # after the window is shown, before what opens in it is imported
WAKE_MS = 250  # so that Ctrl-C in the terminal is heard


def make_application(look: Look | None = None) -> QApplication:
    """The application. Its look is applied when the first window is built; see `dress`."""
    collect_here_only()
    # As an argument: `setStyle` gives back the style, and the class of that takes 20 ms to load.
    app = QApplication.instance() or QApplication([sys.argv[0], "-style", "Fusion"])
    if not isinstance(app, QApplication):
        raise TypeError("a Qt application without widgets is running already")
    app.setApplicationName("waxseal")
    app.setApplicationDisplayName("Wax Seal")
    app.setWindowIcon(QIcon(str(icon_file("waxseal"))))
    load_font(app)
    let_widgets_speak()
    set_look(look or desktop_look())
    return app


def show(window: Window) -> None:
    """Show a window. Then import what opens in it, and keep Python's collector out of the way."""
    window.show()

    def state() -> object | None:
        is_playing = window.player.is_playing
        return None if is_playing else (window.player.frame, id(window.document.job))

    GarbageControl(window, state)
    QTimer.singleShot(SOON_MS, Soon(window).begin)


def open_window(paths: list[Path]) -> int:
    """Open the window with a job, folders or frames; returns the exit code."""
    if not has_screen():
        sys.stderr.write(
            "There is no screen here. The commands scan, assemble, check and "
            "demo --headless work without one: see waxseal --help.\n"
        )
        return 2
    settings = QSettings("waxseal", "waxseal")
    app = make_application(Settings(settings).look)
    use_helpers(nice=HELPERS_NICE)
    sys.setswitchinterval(SWITCH_S)
    window = Window(settings)
    show(window)
    window.say(" ".join(folder_troubles()))
    if paths:
        window.take(paths)
    else:
        window.files.offer_recovery()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP, signal.SIGQUIT):
        signal.signal(number, lambda *_: app.exit(0))
    waking = QTimer(interval=WAKE_MS)
    waking.timeout.connect(lambda: None)
    waking.start()
    code = app.exec()
    window.end()
    # While the application is still there: the interpreter would take them apart in any order.
    waking.stop()
    window.deleteLater()
    app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    end_process(code)
    return code
