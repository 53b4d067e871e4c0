"""Where the colour corrections work: everywhere, or inside a matte."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QVBoxLayout, QWidget

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.scrub_field import Scrub
from waxseal.app.look.sourcechoice import SourceChoice
from waxseal.app.look.widgets import check, label, row_of
from waxseal.core.job.edits import Edit, finish_of, keep_inside
from waxseal.core.job.finish_settings import Inside
from waxseal.core.job.model import Job, change

__all__ = ["MatteLine"]


class MatteLine(QWidget):
    def __init__(self, of: str, name: str, pen: Pen) -> None:
        super().__init__()
        self._pen = pen
        self._of, self._name = of, name
        self._inside: Inside | None = None
        words = self.tr("Colour corrections inside")
        everywhere, inside = self.tr("everywhere"), self.tr("inside {0}")
        self._source = SourceChoice("inside", words, none=everywhere, each=inside)
        self._source.activated.connect(self._say_source)
        self._inverted = check(self.tr("inverted"), partial(self._say, "inverted"))
        self._soften = Scrub(self.tr("softened ‰"), 0, least=0, most=100, step=0.1, usual=0)
        self._soften.said.connect(partial(self._say, "soften"))
        self._soften.settled.connect(self._pen.settled)
        self._soften.wrong.connect(self._pen.complained)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(
            row_of(
                label(self.tr("Colour works"), "quiet"),
                self._source,
                self._inverted,
                self._soften,
                1,
            )
        )

    def show_job(self, job: Job) -> None:
        self._inside = finish_of(job, self._of).inside
        self._source.show_sources([(one.id, one.name) for one in job.sequences])
        inside = self._inside
        self._source.choose(inside.source if inside else "")
        for widget in (self._inverted, self._soften):
            widget.setVisible(inside is not None)
        if inside is not None:
            self._inverted.setChecked(inside.inverted)
            self._soften.show_value(inside.soften)

    def _say_source(self, _index: int) -> None:
        source = self._source.source
        self._ask(Inside(source=source) if source else None, "")

    def _say(self, name: str, value: object) -> None:
        if self._inside is not None:
            self._ask(change(self._inside, **{name: value}), f"{self._of} inside {name}")

    def _ask(self, inside: Inside | None, merges: str) -> None:
        words = self.tr("{0}: where colour works").format(self._name)
        act = partial(keep_inside, of=self._of, inside=inside)
        self._pen.asked.emit(Edit(words, act, merges=merges))
