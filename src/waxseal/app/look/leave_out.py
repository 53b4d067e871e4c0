"""What a narrow window leaves out: the least of a row first, so that the rest is whole."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QLayout, QWidget
from typing_extensions import override

from waxseal.app.look.text_scale import px

__all__ = ["GivesWay", "LeaveOut"]


class GivesWay(QObject):
    """Shows each widget while what it is on is as wide as it asks, in usual pixels.

    For rows below one another, which leave out the same.
    """

    def __init__(self, row: QWidget, widths: dict[QWidget, int]) -> None:
        super().__init__(row)
        self._row, self._widths = row, widths
        row.installEventFilter(self)
        self._show()

    @override
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() is QEvent.Type.Resize:
            self._show()
        return False

    def _show(self) -> None:
        for widget, width in self._widths.items():
            widget.setVisible(self._row.width() >= px(width))


class LeaveOut(QObject):
    """Hides widgets of a layout, the first first, until the rest of it fits."""

    def __init__(self, row: QWidget, layout: QLayout, order: Sequence[QWidget]) -> None:
        super().__init__(row)
        self._row, self._layout, self._order = row, layout, order
        # The room and the need at which something was shown that did not fit: not tried again.
        self._in_vain: tuple[int, int] | None = None
        row.installEventFilter(self)

    @override
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.Resize, QEvent.Type.LayoutRequest):
            self._fit()
        return False

    def _fit(self) -> None:
        inside = self._row.contentsMargins()
        around = self._row.layout()
        margins = around.contentsMargins() if around is not None else inside
        room = self._row.width() - margins.left() - margins.right()
        need = self._layout.minimumSize().width()
        before, has_shown = (room, need), False
        if before == self._in_vain:
            return
        hidden = [one for one in self._order if one.isHidden()]
        for one in reversed(hidden):
            least = max(one.minimumSizeHint().width(), one.minimumWidth())
            more = least + max(0, self._layout.spacing())
            if need + more > room:
                break
            one.show()
            need, has_shown = need + more, True
        if has_shown:
            need = self._layout.minimumSize().width()
        for one in self._order:
            if need <= room:
                return
            if not one.isHidden():
                one.hide()
                need = self._layout.minimumSize().width()
                self._in_vain = before if has_shown else None
