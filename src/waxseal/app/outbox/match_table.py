"""The match table in a docket: what the sources are, what the file will be, what is done."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from waxseal.app.look.text_scale import px
from waxseal.app.look.tooltips import set_tip
from waxseal.app.look.widgets import button, label, restyle, row_of
from waxseal.core.deliver.match import Row, State

__all__ = ["Decision", "MatchTable", "sides_words"]

TITLE_WIDTH = 72
TONES = {State.SAME: "quiet", State.CHANGED: "quiet", State.DECIDE: "heed", State.LOST: "bad"}

Decision = tuple[str, Callable[[], None]]  # what a button says, and does


class MatchTable(QWidget):
    """Rows that are shown again, not made anew, while the reel changes."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("match")
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)
        self._rows: list[MatchRow] = []

    def show_rows(self, rows: Sequence[tuple[Row, Sequence[Decision]]]) -> None:
        """Each with what can be decided in place."""
        while len(self._rows) < len(rows):
            self._rows.append(MatchRow())
            self._column.addWidget(self._rows[-1])
        for place, line in enumerate(self._rows):
            line.setVisible(place < len(rows))
            if place < len(rows):
                line.show_row(*rows[place])


class MatchRow(QWidget):
    """One row: its name, both sides, and below what is done, with its decisions."""

    def __init__(self) -> None:
        super().__init__()
        self._title = label("", "quiet")
        self._title.setFixedWidth(px(TITLE_WIDTH))
        self._sides = label("", "", wraps=True)
        self._done = label("", "quiet", wraps=True)
        self._acts: list[QPushButton] = []
        self._decisions: Sequence[Decision] = ()
        line = row_of(self._title, gap=6)
        line.setAlignment(self._title, Qt.AlignmentFlag.AlignTop)
        self._words = QVBoxLayout()
        self._words.setSpacing(0)
        self._words.addWidget(self._sides)
        self._words.addWidget(self._done)
        line.addLayout(self._words, 1)
        self.setLayout(line)

    def show_row(self, row: Row, decisions: Sequence[Decision]) -> None:
        self._done.setVisible(bool(row.done))
        self._title.setText(row.what)
        words = sides_words(row)
        self._sides.setText(words)
        self._sides.setAccessibleName(f"{row.what}: {words}. {row.done}. {row.state.value}.")
        set_tip(self._sides, f"{row.sources or '–'} → {row.reel or '–'} → {row.file}")
        self._done.setText(row.done)
        if self._done.objectName() != TONES[row.state]:
            self._done.setObjectName(TONES[row.state])
            restyle(self._done)
        self._decisions = decisions
        while len(self._acts) < len(decisions):
            act = button("", partial(self._act, len(self._acts)), "word", may_shrink=True)
            self._acts.append(act)
            self._words.addLayout(row_of(act, 1))
        for place, act in enumerate(self._acts):
            act.setVisible(place < len(decisions))
            if place < len(decisions):
                act.setText(decisions[place][0])
                act.setAccessibleName(f"{row.what}: {decisions[place][0]}")

    def _act(self, place: int) -> None:
        _, act = self._decisions[place]
        act()


def sides_words(row: Row) -> str:
    """Sources, reel and file, each once: `1280 × 720 → 1080 × 1080`."""
    sides = [side for side in (row.sources, row.reel, row.file) if side]
    shown = [side for at, side in enumerate(sides) if at == 0 or side != sides[at - 1]]
    return " → ".join(shown)
