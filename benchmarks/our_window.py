"""Our window from nothing to usable: shown, drawn, and back in its event loop."""

from __future__ import annotations

import gc
import os
import sys
import tempfile
from pathlib import Path


def main() -> None:
    gc.disable()  # as the command does before it reads these
    from PySide6.QtCore import QSettings, QTimer

    from waxseal.app.start_window import make_application, show
    from waxseal.app.window import Window

    with tempfile.TemporaryDirectory() as place:
        app = make_application()
        settings = QSettings(str(Path(place) / "settings.ini"), QSettings.Format.IniFormat)
        window = Window(settings, Path(place) / "autosave")
        show(window)
        QTimer.singleShot(0, app.quit)
        app.exec()
        sys.stdout.flush()
        os._exit(0)  # the start is measured, not the end


if __name__ == "__main__":
    main()
