"""How far a delivery is, as a line on its card."""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPaintEvent
from typing_extensions import override

from waxseal.app.look.accessibility import DrawnWidget
from waxseal.app.look.palette import current
from waxseal.app.look.text_scale import px

__all__ = ["ProgressLine"]

TALL = 4  # pixels


class ProgressLine(DrawnWidget):
    """Hidden while nothing runs."""

    def __init__(self) -> None:
        super().__init__()
        self._share = 0.0
        self.setFixedHeight(px(TALL))
        self.hide()

    def show_share(self, share: float | None) -> None:
        """share: 0..1; None for nothing that runs."""
        self.setVisible(share is not None)
        if share is not None and share != self._share:
            self._share = share
            self.setAccessibleName(self.tr("{0} %").format(round(100 * share)))
            self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), current().colour("sunken"))
            done = QRectF(0, 0, self.width() * self._share, self.height())
            painter.fillRect(done, current().colour("wax"))
