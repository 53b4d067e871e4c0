"""The rule: the reel in true time across the whole width, for looking and going."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleActionInterface,
    QColor,
    QFont,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
)
from typing_extensions import override

from waxseal.app.look.accessibility import Acts, DrawnWidget, say_value
from waxseal.app.look.frame_marks import draw_frame_state
from waxseal.app.look.levels import share
from waxseal.app.look.palette import Palette, current
from waxseal.app.look.text_scale import px
from waxseal.app.look.waveform import Drawable, Peaks, drawable_pieces
from waxseal.app.pictures import Pictures, ScreenKey
from waxseal.app.reel_view import reel_texts
from waxseal.app.reel_view.hover_frame import HoverFrame
from waxseal.core.job.frame_states import FrameState
from waxseal.core.job.model import LaidSound
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.timeline import Timeline

if TYPE_CHECKING:  # it brings codecs along
    from waxseal.core.sound.loudness_course import LoudnessCourse

__all__ = ["Rule"]

SIDE, TALL = 14, 76
BAR_TALL, MOST_OVERLAYS = 3, 4  # pixels, and how many have room
SCALE_TOP, BLOCK_TOP, BLOCK_TALL, WAVE_TALL = 2, 18, 28, 24
HOLE_TALL = BLOCK_TALL * 2 / 3  # of a mark of frames that cannot be used
LOST_TALL = BLOCK_TALL / 4
BOUND_TALL = 10  # of the waves, where sounds are bound
STEPS = (1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800, 3600)  # seconds between two figures
ROOM = 46  # pixels that a figure needs
THUMB = (50, 28)
WAVES_MS = 100  # waveforms that come meanwhile are drawn together
MOST_PICTURES = 80  # shots: with more of them there is no room for one
LEAST_FILLED = 3  # pixels of a shot between whose borders there is something
LEAST_SLANT = 2  # pixels of a join that can be seen
LEAST_WIDE = 14  # pixels that a shot's number needs


class Rule(DrawnWidget):
    """frame_asked: where the playhead shall go."""

    frame_asked = Signal(int)
    spoken_role = QAccessible.Role.Slider

    def __init__(self, pictures: Pictures, peaks: Peaks) -> None:
        super().__init__()
        self.setFixedHeight(TALL)
        self.setAccessibleName(self.tr(reel_texts.RULE_THE_REEL_IN_TRUE))
        self._pictures, self._peaks = pictures, peaks
        self._programme: Programme | None = None
        self._frame = 1
        self._thumbs: dict[int, ScreenKey] = {}  # by shot: two may show the same picture
        self._pieces: dict[str, tuple[Drawable, ...]] = {}  # of sounds on the reel
        self._course: LoudnessCourse | None = (
            None  # how loud the reel is, where somebody asked for it
        )
        self._still: QPixmap | None = None  # all but the playhead, drawn once
        self._still_in: Palette = current()
        # By itself, not within the act that changed the reel: each is short then.
        self._drawing = QTimer(self, singleShot=True, interval=0)
        self._drawing.timeout.connect(self._forget_still)
        self._hearing = QTimer(self, singleShot=True, interval=WAVES_MS)
        self._hearing.timeout.connect(self._forget_still)
        self._hover = HoverFrame(pictures, self)
        self.setMouseTracking(True)
        pictures.made.connect(self._made)
        pictures.learned.connect(lambda: self.show_programme(self._programme))
        peaks.made.connect(self._heard)

    def show_programme(self, programme: Programme | None) -> None:
        self._programme = programme
        self._thumbs, self._pieces = {}, {}
        if programme is not None and len(programme.timeline.starts) <= MOST_PICTURES:
            for number in range(len(programme.timeline.starts)):
                first = self._first_shown(programme, number)
                recipe = programme.recipe(first)
                width, height = THUMB
                width = max(1, min(width, height * recipe.width // recipe.height))
                key = self._pictures.ask(recipe, width, height)
                self._thumbs[number] = key
        self._draw_anew()

    def show_loudness(self, course: LoudnessCourse | None) -> None:
        """Show the loudness as a line over the sounds, with a mark where they are clipped."""
        self._course = course
        self._draw_anew()

    def _first_shown(self, programme: Programme, number: int) -> int:
        span = programme.timeline.alone(number)
        for frame in range(span.first, min(span.last, span.first + 50) + 1):
            if programme.place(frame).shown is not None:
                return frame
        return span.first

    @override
    def spoken_value(self) -> str:
        length = self._programme.timeline.length if self._programme is not None else 0
        return self.tr("frame {0} of {1}").format(self._frame, length)

    @override
    def spoken_acts(self) -> Acts:
        return {
            QAccessibleActionInterface.increaseAction(): partial(self._step, 1),
            QAccessibleActionInterface.decreaseAction(): partial(self._step, -1),
        }

    def _step(self, by: int) -> None:
        self.frame_asked.emit(self._frame + by)

    def show_frame(self, frame: int) -> None:
        if frame != self._frame:
            self._frame = frame
            say_value(self)
            self.update()

    def _made(self, key: ScreenKey) -> None:
        if key in self._thumbs.values():
            self._draw_anew()

    def _heard(self, _path: str) -> None:
        if not self._hearing.isActive():
            self._hearing.start()

    def _draw_anew(self) -> None:
        self._drawing.start()

    @property
    def is_busy(self) -> bool:
        """Whether the reel is about to be drawn again."""
        return self._drawing.isActive() or self._hearing.isActive()

    def _forget_still(self) -> None:
        self._still = None
        self.update()

    def place_of(self, frame: float) -> float:
        """The x of the beginning of a reel frame."""
        length = self._programme.timeline.length if self._programme else 1
        return SIDE + (frame - 1) * (self.width() - 2 * SIDE) / length

    def frame_at(self, x: float) -> int:
        length = self._programme.timeline.length if self._programme else 1
        frame = 1 + int((x - SIDE) * length / max(1, self.width() - 2 * SIDE))
        return max(1, min(frame, length))

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._go(event)

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._hover.hide()
            self._go(event)
        elif self._programme is not None:
            x = event.position().x()
            self._hover.show_frame(self._programme, self.frame_at(x), self, x)

    @override
    def leaveEvent(self, event: QEvent) -> None:
        self._hover.hide()

    def _go(self, event: QMouseEvent) -> None:
        if self._programme is not None:
            self.frame_asked.emit(self.frame_at(event.position().x()))

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.drawPixmap(0, 0, self._drawn())
            if self._programme is not None:
                self._draw_playhead(painter)

    def _drawn(self) -> QPixmap:
        """All but the playhead: a reel of thousands of shots is not drawn again at each frame."""
        scale = self.devicePixelRatioF()
        size = self.size() * scale
        still = self._still
        if still is None or still.size() != size or self._still_in is not current():
            self._still = still = QPixmap(size)
            still.setDevicePixelRatio(scale)
            self._still_in = current()
            self._draw_reel(still)
        return still

    def _draw_reel(self, still: QPixmap) -> None:
        programme = self._programme
        still.fill(current().colour("ground"))
        with QPainter(still) as painter:
            painter.setFont(self.font())
            if programme is None:
                painter.setPen(current().colour("quiet"))
                words = self.tr(reel_texts.THE_REEL_IS_EMPTY)
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
                return
            self._draw_scale(painter, programme)
            self._draw_marked(painter, programme)
            self._draw_shots(painter, programme)
            self._draw_overlays(painter, programme)
            self._draw_sound(painter, programme)
            if self._course is not None:
                self._draw_loudness(painter, programme, self._course)

    def _draw_scale(self, painter: QPainter, programme: Programme) -> None:
        small = QFont(painter.font())
        small.setPixelSize(px(10))
        painter.setFont(small)
        painter.setPen(current().colour("quiet"))
        seconds = float(programme.timeline.length / programme.timeline.rate)
        per_second = (self.width() - 2 * SIDE) / max(seconds, 1e-6)
        step = next((one for one in STEPS if one * per_second >= ROOM), STEPS[-1])
        for mark in range(int(seconds / step) + 1):
            x = SIDE + mark * step * per_second
            painter.drawLine(QPointF(x, SCALE_TOP + 3), QPointF(x, SCALE_TOP + 10))
            if x + 24 > self.width() - SIDE:
                continue
            painter.drawText(QPointF(x + 3, SCALE_TOP + 10), time_words(mark * step))
            if step == 1 or per_second * step > 2 * ROOM:
                half = x + per_second * step / 2
                if half < self.width() - SIDE:
                    painter.drawLine(QPointF(half, SCALE_TOP + 6), QPointF(half, SCALE_TOP + 10))

    def _draw_marked(self, painter: QPainter, programme: Programme) -> None:
        if programme.timeline.job.reel.marked is None:
            return
        frames = programme.timeline.frames
        left, right = self.place_of(frames.first), self.place_of(frames.last + 1)
        painter.fillRect(QRectF(left, BLOCK_TOP - 4, right - left, 3), current().colour("heed"))

    def _draw_shots(self, painter: QPainter, programme: Programme) -> None:
        """Of shots that share a pixel the first is drawn, and those that lack frames."""
        drawn_to = -1
        start, wide = self.place_of(1), self.place_of(2) - self.place_of(1)
        narrow = []  # they are all border: hundreds of them are drawn in one go
        others = []  # after them, so that no border hides a tick
        for number, part in enumerate(programme.timeline.shots):
            left, right = start + (part.first - 1) * wide, start + part.last * wide
            lacks_frames = bool(part.sequence.unusable)
            if int(right) <= drawn_to and not lacks_frames:
                continue
            drawn_to = int(right)
            if right - left < LEAST_FILLED and not lacks_frames:
                narrow.append(QRect(int(left), BLOCK_TOP, 2, BLOCK_TALL + 1))
            else:
                others.append(number)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(current().colour("line"))
        painter.drawRects(narrow)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for number in others:
            self._draw_shot(painter, programme, number)
        self._draw_joins(painter, programme)
        for number in others:  # nothing hides what is missing
            self._draw_holes(painter, programme, number)

    def _draw_overlays(self, painter: QPainter, programme: Programme) -> None:
        """A bar for each that lies over the shots, the lowest at the bottom."""
        for number, part in enumerate(programme.timeline.overlays[:MOST_OVERLAYS]):
            left, right = self.place_of(part.first), self.place_of(part.last + 1)
            y = BLOCK_TOP + BLOCK_TALL - (number + 1) * (BAR_TALL + 1)
            bar = QRectF(left, y, max(2.0, right - left), BAR_TALL)
            painter.fillRect(bar, current().colour("heed"))

    def _draw_shot(self, painter: QPainter, programme: Programme, number: int) -> None:
        palette, timeline = current(), programme.timeline
        span, alone = timeline.span(number), timeline.alone(number)
        last = span.last
        if number + 1 < len(timeline.shots):
            last = min(last, timeline.shots[number + 1].first - 1)  # what dissolves is the next's
        left, right = self.place_of(span.first), self.place_of(last + 1)
        block = QRectF(left, BLOCK_TOP, max(1.0, right - left - 1), BLOCK_TALL)
        painter.fillRect(block, palette.colour("sunken"))
        left = self.place_of(alone.first)
        text = left + 6
        if block.right() - left > THUMB[0] + 24:
            key = self._thumbs.get(number)
            image = self._pictures.get(key) if key is not None else None
            if image is not None:
                painter.drawImage(QPointF(left, BLOCK_TOP), image)
                text = left + image.width() + 6
        painter.setPen(palette.colour("line"))
        painter.drawRect(block)
        if block.right() - left < LEAST_WIDE:
            return
        bold = QFont(painter.font())
        bold.setPixelSize(px(12))
        bold.setWeight(QFont.Weight.DemiBold)
        painter.setFont(bold)
        wide = painter.fontMetrics().horizontalAdvance(str(number + 1))
        if text + wide + 2 <= block.right():
            painter.setPen(palette.colour("text"))
            painter.drawText(QPointF(text, BLOCK_TOP + BLOCK_TALL / 2 + 4), str(number + 1))

    def _draw_joins(self, painter: QPainter, programme: Programme) -> None:
        """Draw the outline of each join, in its colour if it has one."""
        timeline = programme.timeline
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(current().colour("quiet"), 1.5))
        for part, span in zip(timeline.shots, timeline.joins, strict=True):
            if span is None:
                continue
            cut = self.place_of(part.first)
            before = cut - self.place_of(part.first - (0 if span.overlaps else span.before))
            after = self.place_of(part.first + span.after) - cut
            if before + after < LEAST_SLANT:
                continue
            corners = QPolygonF(
                [
                    QPointF(
                        cut + x * (after if x > 0 else before),
                        BLOCK_TOP + BLOCK_TALL - 1.0 - y * (BLOCK_TALL - 2.0),
                    )
                    for x, y in span.style.outline
                ]
            )
            if span.style.has_colour:
                painter.setBrush(QColor(span.join.colour))
                painter.drawPolygon(corners)
            else:
                painter.drawPolyline(corners)
        painter.restore()

    def _draw_holes(self, painter: QPainter, programme: Programme, number: int) -> None:
        """A mark where a frame of the shot cannot be used."""
        part = programme.timeline.shots[number]
        left, right = self.place_of(part.first), self.place_of(part.last + 1)
        step = (right - left) / part.laid.range.count
        for state, frames in part.sequence.unusable.items():
            for first, last in frames.within(part.laid.range).runs:
                after = part.laid.last - last if part.is_backwards else first - part.laid.first
                wide = max(2.0, step * (last - first + 1))
                tall = LOST_TALL if state is FrameState.LOST else HOLE_TALL  # a name stays seen
                room = QRectF(left + after * step, BLOCK_TOP + BLOCK_TALL - tall, wide, tall)
                draw_frame_state(painter, room, state, "ground")

    def _draw_sound(self, painter: QPainter, programme: Programme) -> None:
        """Bound sounds in a band of their own, below them the free ones."""
        timeline = programme.timeline
        rate = float(timeline.rate)
        wide = (self.width() - 2 * SIDE) * timeline.rate / timeline.length  # pixels a second
        top = BLOCK_TOP + BLOCK_TALL + 2
        has_bound = any(one.bound for one in timeline.job.reel.sounds)
        free_top = top + (BOUND_TALL if has_bound else 0)
        free_tall = WAVE_TALL - (BOUND_TALL if has_bound else 0)
        painter.setClipRect(QRectF(SIDE, 0, self.width() - 2 * SIDE, TALL))
        narrow, drawn_to = [], -1  # of those that share a pixel the first is drawn
        for laid in timeline.job.reel.sounds:
            y, tall = (top, BOUND_TALL) if laid.bound else (free_top, free_tall)
            if laid.bound:
                part = timeline.part_of(laid.shot)
                left, right = (SIDE + n * float(wide) / rate for n in (part.first - 1, part.last))
                if right - left < LEAST_FILLED:
                    if int(right) > drawn_to:
                        drawn_to = int(right)
                        narrow.append(QRect(int(left), y + 3, 2, tall - 7))
                    continue
            peaks = self._peaks.get(timeline.job.sound(laid.source).path)
            for piece in self._pieces_of(timeline, laid):
                left = SIDE + piece.at * float(wide)
                piece.draw(painter, QRectF(left, y, piece.count * float(wide), tall - 1), peaks)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(current().colour("wave"))
        painter.drawRects(narrow)
        painter.setClipping(False)

    def _draw_loudness(
        self, painter: QPainter, programme: Programme, course: LoudnessCourse
    ) -> None:
        timeline = programme.timeline
        wide = float((self.width() - 2 * SIDE) * timeline.rate / timeline.length)
        top = BLOCK_TOP + BLOCK_TALL + 2.0
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(current().colour("text"), 1.2))
        points = [
            QPointF(SIDE + seconds * wide, top + WAVE_TALL * (1 - share(level)))
            for seconds, level in course.points
        ]
        painter.drawPolyline(QPolygonF(points))
        for finding in course.findings:
            for seconds in finding.places:
                mark = QRectF(SIDE + seconds * wide - 1, top, 3, 5)
                painter.fillRect(mark, current().colour("wrong"))
        painter.restore()

    def _pieces_of(self, timeline: Timeline, laid: LaidSound) -> tuple[Drawable, ...]:
        """Kept for the reel that is shown: it is drawn again with each waveform that comes."""
        if laid.id not in self._pieces:
            self._pieces[laid.id] = drawable_pieces(timeline, laid)
        return self._pieces[laid.id]

    def _draw_playhead(self, painter: QPainter) -> None:
        ink = current().colour("text")
        x = self.place_of(self._frame)
        wide = max(1.5, self.place_of(self._frame + 1) - x)
        painter.fillRect(QRectF(x, SCALE_TOP, min(wide, 1.5), TALL - 4), ink)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        head = [QPointF(x - 4.5, 0), QPointF(x + 5.5, 0), QPointF(x + 0.5, 8)]
        painter.drawPolygon(QPolygonF(head))


def time_words(seconds: int) -> str:
    """As short as there is room for: `45 s`, `2 min`, `2:30`."""
    minutes, rest = divmod(seconds, 60)
    if not minutes:
        return f"{rest} s"
    return f"{minutes}:{rest:02}" if rest else f"{minutes} min"
