"""The presence line: every frame of a range as a sliver, so that a hole is seen where it is."""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPaintEvent
from typing_extensions import override

from waxseal.app.look.accessibility import DrawnWidget
from waxseal.app.look.frame_marks import draw_frame_state
from waxseal.app.look.palette import current
from waxseal.core.job.frame_states import FrameState
from waxseal.core.job.model import Sequence
from waxseal.core.timing.ranges import write_frames

__all__ = ["PresenceLine"]

TALL = 7
THINNEST = 2.0  # pixels: a single hole among thousands is still seen


class PresenceLine(DrawnWidget):
    def __init__(self, sequence: Sequence) -> None:
        super().__init__()
        self.setFixedHeight(TALL)
        self.show_sequence(sequence)

    def show_sequence(self, sequence: Sequence) -> None:
        self._sequence = sequence
        wrong = [
            f"{write_frames(frames)} {self.tr(str(state))}"
            for state, frames in sequence.unusable.items()
        ]
        self.setToolTip(": ".join(filter(None, (str(sequence.range), ", ".join(wrong)))))
        self.setAccessibleName(self.toolTip())
        self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        palette, files = current(), self._sequence.files
        first, count = self._sequence.range.first, self._sequence.range.count
        step = self.width() / count
        gap = min(1.0, step / 3) if step >= 2 else 0.0
        with QPainter(self) as painter:
            if gap:
                for run_first, run_last in files.runs:
                    for frame in range(run_first, run_last + 1):
                        sliver = QRectF((frame - first) * step, 0, step - gap, TALL)
                        painter.fillRect(sliver, palette.colour("good"))
            else:
                for run_first, run_last in files.runs:
                    run = QRectF(
                        (run_first - first) * step, 0, (run_last - run_first + 1) * step, TALL
                    )
                    painter.fillRect(run, palette.colour("good"))
            for state, frames in self._sequence.unusable.items():
                for run_first, run_last in frames.runs:
                    is_apart = gap > 0 and state is not FrameState.LOST
                    pieces = range(run_first, run_last + 1) if is_apart else (run_first,)
                    wide = step - gap if is_apart else step * (run_last - run_first + 1)
                    for frame in pieces:
                        hole = QRectF((frame - first) * step, 0, max(THINNEST, wide), TALL)
                        draw_frame_state(painter, hole, state, "raised")
