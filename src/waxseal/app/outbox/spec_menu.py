"""What a new delivery may be: the spec book by what each is for, and what the reel would lose."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

from PySide6.QtWidgets import QMenu, QWidget

from waxseal.app.look.tooltips import set_tip
from waxseal.app.outbox import outbox_texts
from waxseal.app.task_pool import Workbench
from waxseal.core.deliver.match import State, match
from waxseal.core.deliver.specs.apply_spec import spec_troubles
from waxseal.core.deliver.specs.spec import Spec
from waxseal.core.deliver.specs.spec_book import Book
from waxseal.core.deliver.specs.spec_values import Purpose
from waxseal.core.errors import WaxSealError
from waxseal.core.job.model import Delivery, make
from waxseal.core.plan.programme import Programme
from waxseal.core.progress import CancelToken, Report

__all__ = ["BookMenu", "losses"]


class BookMenu(QMenu):
    """add: one more delivery to a spec. add_bare: one without. show_book: to look at all keys."""

    def __init__(
        self,
        parent: QWidget,
        book: Book,
        add: Callable[[Spec], None],
        add_bare: Callable[[], None],
        show_book: Callable[[], object],
    ) -> None:
        super().__init__(parent)
        self.setObjectName("book")
        self.setToolTipsVisible(True)
        self._specs = tuple(book)
        for purpose in Purpose:
            specs = [one for one in book if one.purpose is purpose]
            if not specs:
                continue
            self.addAction(purpose.label.upper()).setEnabled(False)
            for spec in specs:
                action = self.addAction(words_for(spec), partial(add, spec))
                action.setData(spec.name)
                set_tip(action, spec.about)
            self.addSeparator()
        self.addAction(parent.tr(outbox_texts.WITHOUT_A_SPEC), add_bare)
        self.addAction(parent.tr(outbox_texts.THE_SPEC_BOOK), show_book)
        for trouble in book.troubles:
            self.addAction(trouble).setEnabled(False)

    def find_losses(self, programme: Programme, bench: Workbench) -> None:
        """Say what this reel would lose in each as soon as it is worked out: it takes a while."""
        bench.start(partial(losses_in_all, self._specs, programme), finished=self._say_losses)

    def _say_losses(self, lost: Mapping[str, tuple[str, ...]]) -> None:
        for action in self.actions():
            spec = next((one for one in self._specs if one.name == action.data()), None)
            if spec is not None:
                action.setText(words_for(spec, lost[spec.name]))


def words_for(spec: Spec, lost: tuple[str, ...] = ()) -> str:
    return f"{spec.name}\t{' · '.join((*spec.gives(), *lost))}"


def losses_in_all(
    specs: tuple[Spec, ...], programme: Programme, _report: Report, token: CancelToken
) -> dict[str, tuple[str, ...]]:
    found = {}
    for spec in specs:
        token.check()
        found[spec.name] = losses(spec, programme)
    return found


def losses(spec: Spec, programme: Programme) -> tuple[str, ...]:
    """What this reel would lose in a spec, in a few words each."""
    timeline = programme.timeline
    try:
        settings = spec.settings(timeline)
        delivery = make(Delivery, id="d", name="x", folder="/", **settings)
        lost = [row.what for row in match(programme, delivery) if row.state is State.LOST]
        is_taken = not list(spec_troubles(spec, timeline, delivery))
    except WaxSealError:
        lost, is_taken = [], False
    words = [f"loses {what}" for what in lost]
    return tuple(words if is_taken else [*words, "not as it is"])
