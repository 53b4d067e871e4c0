"""Small widgets that every lane uses: elided text, marks, thumbnails, fields."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetrics,
    QIcon,
    QImage,
    QKeyEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
)
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QToolTip,
    QWidget,
)
from typing_extensions import override

from waxseal.app.look.key_widgets import Button
from waxseal.app.look.palette import current
from waxseal.app.look.tooltips import set_tip
from waxseal.core.errors import WaxSealError

__all__ = [
    "Elided",
    "Field",
    "Strip",
    "button",
    "check",
    "discard",
    "empty",
    "image_of",
    "keeping_focus",
    "label",
    "mark",
    "rename",
    "restyle",
    "row_of",
    "swatch",
]


def label(text: str, name: str = "", *, wraps: bool = False) -> QLabel:
    made = QLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setObjectName(name)
    made.setWordWrap(wraps)
    return made


def mark(text: str, tone: str) -> QLabel:
    """A word in a thin frame: whole, 3 to come again."""
    made = label(text, "mark")
    made.setProperty("tone", tone)
    made.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
    return made


def button(
    text: str, act: Callable[[], Any], name: str = "", *, may_shrink: bool = False
) -> QPushButton:
    made = Button(text, may_shrink=may_shrink)
    made.setObjectName(name)
    made.setAccessibleName(text.replace("&", ""))
    made.clicked.connect(lambda *_: act())
    return made


def rename(made: QPushButton, text: str) -> None:
    """Other words on a button, for the eye and the ear."""
    made.setText(text)
    made.setAccessibleName(text.replace("&", ""))


def check(words: str, act: Callable[[bool], Any], name: str = "") -> QCheckBox:
    """A box to tick; `act` is called with whether it is ticked."""
    made = QCheckBox(words)
    made.setObjectName(name)
    made.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
    made.clicked.connect(lambda *_: act(made.isChecked()))
    return made


def swatch(colour: str) -> QIcon:
    """A colour as the icon of a button."""
    pixmap = QPixmap(12, 12)
    pixmap.fill(QColor(colour))
    return QIcon(pixmap)


def row_of(*widgets: QWidget | int, gap: int = 8) -> QHBoxLayout:
    """Widgets side by side; a number is a stretch."""
    row = QHBoxLayout()
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(gap)
    for widget in widgets:
        if isinstance(widget, int):
            row.addStretch(widget)
        else:
            row.addWidget(widget)
    return row


def restyle(widget: QWidget, **properties: object) -> None:
    """Set properties that the style sheet looks at, and let it look again."""
    for name, value in properties.items():
        widget.setProperty(name, value)
    widget.style().unpolish(widget)
    widget.style().polish(widget)


def discard(widget: QWidget) -> None:
    """Let a widget go: out of sight at once, and away when its events are through."""
    widget.hide()
    widget.deleteLater()


def empty(layout: Any) -> None:
    """Take everything out of a layout; the widgets go when Qt finds time."""
    while layout.count():
        item = layout.takeAt(0)
        if item.widget() is not None:
            discard(item.widget())
        elif item.layout() is not None:
            empty(item.layout())


@contextmanager
def keeping_focus(widget: QWidget) -> Iterator[None]:
    """What is inside a widget may be made anew: the focus goes to what has the same name then.

    Where nothing has, it goes to the widget itself, or to what that is on.
    """
    focus = QApplication.focusWidget()
    if focus is None or not widget.isAncestorOf(focus):
        yield
        return
    names, before = names_of(focus), set(widget.findChildren(QWidget))
    yield

    def give() -> None:
        made = [one for one in widget.findChildren(QWidget) if one not in before]
        alike = [one for one in made if names_of(one) == names and one.isVisible()]
        place: QWidget | None = alike[0] if alike else widget
        while place is not None and place.focusPolicy() is Qt.FocusPolicy.NoFocus:
            place = place.parentWidget()
        if place is not None:
            place.setFocus(Qt.FocusReason.OtherFocusReason)

    # What a layout has just got is shown, and takes the focus, after this event.
    if not focus.isVisible():
        QTimer.singleShot(0, widget, give)


def names_of(widget: QWidget) -> tuple[str, str, str]:
    """What tells a widget of a docket from the others in it."""
    return type(widget).__name__, widget.objectName(), widget.accessibleName()


def image_of(screen: Any) -> QImage:
    """A QImage on a (height, width, 4) picture of B, G, R, 255, which it keeps alive."""
    height, width = screen.shape[:2]
    image = QImage(screen.data, width, height, screen.strides[0], QImage.Format.Format_RGB32)
    image.pixels = screen  # type: ignore[attr-defined]  # shared memory: not to be freed before
    return image


NARROWEST = 24
COMPLAINT_MS = 8000


class Elided(QLabel):
    """Text that is cut with an ellipsis where there is no room, and whole in its tool tip."""

    def __init__(self, text: str, name: str = "", *, middle: bool = False) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self._mode = Qt.TextElideMode.ElideMiddle if middle else Qt.TextElideMode.ElideRight
        self._whole = ""
        self.say(text)

    def say(self, text: str) -> None:
        self._whole = text
        self.setAccessibleName(text)
        self._fit()

    @property
    def whole(self) -> str:
        return self._whole

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        self._fit()

    @override
    def sizeHint(self) -> QSize:
        metrics = QFontMetrics(self.font())
        return QSize(metrics.horizontalAdvance(self._whole) + 2, metrics.height())

    @override
    def minimumSizeHint(self) -> QSize:
        return QSize(NARROWEST, QFontMetrics(self.font()).height())

    def _fit(self) -> None:
        metrics = QFontMetrics(self.font())
        shown = metrics.elidedText(self._whole, self._mode, max(NARROWEST, self.width()))
        self.setText(shown)
        set_tip(self, self._whole if shown != self._whole else "")


class Field(QLineEdit):
    """A text field that says `said` with the value it was turned into, or shows what is wrong."""

    said = Signal(object)
    wrong = Signal(str)

    def __init__(self, text: str, name: str, turn: Callable[[str], object]) -> None:
        super().__init__(text)
        self._turn, self._shown, self._is_typed = turn, text, False
        self.setAccessibleName(name)
        self.textEdited.connect(self._type)
        self.editingFinished.connect(self._finish)

    def show_text(self, text: str) -> None:
        self._shown = text
        if not self.hasFocus() or self.property("wrong") is not True:
            self.setText(text)
            self._complain("")

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.text() != self._shown:
            self._is_typed = False
            self._complain("")
            self.setText(self._shown)
            self.selectAll()
            event.accept()
            return
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()  # not on to the card, which would open or close

    def _complain(self, words: str) -> None:
        """Show a complaint at the field; an empty text takes it away."""
        if not words and self.property("wrong") is not True:
            return
        restyle(self, wrong=bool(words))
        self.setAccessibleDescription(words)
        set_tip(self, words)
        if words and self.isVisible():
            below = self.mapToGlobal(self.rect().bottomLeft())
            QToolTip.showText(below, self.toolTip(), self, self.rect(), COMPLAINT_MS)

    def _type(self, _text: str) -> None:
        self._is_typed = True

    def _finish(self) -> None:
        # What is typed is said, also where it is what stood there: a guess is confirmed so.
        is_same, self._is_typed = self.text() == self._shown and not self._is_typed, False
        if is_same:
            return
        try:
            value = self._turn(self.text())
        except (WaxSealError, ValueError) as error:
            self._complain(str(error))
            self.wrong.emit(str(error))
            return
        self._complain("")
        self._shown = self.text()
        self.said.emit(value)


class Strip(QWidget):
    """Real frames side by side, each in the same shape; empty ones while they are made."""

    def __init__(self, count: int, *, height: int = 28) -> None:
        super().__init__()
        self._images: list[QImage | None] = [None] * count
        self._tall = height
        self.setFixedHeight(height)
        self.setFixedWidth(count * (height * 16 // 9 + 2))

    def show_image(self, place: int, image: QImage | None) -> None:
        if place < len(self._images):
            self._images[place] = image
            self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        wide = self._tall * 16 // 9
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            for place, image in enumerate(self._images):
                room = QRectF(place * (wide + 2), 0, wide, self._tall)
                painter.fillRect(room, QColor(current().sunken))
                if image is not None:
                    painter.drawImage(fit_inside(image.size(), room), image)


def fit_inside(size: QSize, room: QRectF) -> QRectF:
    """The largest rectangle of a picture's shape inside another, centred."""
    scale = min(room.width() / max(1, size.width()), room.height() / max(1, size.height()))
    shape = QRectF(0, 0, size.width() * scale, size.height() * scale)
    shape.moveCenter(room.center())
    return shape
