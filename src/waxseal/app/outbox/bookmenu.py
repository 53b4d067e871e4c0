"""What a new delivery may be: the spec book by what each is for, and what the reel would lose."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QMenu, QWidget

from waxseal.app.outbox import sentences
from waxseal.core.deliver.match import State, match
from waxseal.core.deliver.specs.book import Book
from waxseal.core.deliver.specs.ordering import settings_as, spec_troubles
from waxseal.core.deliver.specs.spec import Purpose, Spec
from waxseal.core.errors import WaxSealError
from waxseal.core.job.model import Delivery, make
from waxseal.core.plan.programme import Programme

__all__ = ["book_menu", "losses"]


def book_menu(
    parent: QWidget,
    book: Book,
    programme: Programme | None,
    add: Callable[[Spec], None],
    add_bare: Callable[[], None],
    show_book: Callable[[], object],
) -> QMenu:
    """add: one more delivery to a spec. add_bare: one without. show_book: to look at all keys."""
    menu = QMenu(parent)
    menu.setObjectName("book")
    menu.setToolTipsVisible(True)
    for purpose in Purpose:
        specs = [one for one in book if one.purpose is purpose]
        if not specs:
            continue
        title = menu.addAction(purpose.value.upper())
        title.setEnabled(False)
        for spec in specs:
            lost = losses(spec, programme)
            words = " · ".join((*spec.gives(), *lost))
            action = menu.addAction(f"{spec.name}\t{words}", partial(add, spec))
            action.setToolTip(spec.about)
        menu.addSeparator()
    menu.addAction(parent.tr(sentences.WITHOUT_A_SPEC), add_bare)
    menu.addAction(parent.tr(sentences.THE_SPEC_BOOK), show_book)
    for trouble in book.troubles:
        said = menu.addAction(trouble)
        said.setEnabled(False)
    return menu


def losses(spec: Spec, programme: Programme | None) -> tuple[str, ...]:
    """What this reel would lose in a spec, in a few words each."""
    if programme is None:
        return ()
    timeline = programme.timeline
    settings = settings_as(spec, timeline)
    try:
        delivery = make(Delivery, id="d", name="x", folder="/", **settings)
        lost = [row.what for row in match(programme, delivery) if row.state is State.LOST]
        is_taken = not list(spec_troubles(spec, timeline, delivery))
    except WaxSealError:
        lost, is_taken = [], False
    words = [f"loses {what}" for what in lost]
    return tuple(words if is_taken else [*words, "not as it is"])
