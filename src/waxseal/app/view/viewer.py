"""The picture with its neutral surround, and what is said over it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from typing_extensions import override

from waxseal.app.look.accessibility import DrawnWidget, say_value
from waxseal.app.look.palette import current
from waxseal.app.pictures import Pictures, ScreenKey
from waxseal.app.view import picture_texts
from waxseal.app.view.comparison_edge import Edge
from waxseal.app.view.inspection_overlay import InspectionOverlay
from waxseal.app.view.picture_caption import caption
from waxseal.app.view.picture_overlays import draw_clipped, draw_path, draw_safe_areas, draw_scopes
from waxseal.app.view.player import Player
from waxseal.app.view.zoom_view import FIT, STEP, Room, Zoom
from waxseal.core.deliver.format.delivery_settings import reel_target_of
from waxseal.core.deliver.preview.file_view import Show
from waxseal.core.errors import JobError
from waxseal.core.job.model import Delivery
from waxseal.core.picture.target import Target
from waxseal.core.plan.programme import Place, Programme
from waxseal.core.plan.recipe import Recipe

if TYPE_CHECKING:
    from waxseal.core.picture.inspection.colour_path import PathStep, TracedFrame
    from waxseal.core.picture.inspection.scopes import Scopes

__all__ = ["Viewer"]

MARGIN = 10
PIXELS_FROM = 2.0  # screen pixels for one of the reel
USUAL = Delivery(id="d0", name="usual", folder="")  # where the outbox is empty


class Viewer(DrawnWidget):
    """size_wanted: the size in device pixels that the picture is shown at.

    cut_dragged: how far what a delivery keeps was dragged right and down, in shares of its
    frame. cut_let_go: the drag is over.
    """

    size_wanted = Signal(int, int)
    cut_dragged = Signal(float, float)
    cut_let_go = Signal()

    def __init__(self, player: Player, pictures: Pictures) -> None:
        super().__init__()
        self.looking = InspectionOverlay(self, pictures)
        self.shows_scopes = self.shows_path = self.shows_safe = self.shows_clipped = False
        self._scopes: Scopes | None = None
        self._traced: TracedFrame | None = None
        self.looking.scoped.connect(self._show_scopes)
        self.looking.traced.connect(self._show_traced)
        self.setMinimumSize(240, 135)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(self.tr("Picture"))
        self._player, self._pictures = player, pictures
        self._programme: Programme | None = None
        self._image: QImage | None = None
        self._place: Place | None = None
        self._trouble = ""
        self._rate, self._dropped = 0.0, 0
        self._has_tab = False
        self._zoom = FIT
        self.edge = Edge()
        self._held: QPointF | None = None  # where the picture was last dragged to
        self._pointer: QPointF | None = None
        self._sampled: object = None
        player.moved.connect(self._moved)
        player.refreshed.connect(self._refresh)
        player.looked_changed.connect(self._look_elsewhere)
        player.programme_changed.connect(self._show_programme)
        player.rate_changed.connect(self._show_rate)
        player.dropped.connect(self._show_dropped)
        player.playing_changed.connect(self._playing_changed)
        pictures.made.connect(self._made)
        pictures.failed.connect(self._failed)
        pictures.sampled.connect(self._show_sampled)

    @property
    def has_picture(self) -> bool:
        return self._image is not None

    @property
    def trouble(self) -> str:
        """What stands in place of a picture that cannot be made."""
        return self._trouble

    @override
    def sizeHint(self) -> QSize:
        return QSize(706, 352)

    def _look_elsewhere(self) -> None:
        """What is shown has another shape and other parts: nothing of the old stays on."""
        self._image = None
        self._ask_size()

    def _show_programme(self, programme: Programme | None) -> None:
        self._programme = programme
        self._ask_size()

    def room(self) -> QRectF:
        """The reel's frame in this widget."""
        return self._zoom.place(self._around())

    def _around(self) -> Room:
        inside = QRectF(self.rect()).adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)
        if self._programme is None:
            return Room(inside.size().toSize(), inside)
        size, zoom = self._player.size or self._programme.timeline.size, self._zoom
        # Nothing is left free around a picture that is larger than its room.
        around = inside if zoom.is_fitted else QRectF(self.rect())
        return Room(QSize(size.width, size.height), around, self.devicePixelRatioF())

    def show_at(self, scale: float) -> None:
        """Screen pixels for a pixel of the reel; 0 is as large as there is room."""
        pointed = self._pointer or QRectF(self.rect()).center()
        self._set_zoom(self._zoom.scaled(scale, pointed, self._around()) if scale else FIT)

    def _set_zoom(self, zoom: Zoom) -> None:
        self._zoom = zoom
        self._ask_size()
        self.update()

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        """Larger and smaller where the pointer is."""
        if self._programme is None or not self.hasFocus():
            event.ignore()
            return
        around = self._around()
        scale = self._zoom.scale_in(around) * STEP ** (event.angleDelta().y() / 120)
        self._set_zoom(self._zoom.scaled(scale, event.position(), around))

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        is_left = event.button() is Qt.MouseButton.LeftButton
        self._held = event.position() if is_left else None
        near = self._zoom.is_fitted or self.edge.is_near(event.position(), self.room())
        self.edge.is_held = is_left and self.shows_both and near
        self._move_edge(event.position())

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if self._held is not None and self._drags_cut:
            self.cut_let_go.emit()
        self._held = None
        self.edge.is_held = False

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Every pixel of the reel as one of the screen, and back."""
        self._held = None
        self._pointer = event.position()
        self.show_at(1.0 if self._zoom.is_fitted else 0.0)

    # ---- a delivery beside its file ----------------------------------------------------------

    @property
    def shows_both(self) -> bool:
        looked = self._player.looked
        return looked is not None and looked.show is Show.BOTH

    @property
    def _drags_cut(self) -> bool:
        """Whether a drag says what the delivery keeps of the picture."""
        looked, beside = self._player.looked, self._player.beside
        is_reel = looked is not None and looked.show is Show.REEL
        return is_reel and beside is not None and beside.is_cut and self._zoom.is_fitted

    def _move_edge(self, to: QPointF) -> None:
        if self.edge.is_held:
            self.edge.move_to(to, self.room())
            self.update()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """The edge goes left and right with Alt."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        by = steps.get(Qt.Key(event.key()), 0)
        if self.shows_both and by and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.edge.step(by)
            self.update()
        else:
            super().keyPressEvent(event)

    def _ask_size(self) -> None:
        if self._programme is None:
            return
        scale = self.devicePixelRatioF()
        room, size = self.room(), self._player.size or self._programme.timeline.size
        # Never larger than the reel: enlarging is the screen's business.
        width = min(size.width, round(room.width() * scale))
        height = min(size.height, round(room.height() * scale))
        self.size_wanted.emit(max(1, width), max(1, height))
        self._take_picture()  # where it is there already, nobody says so

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        self._ask_size()

    def _moved(self, frame: int) -> None:
        self._trouble = ""
        if self._programme is None:
            self._image, self._place = None, None
        else:
            self._place = self._programme.place(frame)
            self._take_picture()
            if self._player.key_of(frame) is None:
                self._image, self._trouble = None, self.tr(picture_texts.IS_NOT_IN_THIS_DELIVERY)
            if not self._player.is_playing:
                length = self._programme.timeline.length
                self.setAccessibleDescription(self.tr("frame {0} of {1}").format(frame, length))
                say_value(self)
        self._sampled = None
        self._ask_values()
        self._ask_looking()
        self.update()

    def _take_picture(self) -> None:
        key = self._player.key_of(self._player.frame)
        image = self._pictures.get(key) if key is not None else None
        if image is not None:
            self._image = image
            self._ask_looking()

    def _refresh(self) -> None:
        self._take_picture()
        self.update()

    def _made(self, key: ScreenKey) -> None:
        if key == self._player.key_of(self._player.frame):
            self._take_picture()
            self.update()

    def _failed(self, key: ScreenKey, sentence: str) -> None:
        if key == self._player.key_of(self._player.frame):
            self._image, self._trouble = None, sentence
            self.update()

    def _show_rate(self, rate: float) -> None:
        self._rate = rate
        self.update()

    def _show_dropped(self, count: int) -> None:
        self._dropped = count

    def _playing_changed(self, is_playing: bool) -> None:
        self._dropped = 0
        if not is_playing:
            self._rate = 0.0
            self._ask_values()
        self.update()

    # ---- values under the pointer ----------------------------------------------------------

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._pointer = event.position()
        if self.edge.is_held:
            self._move_edge(event.position())
        elif self._held is not None and self._drags_cut:
            by, self._held, room = event.position() - self._held, event.position(), self.room()
            self.cut_dragged.emit(by.x() / room.width(), by.y() / room.height())
        elif self._held is not None and not self._zoom.is_fitted:
            by, self._held = event.position() - self._held, event.position()
            self._set_zoom(self._zoom.moved(by, self._around()))
        self._ask_values()
        self.update()

    @override
    def leaveEvent(self, event: object) -> None:
        self._pointer = None
        self.update()

    def _recipe(self) -> Recipe | None:
        """What the reel's frame is made from, where the reel is looked at."""
        return None if self._player.looked is not None else self._player.recipe(self._player.frame)

    def _target(self) -> Target | None:
        """What pictures are made for in the first delivery, whose codes are shown."""
        if self._programme is None:
            return None
        timeline = self._programme.timeline
        for delivery in (*timeline.job.deliveries[:1], USUAL):
            try:
                return reel_target_of(timeline.size, delivery)
            except JobError:
                continue  # its codec is not known here: the usual one is shown
        return None

    # ---- scopes and paths ------------------------------------------------------------------

    def toggle(self, what: str) -> None:
        """Show or hide `scopes`, the `path`, `clipped` parts or `safe` areas."""
        name = f"shows_{what}"
        setattr(self, name, not getattr(self, name))
        self._ask_looking()
        self.update()

    def _ask_looking(self) -> None:
        recipe, key = self._recipe(), self._player.key_of(self._player.frame)
        if key is None or self._player.is_playing:
            return
        if self.shows_path and recipe is not None:
            target = self._target()
            if target is not None:
                self.looking.trace(recipe, target)
        image = self._pictures.get(key)
        is_one = not self.shows_both
        if (self.shows_scopes or self.shows_clipped) and image is not None and is_one:
            self.looking.scope(key, image.pixels)  # type: ignore[attr-defined]

    def _show_scopes(self, _key: ScreenKey, scopes: Scopes) -> None:
        self._scopes = scopes
        self.update()

    def _show_traced(self, _key: str, traced: TracedFrame | None) -> None:
        self._traced = traced
        self.update()

    def path_steps(self) -> tuple[PathStep, ...]:
        """The steps of the pixel under the pointer, or of the middle one."""
        programme, recipe = self._programme, self._recipe()
        if self._traced is None or programme is None or recipe is None:
            return ()
        if self._traced.key != recipe.key:
            return ()
        place = self._pointed(programme) or (
            programme.timeline.size.width // 2,
            programme.timeline.size.height // 2,
        )
        return self._traced.at(*place)

    def _pointed(self, programme: Programme) -> tuple[int, int] | None:
        """The reel frame's pixel under the pointer."""
        if self._pointer is None:
            return None
        room, size = self.room(), self._player.size or programme.timeline.size
        x = int((self._pointer.x() - room.x()) * size.width / room.width())
        y = int((self._pointer.y() - room.y()) * size.height / room.height())
        return x, y

    def _ask_values(self) -> None:
        pair = self._player.pair(self._player.frame)
        if pair is not None and self._pointer is not None and not self._player.is_playing:
            self._pictures.sample_beside(pair)
        recipe, target = self._recipe(), self._target()
        if self._pointer is None or recipe is None or target is None:
            return
        if not self._player.is_playing:
            self._pictures.sample(recipe, target)

    def _show_sampled(self, sampled: object) -> None:
        self._sampled = sampled
        self.update()

    def values_words(self) -> str:
        """The values at the pointer, as they are written under the picture."""
        programme = self._programme
        place = self._pointed(programme) if programme is not None else None
        if self._sampled is None or place is None:
            return ""  # without an import in the middle of drawing
        from waxseal.app.view.pixel_values import held_words, sampled_words

        pair, recipe = self._player.pair(self._player.frame), self._recipe()
        if pair is not None:
            return held_words(self._sampled, pair, place)
        if recipe is None or self._place is None:
            return ""
        return sampled_words(self._sampled, recipe, place, self._place.sequence)

    # ---- drawing ---------------------------------------------------------------------------

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        palette = current()
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), palette.colour("surround"))
            painter.setPen(palette.colour("on_surround"))
            if self._programme is None:
                return
            room = self.room()
            if self._image is not None:
                # Much enlarged, pixels are looked at: they stay what they are.
                is_smooth = self._zoom.scale < PIXELS_FROM
                painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, is_smooth)
                if self.shows_both:
                    words = (self.tr("reel"), self.tr("file"))
                    self.edge.draw(painter, room, self._image, words, QRectF(self.rect()))
                else:
                    painter.drawImage(room, self._image)
                painter.setPen(palette.colour("on_surround"))
            elif self._trouble:
                painter.drawText(
                    room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._trouble
                )
            if self.shows_clipped and not self.shows_both and self._scopes is not None:
                draw_clipped(painter, self._scopes, room)
            if self.shows_safe:
                draw_safe_areas(painter, room)
            self._draw_gap(painter, room)
            self._draw_words(painter)
            inside = QRectF(self.rect()).adjusted(12, 12, -12, -28)
            if self.shows_scopes and not self.shows_both and self._scopes is not None:
                draw_scopes(painter, self._scopes, inside.topRight() + QPointF(0, 16))
            if self.shows_path:
                draw_path(painter, self.path_steps(), inside.bottomLeft())
            if self._has_tab:
                painter.setPen(QPen(palette.colour("on_surround"), 2))
                painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    @override
    def focusInEvent(self, event: QFocusEvent) -> None:
        """Who comes by key sees where they are; who clicks knows it, and judges the picture."""
        by_key = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self._has_tab = event.reason() in by_key
        super().focusInEvent(event)

    @override
    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._has_tab = False
        super().focusOutEvent(event)

    def _draw_gap(self, painter: QPainter, room: QRectF) -> None:
        """Say it where the shot's frame is not there, and what is shown instead."""
        place = self._place
        if place is None or place.is_whole or self._player.is_playing:
            return
        name = place.sequence.name
        if place.shown is None:
            words = self.tr(picture_texts.FRAME_MUST_BE_RERENDERED).format(name, place.frame)
            painter.fillRect(room, current().colour("surround"))
        else:
            words = self.tr(picture_texts.FRAME_STANDS_IN_FOR).format(
                name, place.shown, place.frame
            )
        metrics = painter.fontMetrics()
        box = QRectF(0, 0, metrics.horizontalAdvance(words) + 24, metrics.height() + 12)
        seen = room.intersected(QRectF(self.rect()))
        box.moveCenter(QPointF(seen.center().x(), seen.bottom() - box.height()))
        painter.fillRect(box, current().colour("raised"))
        painter.setPen(current().colour("focus"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        painter.setPen(current().colour("on_surround"))

    def _draw_words(self, painter: QPainter) -> None:
        programme = self._programme
        if programme is None:
            return
        edge = self.rect().adjusted(12, 6, -12, -6)
        percent = round(100 * self._zoom.scale_in(self._around()))
        left = f"{self._player.size or programme.timeline.size} · {percent} %"
        right = caption(self._player, self._rate, self._dropped, drags_cut=self._drags_cut)
        shown = self.room()
        for words, align in (
            (left, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop),
            (right, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop),
            (self.values_words(), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom),
        ):
            if not words:
                continue
            box = painter.boundingRect(QRectF(edge), align, words)
            if shown.intersects(box):  # 4.5:1 whatever is under it
                painter.fillRect(box.adjusted(-4, -1, 4, 1), current().colour("surround", 0.92))
            painter.drawText(box, align, words)
