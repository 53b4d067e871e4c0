"""A number with its name: typed, stepped by key and wheel, or scrubbed by dragging its name."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget
from typing_extensions import override

from waxseal.app.look.widgets import Field
from waxseal.core.errors import WrongUse
from waxseal.core.timing.parse_length import parse_number

__all__ = ["Scrub"]

FASTER, SLOWER = 10.0, 0.1  # with Shift, with Alt
PIXELS_A_STEP = 3


class Handle(QLabel):
    """The name of a number; dragging it sideways scrubs."""

    pressed = Signal()
    dragged = Signal(int, object)  # pixels since the press, and the keys that are held
    released = Signal()
    doubled = Signal()

    def __init__(self, words: str) -> None:
        super().__init__(words)
        self.setObjectName("quiet")
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self._pressed: QPoint | None = None

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self._pressed = event.globalPosition().toPoint()
            self.pressed.emit()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None:
            away = event.globalPosition().toPoint().x() - self._pressed.x()
            self.dragged.emit(away, event.modifiers())

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None:
            self._pressed = None
            self.released.emit()

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.doubled.emit()


class Scrub(QWidget):
    """said: a value within its bounds, at every move. settled: a drag or a typing is over."""

    said = Signal(float)
    settled = Signal()
    wrong = Signal(str)

    def __init__(
        self,
        words: str,
        value: float,
        *,
        least: float,
        most: float,
        step: float,
        usual: float,
        name: str = "",
    ) -> None:
        super().__init__()
        self._least, self._most, self._step, self._usual = least, most, step, usual
        self._value = self._start = value
        self._places = places_of(step)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        self.handle = Handle(words)
        tip = self.tr("Drag to change; Shift is faster, Alt finer; double click: {0}")
        self.handle.setToolTip(tip.format(self._written(usual)))
        self.field = Field(self._written(value), name or words, self._turn)
        self.field.setObjectName(name or words)
        metrics = QFontMetrics(self.field.font())
        self.field.setFixedWidth(metrics.horizontalAdvance("00.00") + 14)
        line.addWidget(self.handle)
        line.addWidget(self.field)
        self.handle.pressed.connect(self._begin)
        self.handle.dragged.connect(self._drag)
        self.handle.released.connect(self._release)
        self.handle.doubled.connect(self._back_to_usual)
        self.field.said.connect(self._typed)
        self.field.wrong.connect(self.wrong)

    @property
    def value(self) -> float:
        return self._value

    def show_value(self, value: float) -> None:
        self._value = value
        self.field.show_text(self._written(value))

    def _written(self, value: float) -> str:
        text = f"{value:.{self._places}f}"
        return "0" if float(text) == 0 and "." not in text else text

    def _turn(self, text: str) -> float:
        value = parse_number(text)
        if not self._least <= value <= self._most:
            raise WrongUse(
                self.tr("Choose a value from {0} to {1}.").format(
                    self._written(self._least), self._written(self._most)
                )
            )
        return value

    def _typed(self, value: float) -> None:
        self._say(value)
        self.settled.emit()

    def _say(self, value: float) -> None:
        value = min(max(value, self._least), self._most)
        if value != self._value:
            self.show_value(value)
            self.said.emit(value)

    def _begin(self) -> None:
        self._start = self._value

    def _drag(self, pixels: int, keys: Qt.KeyboardModifier) -> None:
        steps = pixels / PIXELS_A_STEP
        self._say(round(self._start + steps * self._step * factor_of(keys), self._places + 1))

    def _release(self) -> None:
        self.settled.emit()

    def _back_to_usual(self) -> None:
        self._say(self._usual)
        self._release()

    def _by(self, steps: float, keys: Qt.KeyboardModifier) -> None:
        self._say(round(self._value + steps * self._step * factor_of(keys), self._places + 1))

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._by(1 if event.key() == Qt.Key.Key_Up else -1, event.modifiers())
        else:
            super().keyPressEvent(event)

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.field.hasFocus():  # else the list is scrolled
            self._by(event.angleDelta().y() / 120, event.modifiers())
        else:
            event.ignore()


def factor_of(keys: Qt.KeyboardModifier) -> float:
    if keys & Qt.KeyboardModifier.ShiftModifier:
        return FASTER
    return SLOWER if keys & Qt.KeyboardModifier.AltModifier else 1.0


def places_of(step: float) -> int:
    """Decimals that a step needs."""
    return max(0, len(f"{step:f}".rstrip("0").partition(".")[2]))
