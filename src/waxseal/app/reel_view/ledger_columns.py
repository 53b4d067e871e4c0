"""The ledger's columns: how wide each is, its title, and what it says of a shot or an overlay.

A new column is a line in the table, and a function.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QCoreApplication, Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from waxseal.app.look.leave_out import GivesWay
from waxseal.app.look.text_scale import px
from waxseal.app.look.widgets import Elided, label
from waxseal.core.job.frame_states import FrameState
from waxseal.core.job.model import Order, Overlay, Shot, Timing
from waxseal.core.job.model import Sequence as Frames
from waxseal.core.plan.timeline import Part, Timeline
from waxseal.core.timing.timecode import length_words

__all__ = ["AHEAD", "LEFT", "RIGHT", "Cells", "Column", "fit", "give_way", "tr", "widths_of_left"]

tr = partial(QCoreApplication.translate, "columns")
GAP, AHEAD = 8, 4  # between two cells, and before the first

LEFT = {"number": 18, "picture": 52, "name": 92}  # before the bar: their widths


@dataclass(frozen=True, slots=True)
class Column:
    """A column behind the bar.

    words: what it says of a part; tone: how it is written. gives_way: in a ledger that
    is not as wide, in usual pixels, it is left out.
    """

    name: str
    width: int
    title: str
    words: Callable[[Part, Timeline], str]
    tone: str = ""
    gives_way: int = 0


def used_words(part: Part, _timeline: Timeline) -> str:
    """Frames used of frames there; of an overlay the reel frames that it covers."""
    if isinstance(part.laid, Overlay):
        return f"{part.first}-{part.last}"
    used = part.laid.range.count - holes_in(part.sequence, part.laid)
    return tr("{0} of {1}").format(used, part.sequence.range.count)


def part_length_words(part: Part, timeline: Timeline) -> str:
    return length_words(part.count, timeline.rate)


def mark_words(part: Part, timeline: Timeline) -> str:
    """What is done to it, or is wrong with it: the first of all that could be said."""
    laid, source = part.laid, part.sequence
    if isinstance(laid, Overlay):
        count = len(laid.finish.working)
        return f"{laid.blend}, {count}" if count else str(laid.blend.value)
    unusable = unusable_words(source, laid)
    if unusable:
        return unusable
    done = [one.label for one in laid.finish.working]
    span = timeline.joins[timeline.number_of(laid.id)]
    if span is not None:
        done.insert(0, span.words)
    if done:
        return ", ".join(done)
    if laid.timing != Timing():
        return tr("retimed")
    if source.reading.order.value is Order.REVERSED:
        return tr("reversed")
    if source.reading.rate.value * 2 == timeline.rate:
        return tr("each twice")
    if source.reading.rate.value != timeline.rate:
        return tr("other rate")
    return str(laid.framing.value) if source.shown_size != timeline.size else ""


def holes_in(source: Frames, shot: Shot) -> int:
    """How many frames of a shot cannot be used."""
    return sum(len(frames.within(shot.range)) for frames in source.unusable.values())


def unusable_words(source: Frames, shot: Shot) -> str:
    """`2 missing`, `1 damaged +2`, `lost`: the first thing that is wrong with its frames."""
    counts = {state: len(runs.within(shot.range)) for state, runs in source.unusable.items()}
    found = {state: count for state, count in counts.items() if count}
    if not found or FrameState.LOST in found:
        return tr(str(FrameState.LOST)) if found else ""
    first, count = next(iter(found.items()))
    others = sum(found.values()) - count
    return f"{count} {tr(str(first))}" + (f" +{others}" if others else "")


RIGHT: tuple[Column, ...] = (
    Column("used", 78, "frames used", used_words, gives_way=466),
    Column("length", 62, "length", part_length_words, gives_way=380),
    Column("marks", 76, "", mark_words, tone="heed", gives_way=550),
)


def widths_of_left() -> int:
    """How far the bar begins from the left."""
    return AHEAD + sum(px(width) for width in LEFT.values()) + GAP * (len(LEFT) - 1)


class Cells:
    """The cells behind one row's bar."""

    def __init__(self) -> None:
        self.by_name: dict[str, Elided | QLabel] = {}
        for one in RIGHT:
            cell = Elided("", one.tone) if one.tone else label("")
            fit(cell, one.width)
            self.by_name[one.name] = cell

    def add_to(self, line: QHBoxLayout) -> None:
        for cell in self.by_name.values():
            line.addWidget(cell)

    def give_way_on(self, row: QWidget) -> None:
        give_way(row, tuple(self.by_name.values()))

    def show_part(self, part: Part, timeline: Timeline) -> None:
        for one in RIGHT:
            cell, words = self.by_name[one.name], one.words(part, timeline)
            if isinstance(cell, Elided):
                cell.say(words)
            else:
                cell.setText(words)


def give_way(row: QWidget, cells: Sequence[QWidget]) -> None:
    """Leave out the cells of a row that a narrow ledger has no room for."""
    GivesWay(row, {cell: one.gives_way for cell, one in zip(cells, RIGHT, strict=True)})


def fit(cell: QWidget, width: int) -> None:
    """Give a cell its column's width; figures stand at the right."""
    cell.setFixedWidth(px(width))
    if isinstance(cell, QLabel):
        cell.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
