"""What has just come with alpha is offered to lie over its neighbour, not after it."""

from __future__ import annotations

from collections.abc import Collection
from functools import partial

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.question_box import Question
from waxseal.app.reel_view import reel_texts
from waxseal.core.job.edits import Edit
from waxseal.core.job.model import Job
from waxseal.core.plan.placement import could_lie_over, lay_over_neighbours
from waxseal.core.text_format import counted

__all__ = ["Offer"]


class Offer(Question):
    def __init__(self, pen: Pen) -> None:
        super().__init__(self._lay_over, self.hide)
        self._pen = pen
        self._shots: tuple[str, ...] = ()

    def offer(self, job: Job, fresh: Collection[str]) -> None:
        """fresh: the sources that have just come."""
        clear = could_lie_over(job, fresh)
        self._shots = tuple(shot.id for shot in clear)
        if not clear:
            self.hide()
            return
        names = [job.sequence(shot.source).name for shot in clear]
        what = names[0] if len(names) == 1 else counted(len(names), "shot")
        self.ask(
            self.tr(reel_texts.HAS_ALPHA).format(what),
            self.tr("Lay over"),
            self.tr("Leave as it is"),
        )

    def show_job(self, job: Job) -> None:
        """An offer goes with its shots."""
        if not set(self._shots) <= {shot.id for shot in job.reel.shots}:
            self._shots = ()
            self.hide()

    def _lay_over(self) -> None:
        change = partial(lay_over_neighbours, shots=self._shots)
        self._pen.asked.emit(Edit(self.tr(reel_texts.LAY_OVER_ITS_NEIGHBOUR), change))
