"""An empty Qt window and the imports that ours needs: the floor of the start."""

from __future__ import annotations

import sys

from PySide6.QtCore import QTimer
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QApplication, QMainWindow


def main() -> None:
    import fractions  # noqa: F401 - imported by ours too

    import platformdirs  # noqa: F401
    import pydantic

    class Value(pydantic.BaseModel):
        one: int

    app = QApplication(sys.argv)
    QSvgRenderer()
    window = QMainWindow()
    window.resize(1280, 800)
    window.show()
    QTimer.singleShot(0, app.quit)
    app.exec()


if __name__ == "__main__":
    main()
