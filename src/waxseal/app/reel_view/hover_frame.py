"""The frame of the reel under the pointer, shown above the rule."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QFrame, QLabel, QVBoxLayout, QWidget

from waxseal.app.look.text_scale import px
from waxseal.app.look.widgets import label
from waxseal.app.pictures import Pictures, ScreenKey
from waxseal.core.plan.programme import Programme
from waxseal.core.timing.timecode import to_timecode

__all__ = ["HoverFrame"]

WIDE, TALL = 176, 99  # pixels that its picture fits into
REST_MS = 80  # that the pointer has to rest
ABOVE = 6  # pixels between it and the rule


class HoverFrame(QFrame):
    """A window of its own without a frame, hidden until the pointer is over the rule."""

    def __init__(self, pictures: Pictures, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.ToolTip)
        self.setObjectName("hover")
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._pictures = pictures
        self._key: ScreenKey | None = None
        self._wanted: tuple[Programme, int] | None = None
        self._resting = QTimer(self, singleShot=True, interval=REST_MS)
        self._resting.timeout.connect(self._ask)
        self._picture = QLabel()
        self._picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._picture.setFixedSize(WIDE, TALL)
        self._words = label("", "small")
        column = QVBoxLayout(self)
        column.setContentsMargins(4, 4, 4, 4)
        column.setSpacing(2)
        column.addWidget(self._picture)
        column.addWidget(self._words)

    def show_frame(self, programme: Programme, frame: int, rule: QWidget, x: float) -> None:
        """frame: of the reel. x: of the pointer on the rule."""
        timeline = programme.timeline
        time = to_timecode(frame - 1, timeline.rate, timeline.counting)
        self._words.setText(f"{frame} · {time}")
        self._wanted = programme, frame
        self._resting.start()
        self._place(rule, x)

    def _ask(self) -> None:
        """The picture, once the pointer rests: each that it passes would have to be decoded."""
        if self._wanted is None or not self.isVisible():
            return
        programme, frame = self._wanted
        recipe = programme.recipe(frame)
        scale = min(WIDE / recipe.width, TALL / recipe.height)
        size = max(1, round(recipe.width * scale)), max(1, round(recipe.height * scale))
        self._key = self._pictures.ask(recipe, *size, tell=self._made)
        self._made(self._key)

    def _place(self, rule: QWidget, x: float) -> None:
        self.adjustSize()
        above = rule.mapToGlobal(QPoint(round(x) - self.width() // 2, -self.height() - px(ABOVE)))
        window = rule.window().frameGeometry()
        left = min(max(above.x(), window.left()), window.right() - self.width())
        self.move(left, above.y())
        self.show()

    def _made(self, key: ScreenKey) -> None:
        """The picture, once it is there; what was shown before stays until then."""
        image = self._pictures.get(key)
        if key == self._key and image is not None:
            self._picture.setPixmap(QPixmap.fromImage(image))
