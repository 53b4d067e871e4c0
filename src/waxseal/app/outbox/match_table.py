"""The match table in a docket: what asks for a decision, and the three sides of each row, drawn."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QPushButton, QVBoxLayout, QWidget
from typing_extensions import override

from waxseal.app.look.accessibility import DrawnWidget
from waxseal.app.look.palette import current
from waxseal.app.look.state_marks import StateMark
from waxseal.app.look.text_scale import px
from waxseal.app.look.waveform import Peaks, drawable_pieces
from waxseal.app.look.widgets import button, label, row_of
from waxseal.app.outbox.match_drawing import (
    draw_arrow,
    draw_blocks,
    draw_level,
    draw_placed,
    draw_same,
)
from waxseal.core.deliver.match import Drawings, Row, State
from waxseal.core.plan.timeline import Timeline

__all__ = ["Decision", "MatchTable"]

Decision = tuple[str, Callable[[], None]]  # what a button says, and does
TONES = {State.SAME: "", State.CHANGED: "", State.DECIDE: "heed", State.LOST: "bad"}

TITLE_WIDTH, BETWEEN_WIDTH = 68, 56
BAR, WAVE, LEVEL, FRAME = 14, 18, 10, 40  # pixels: how tall each drawing is


class MatchTable(QWidget):
    """Widgets that are shown again, not made anew, while the reel changes."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("match")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._band = DecisionBand()
        column.addWidget(self._band)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(4)
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnMinimumWidth(1, px(TITLE_WIDTH))
        for side in (3, 5):
            self._grid.setColumnMinimumWidth(side, px(BETWEEN_WIDTH))
        for side in (2, 4, 6):
            self._grid.setColumnStretch(side, 1)
            head = label(self._heads()[side], "columnTitle")
            self._grid.addWidget(head, 0, side)
        column.addLayout(self._grid)
        self._same = label("", "quiet", wraps=True)
        column.addWidget(self._same)
        self._rows: list[MatchRow] = []

    def _heads(self) -> dict[int, str]:
        return {2: self.tr("sources"), 4: self.tr("reel"), 6: self.tr("file")}

    def show_match(
        self,
        rows: Sequence[tuple[Row, Sequence[Decision]]],
        drawings: Drawings | None,
        timeline: Timeline | None,
    ) -> None:
        """Each row with what can be decided in place."""
        self._band.show_rows([one for one in rows if one[0].state in (State.DECIDE, State.LOST)])
        told = [row for row, _ in rows if row.state is not State.SAME or row.what in DRAWN]
        while len(self._rows) < len(told):
            self._rows.append(MatchRow(self._grid, 1 + 2 * len(self._rows)))
        for place, line in enumerate(self._rows):
            line.show_row(told[place] if place < len(told) else None, drawings, timeline)
        same = ", ".join(row.what for row, _ in rows if row not in told)
        self._same.setText(self.tr("Unchanged: {0}").format(same))
        self._same.setVisible(bool(same))


class DecisionBand(QFrame):
    """What asks for a decision or is lost, a line each."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("band")
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(8, 4, 8, 4)
        self._column.setSpacing(4)
        self._lines: list[DecisionLine] = []

    def show_rows(self, rows: Sequence[tuple[Row, Sequence[Decision]]]) -> None:
        self.setVisible(bool(rows))
        while len(self._lines) < len(rows):
            self._lines.append(DecisionLine())
            self._column.addWidget(self._lines[-1])
        for place, line in enumerate(self._lines):
            line.setVisible(place < len(rows))
            if place < len(rows):
                line.show_row(*rows[place])


class DecisionLine(QWidget):
    """A mark, a sentence, and what can be done about it."""

    def __init__(self) -> None:
        super().__init__()
        self._mark = StateMark()
        self._words = label("", "", wraps=True)
        self._row = row_of(self._mark, self._words)
        self._row.setStretch(1, 1)
        self.setLayout(self._row)
        self._acts: list[QPushButton] = []
        self._decisions: Sequence[Decision] = ()

    def show_row(self, row: Row, decisions: Sequence[Decision]) -> None:
        self._mark.show_tone(TONES[row.state], row.state.value)
        self._words.setText(sentence_of(row))
        self._decisions = decisions
        while len(self._acts) < len(decisions):
            act = button("", partial(self._act, len(self._acts)), may_shrink=True)
            self._acts.append(act)
            self._row.addWidget(act)
        for place, act in enumerate(self._acts):
            act.setVisible(place < len(decisions))
            if place < len(decisions):
                words = decisions[place][0]
                act.setText(words[:1].upper() + words[1:])
                act.setAccessibleName(f"{row.what}: {words}")

    def _act(self, place: int) -> None:
        _, act = self._decisions[place]
        act()


def sentence_of(row: Row) -> str:
    """What is lost or has to be decided of a row, in a sentence."""
    told = row.reasons or (row.notes if row.state is State.DECIDE else ())
    words = " ".join(told) or row.done
    return words[:1].upper() + words[1:] + ("" if words.endswith((".", "?")) else ".")


class MatchRow:
    """One row, in two lines of the grid: the three sides, and below what is done."""

    def __init__(self, grid: QGridLayout, at: int) -> None:
        self._mark = StateMark()
        self._title = label("", "name")
        self._sides = [Side(), Side(), Side()]
        self._between = [Between(), Between()]
        self._done = label("", "quiet", wraps=True)
        grid.addWidget(self._mark, at, 0, Qt.AlignmentFlag.AlignTop)
        grid.addWidget(self._title, at, 1, Qt.AlignmentFlag.AlignTop)
        for place, side in enumerate(self._sides):
            grid.addWidget(side, at, 2 + 2 * place)
        for place, between in enumerate(self._between):
            grid.addWidget(between, at, 3 + 2 * place)
        grid.addWidget(self._done, at + 1, 2, 1, 5)

    def show_row(
        self, row: Row | None, drawings: Drawings | None, timeline: Timeline | None
    ) -> None:
        parts: list[QWidget] = [self._title, *self._sides, *self._between]
        for part in parts:
            part.setVisible(row is not None)
        if row is None:
            self._done.hide()
            self._mark.show_tone("", "")
            return
        self._mark.show_tone(TONES[row.state], row.state.value)
        self._title.setText(row.what)
        self._title.setAccessibleName(f"{row.what}, {row.state.value}")
        figures = (row.sources, row.reel, row.file)
        for place, (side, figure) in enumerate(zip(self._sides, figures, strict=True)):
            side.show_side(figure, drawn_side(row.what, place, drawings, timeline))
        for between, one, other, words in (
            (self._between[0], row.sources, row.reel, row.to_reel),
            (self._between[1], row.reel, row.file, row.to_file),
        ):
            between.show_change(
                words, is_same=one == other and not words, is_empty=not (one and other)
            )
        # What asks for a decision is said above.
        self._done.setText(row.done)
        self._done.setVisible(row.state in (State.SAME, State.CHANGED) and bool(row.done))


Draw = Callable[[QPainter, QRectF], None]


class Side(QWidget):
    """One side of a row: its drawing, and its figure below it."""

    def __init__(self) -> None:
        super().__init__()
        self._drawing = Drawing()
        self._figure = label("", "", wraps=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 2)
        column.setSpacing(2)
        column.addWidget(self._drawing)
        column.addWidget(self._figure)
        column.addStretch(1)

    def show_side(self, figure: str, drawn: tuple[int, Draw] | None) -> None:
        self._figure.setText(figure)
        self._drawing.setVisible(drawn is not None)
        if drawn is not None:
            self._drawing.show_drawing(*drawn, figure)


class Drawing(DrawnWidget):
    def __init__(self) -> None:
        super().__init__()
        self._draw: Draw | None = None

    def show_drawing(self, tall: int, draw: Draw, words: str) -> None:
        self._draw = draw
        self.setFixedHeight(px(tall))
        self.setAccessibleName(words)
        self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        if self._draw is not None:
            with QPainter(self) as painter:
                self._draw(painter, QRectF(self.rect()).adjusted(0, 2, -1, -2))


class Between(DrawnWidget):
    """An arrow with a word over it, two lines for the same, or nothing."""

    def __init__(self) -> None:
        super().__init__()
        self._words, self._is_same, self._is_empty = "", True, True
        self.setFixedWidth(px(BETWEEN_WIDTH))

    def show_change(self, words: str, *, is_same: bool, is_empty: bool) -> None:
        self._words, self._is_same, self._is_empty = words, is_same, is_empty
        self.setAccessibleName(words or (self.tr("the same") if is_same else self.tr("becomes")))
        self.update()

    @override
    def sizeHint(self) -> QSize:
        return QSize(px(BETWEEN_WIDTH), px(24))

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        if self._is_empty:
            return
        with QPainter(self) as painter:
            painter.setPen(current().colour("text"))
            room = QRectF(self.rect())
            room.setHeight(min(room.height(), px(30)))
            if self._is_same:
                draw_same(painter, room)
            else:
                draw_arrow(painter, room, self._words, "")


def drawn_side(
    what: str, side: int, drawings: Drawings | None, timeline: Timeline | None
) -> tuple[int, Draw] | None:
    """How tall the drawing of a side is, and what draws it; None where figures say it all."""
    draw = DRAWN.get(what)
    return draw(side, drawings, timeline) if draw is not None and drawings is not None else None


def frames_drawn(side: int, drawings: Drawings, _timeline: object) -> tuple[int, Draw]:
    blocks = drawings.frames[side]
    return BAR, lambda painter, room: draw_blocks(painter, room, blocks)


def sizes_drawn(side: int, drawings: Drawings, _timeline: object) -> tuple[int, Draw] | None:
    sizes = drawings.sizes
    if sizes is None:
        return None
    widest = max(max(one.frame[0], one.box.width) for one in sizes)
    tallest = max(max(one.frame[1], one.box.height) for one in sizes)

    def draw(painter: QPainter, room: QRectF) -> None:
        scale = min((room.width() - 2) / widest, (room.height() - 2) / tallest)
        draw_placed(painter, room, sizes[side], scale)

    return FRAME, draw


def sound_drawn(
    side: int, _drawings: Drawings, timeline: Timeline | None
) -> tuple[int, Draw] | None:
    """All sounds of the reel in one line; the file's sound is the same."""
    if side == 0 or timeline is None or not timeline.job.reel.sounds:
        return None

    def draw(painter: QPainter, room: QRectF) -> None:
        found = painter.device()
        peaks = found.window().findChild(Peaks) if isinstance(found, QWidget) else None
        if peaks is None:
            return
        seconds = float(timeline.length / timeline.rate)
        for laid in timeline.job.reel.sounds:
            columns = peaks.get(timeline.job.sound(laid.source).path)
            for piece in drawable_pieces(timeline, laid):
                left = room.x() + piece.at / seconds * room.width()
                wide = min(piece.count / seconds * room.width(), room.right() - left)
                if wide > 0:
                    piece.draw(painter, QRectF(left, room.y(), wide, room.height()), columns)

    return WAVE, draw


def level_drawn(side: int, drawings: Drawings, _timeline: object) -> tuple[int, Draw] | None:
    if side != 2 or not drawings.level.most:
        return None
    return LEVEL, lambda painter, room: draw_level(painter, room, drawings.level)


DRAWN: dict[str, Callable[[int, Drawings, Timeline | None], tuple[int, Draw] | None]] = {
    "frames": frames_drawn,
    "size": sizes_drawn,
    "sound": sound_drawn,
    "file size": level_drawn,
}
