"""The match table in a docket: what the sources are, what the file will be, what is done."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QPushButton, QWidget

from waxseal.app.look.scale import px
from waxseal.app.look.small import button, label, restyle, set_tip
from waxseal.core.deliver.match import Row, State

__all__ = ["Decision", "MatchTable", "sides_words"]

TITLE_WIDTH = 66
TONES = {State.SAME: "quiet", State.CHANGED: "quiet", State.DECIDE: "heed", State.LOST: "bad"}

Decision = tuple[str, Callable[[], None]]  # what a button says, and does


class MatchTable(QWidget):
    """Rows that are shown again, not made anew, while the reel changes."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("match")
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(6)
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnMinimumWidth(0, px(TITLE_WIDTH))
        self._grid.setColumnStretch(1, 1)
        self._rows: list[MatchRow] = []

    def show_rows(self, rows: Sequence[Row], decisions: dict[str, Decision]) -> None:
        """decisions: what can be decided in place, by the names of the rows."""
        while len(self._rows) < len(rows):
            self._rows.append(MatchRow(self._grid, len(self._rows)))
        for place, line in enumerate(self._rows):
            row = rows[place] if place < len(rows) else None
            line.show_row(row, decisions.get(row.what) if row is not None else None)


class MatchRow:
    """One row in a grid: its name, both sides, and below what is done, with its decision."""

    def __init__(self, grid: QGridLayout, place: int) -> None:
        self._title = label("", "quiet")
        self._title.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._sides = label("", "", wraps=True)
        self._done = label("", "small", wraps=True)
        self._decide: QPushButton = button("", self._act, "word", may_shrink=True)
        self._decision: Callable[[], None] | None = None
        grid.addWidget(self._title, place * 3, 0)
        grid.addWidget(self._sides, place * 3, 1)
        grid.addWidget(self._done, place * 3 + 1, 1)
        grid.addWidget(self._decide, place * 3 + 2, 1, Qt.AlignmentFlag.AlignLeft)

    def show_row(self, row: Row | None, decision: Decision | None) -> None:
        self._title.setVisible(row is not None)
        self._sides.setVisible(row is not None)
        self._done.setVisible(row is not None and bool(row.done))
        self._decide.setVisible(row is not None and decision is not None)
        if row is None:
            return
        self._title.setText(row.what)
        words = sides_words(row)
        self._sides.setText(words)
        self._sides.setAccessibleName(f"{row.what}: {words}. {row.done}. {row.state.value}.")
        set_tip(self._sides, f"{row.sources or '–'} → {row.reel or '–'} → {row.file}")
        self._done.setText(row.done)
        if self._done.objectName() != TONES[row.state]:
            self._done.setObjectName(TONES[row.state])
            restyle(self._done)
        if decision is not None:
            text, self._decision = decision
            self._decide.setText(text)
            self._decide.setAccessibleName(f"{row.what}: {text}")

    def _act(self) -> None:
        if self._decision is not None:
            self._decision()


def sides_words(row: Row) -> str:
    """Sources, reel and file, each once: `1280 × 720 → 1080 × 1080`."""
    sides = [side for side in (row.sources, row.reel, row.file) if side]
    shown = [side for at, side in enumerate(sides) if at == 0 or side != sides[at - 1]]
    return " → ".join(shown)
