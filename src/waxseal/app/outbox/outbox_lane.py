"""The outbox: its cards, and the one button that seals everything."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QDate, QPoint, Qt, Signal, SignalInstance
from PySide6.QtWidgets import QApplication, QMenu
from typing_extensions import override

from waxseal.app.look.card_lane import Lane
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.widgets import button, label, row_of
from waxseal.app.outbox import outbox_texts
from waxseal.app.outbox.delivery_runner import DeliveryRunner
from waxseal.app.outbox.rate_question import RateQuestion
from waxseal.app.task_pool import Workbench
from waxseal.core.deliver.format.delivery_settings import frames_shown
from waxseal.core.deliver.format.output_path import file_made, stem_of
from waxseal.core.job.edits import Edit, add_delivery, confirm_rates, move_delivery, remove_delivery
from waxseal.core.job.model import DeliveryState, Job
from waxseal.core.plan.programme import Programme
from waxseal.core.text_format import left_words, plain
from waxseal.core.timing.rates import rate_words

if TYPE_CHECKING:  # imported when there is something to show, so that the window starts sooner
    from waxseal.app.outbox.delivery_card import DeliveryCard
    from waxseal.app.outbox.spec_menu import BookMenu
    from waxseal.core.deliver.specs.spec import Spec

__all__ = ["Outbox"]

CARD_TALL = 44  # pixels


class Outbox(Lane["DeliveryCard"]):
    opened = Signal(bool)  # whether a docket is open
    show_asked = Signal(str)
    source_asked = Signal(str)
    proof_asked = Signal(str)
    poster_asked = Signal(str)
    source_poster_asked = Signal(str, str, int)  # a delivery, a source and one of its frames
    predict_asked = Signal(str)
    compare_asked = Signal(str, str)
    look_asked = Signal(str)
    hear_asked = Signal(str)

    def __init__(self, sending: DeliveryRunner, pen: Pen, bench: Workbench) -> None:
        super().__init__(CARD_TALL)
        self._pen, self._bench = pen, bench
        self._menu: BookMenu | None = None
        self._add = button(self.tr("+ De&livery"), self.offer, "word")
        self.put_head(self.tr("OUTBOX"), self._add)
        self._sending = sending
        self._job = Job()
        self._programme: Programme | None = None
        self._open = ""
        self._empty = label(
            self.tr(outbox_texts.YOUR_DELIVERIES_APPEAR_HERE),
            "quiet",
            wraps=True,
        )
        self._empty.setContentsMargins(6, 16, 6, 0)
        self.column.addWidget(self._empty)
        self.column.addWidget(self.area, 1)
        self.asking = RateQuestion()
        self.asking.confirmed.connect(self._confirm)
        self.asking.show_asked.connect(self.source_asked)
        self.column.addWidget(self.asking)
        self._held_back: Callable[[], None] | None = None  # what waits for a rate
        self._goes_on: Callable[[], None] | None = None  # and goes on: that is being confirmed
        self._common = label("", "bad", wraps=True)
        self._common.setContentsMargins(8, 0, 8, 0)
        self.column.addWidget(self._common)
        self._left = label("", "quiet", wraps=True)
        self._left.setContentsMargins(6, 0, 6, 0)
        self.column.addWidget(self._left)
        self.seal_all = button(self.tr("Seal everything"), self.send_all, "seal")
        line = row_of(self.seal_all)
        line.setContentsMargins(0, 0, 8, 2)
        self.column.addLayout(line)
        sending.status_changed.connect(self._status_changed)
        sending.said.connect(self._pen.complained)

    def show_job(self, job: Job, programme: Programme | None) -> None:
        self._job, self._programme = job, programme
        ids = [delivery.id for delivery in job.deliveries]
        self.show_cards(ids, self._open, has_changed=True)
        self._empty.setVisible(not job.deliveries)
        self.asking.show_guess(job.guessed_from if job.deliveries else None)
        self._show_button()
        self._go_on()

    @override
    def fill_card(self, wanted: str, card: DeliveryCard) -> None:
        delivery = self._job.delivery(wanted)
        card.show_delivery(
            delivery,
            self._sending.status(delivery),
            self._programme,
            film_key=self._sending.film_keys.get(delivery.id, ""),
            is_open=delivery.id == self._open,
            common=self._common_reasons(),
        )

    def _common_reasons(self) -> frozenset[str]:
        """Why more than one delivery was refused: said once, above the button."""
        outcomes = [self._sending.status(one).outcome for one in self._job.deliveries]
        refused = [one for one in outcomes if one and one.state is DeliveryState.REFUSED]
        counts = Counter(plain(reason) for one in refused for reason in set(one.reasons))
        return frozenset(reason for reason, count in counts.items() if count > 1)

    def _show_button(self) -> None:
        every = [self._sending.status(one) for one in self._job.deliveries]
        has_idle = any(not one.is_running for one in every)
        self.seal_all.setEnabled(has_idle and self._programme is not None)
        self._add.setEnabled(self._programme is not None)
        self._show_left(sum(one.is_running for one in every))
        common = self._common_reasons()
        self._common.setText("\n".join(sorted(common)))
        self._common.setVisible(bool(common))

    def _show_left(self, running: int) -> None:
        """How much is still to be made of all deliveries; one alone says it on its card."""
        self._left.setVisible(running > 1)
        if running > 1 and self._programme is not None:
            timeline = self._programme.timeline
            frames, seconds = self._sending.left(dict(frames_shown(timeline, self._job.deliveries)))
            words = self.tr("{0} deliveries · {1} frames left").format(running, frames)
            self._left.setText(words + left_words(seconds, " · "))

    @override
    def make_card(self, wanted: str) -> DeliveryCard:
        delivery = self._job.delivery(wanted)
        from waxseal.app.outbox.delivery_card import DeliveryCard

        card = DeliveryCard(delivery, self._pen)
        card.toggled.connect(self.toggle)
        card.send_asked.connect(self._send)
        card.overwrite_asked.connect(partial(self._send, overwrite=True))
        card.stop_asked.connect(self._sending.stop)
        card.hold_asked.connect(self._hold)
        card.await_asked.connect(self._await)
        card.stepped.connect(self.step)
        card.show_asked.connect(self.show_asked)
        card.remove_asked.connect(self.remove)
        card.menu_asked.connect(self.show_menu)
        card.source_asked.connect(self.source_asked)
        card.proof_asked.connect(self.proof_asked)
        card.poster_asked.connect(self.poster_asked)
        card.predict_asked.connect(self.predict_asked)
        card.compare_asked.connect(self.compare_asked)
        card.look_asked.connect(self.look_asked)
        card.hear_asked.connect(self.hear_asked)
        self.fill_card(wanted, card)
        return card

    def _status_changed(self, delivery: str) -> None:
        for one in self._job.deliveries:
            if delivery in ("", one.id) and one.id in self.cards:
                self.fill_card(one.id, self.cards[one.id])
        self._show_button()

    def files_changed(self) -> None:
        """A file that was in the way may be gone, or be there by now."""
        for one in self._job.deliveries:
            if one.id in self.cards and self._sending.status(one).state is DeliveryState.REFUSED:
                self.fill_card(one.id, self.cards[one.id])

    def close_all(self) -> None:
        """Another job: no docket stays open."""
        self._open = ""
        self.opened.emit(False)
        self._held_back = self._goes_on = None

    @property
    def open_delivery(self) -> str:
        """The id of the delivery whose docket is open; empty for none."""
        return self._open

    def close_docket(self) -> None:
        if self._open:
            self.toggle(self._open)

    def toggle(self, delivery: str) -> None:
        before, self._open = self._open, "" if self._open == delivery else delivery
        self.opened.emit(bool(self._open))
        self.open_card(self._open, before)

    def send_all(self) -> None:
        """Send every delivery that is not sealed as the reel is now."""
        self._unless_guessed(self._send_all)

    def _send_all(self) -> None:
        if self._programme is not None:
            self._sending.send_all(self._programme)

    def _send(self, delivery: str, *, overwrite: bool = False) -> None:
        self._unless_guessed(partial(self._sending.send, delivery, overwrite=overwrite))

    def _await(self, delivery: str) -> None:
        self._unless_guessed(partial(self._sending.send_when_complete, delivery))

    def _hold(self, delivery: str, held: bool) -> None:
        self._sending.hold(delivery, held=held)

    def step(self, delivery: str, by: int) -> None:
        """Change places: deliveries are made in the order of their cards."""
        place = [one.id for one in self._job.deliveries].index(delivery)
        to = max(0, min(place + by, len(self._job.deliveries) - 1))
        if to != place:
            move = partial(move_delivery, delivery=delivery, to=to)
            self._pen.asked.emit(Edit(self.tr("order of deliveries"), move))
            card = self.card(delivery)
            if card is not None:
                card.setFocus()

    def _unless_guessed(self, act: Callable[[], None]) -> None:
        """Begin a delivery; where the reel's rate is a guess, that is asked for first."""
        if self._job.guessed_from is None:
            act()
            return
        self._held_back = act
        self.asking.yes.setFocus()
        self._pen.complained.emit(self.tr(outbox_texts.CONFIRM_THE_RATE_FIRST))

    def _confirm(self, rate: Fraction) -> None:
        """The guess is right; what was asked for before goes on."""
        act, self._held_back = self._held_back, None
        words = self.tr("confirm {0}").format(rate_words(rate))
        self._pen.ask_of_many(words, partial(confirm_rates, rate=rate))
        self._goes_on = act
        self._go_on()

    def _go_on(self) -> None:
        """Begin what waited for the rate, once the rate is confirmed."""
        if self._goes_on is not None and self._job.guessed_from is None:
            act, self._goes_on = self._goes_on, None
            act()

    def offer(self) -> None:
        """What the next delivery may be, under the button."""
        self.book_menu().popup(self._add.mapToGlobal(self._add.rect().bottomLeft()))

    def book_menu(self) -> BookMenu:
        from waxseal.app.outbox.spec_menu import BookMenu
        from waxseal.core.deliver.specs.spec_book import spec_book

        if self._menu is not None:
            self._menu.deleteLater()
        self._menu = BookMenu(self, spec_book(), self.add_spec, self.add, self.show_book)
        if self._programme is not None:
            self._menu.find_losses(self._programme, self._bench)
        return self._menu

    def show_book(self) -> None:
        """Every spec with all its keys, the user's own to be changed."""
        from waxseal.app.outbox.spec_book_dialog import SpecBook

        screen = SpecBook(self)
        screen.changed.connect(self._book_changed)
        screen.open()

    def _book_changed(self) -> None:
        """Dockets say afresh what their specs want."""
        for card in self.cards.values():
            card.forget_docket()
        self.show_job(self._job, self._programme)

    def add_spec(self, spec: Spec) -> None:
        """One more delivery, as a spec wants it, with its docket open."""
        from waxseal.core.deliver.specs.apply_spec import add_as

        last = self._job.deliveries[-1] if self._job.deliveries else None
        folder = last.folder if last else str(Path.home())
        day = QDate.currentDate().toString(Qt.DateFormat.ISODate)
        words = self.tr("add {0}").format(spec.name)
        self._pen.asked.emit(Edit(words, partial(add_as, spec=spec, folder=folder, day=day)))
        if self._job.deliveries and self._job.deliveries[-1].spec == spec.name:
            self._open = self._job.deliveries[-1].id
            self.opened.emit(True)
            self.show_job(self._job, self._programme)

    def add(self) -> None:
        """One more delivery without a spec, named after the last."""
        last = self._job.deliveries[-1] if self._job.deliveries else None
        folder = last.folder if last else str(Path.home())
        taken = {stem_of(one.name) for one in self._job.deliveries}
        stem = stem_of(last.name) if last else self._job.name
        name = next(f"{stem}_{n}" for n in range(2, len(taken) + 3) if f"{stem}_{n}" not in taken)
        add = partial(add_delivery, name=name, folder=folder)
        self._pen.asked.emit(Edit(self.tr("add a delivery"), add))

    def ask_for(self, asked: SignalInstance) -> None:
        """For the delivery whose docket is open, else the first."""
        for one in self._chosen():
            asked.emit(one)

    def _chosen(self) -> list[str]:
        """The id of what is open, else of the first; none where the outbox is empty."""
        ids = [one.id for one in self._job.deliveries]
        return [self._open] if self._open in ids else ids[:1]

    def ask_for_poster(self, source: str, frame: int) -> None:
        """Of a source's frame, as the delivery whose docket is open would be, else the first."""
        if not self._job.deliveries:
            self._pen.complained.emit(self.tr(outbox_texts.A_POSTER_IS_AS_A_DELIVERY))
        for one in self._chosen():
            self.source_poster_asked.emit(one, source, frame)

    def show_menu(self, delivery: str, place: QPoint) -> None:
        """What can be done with one delivery."""
        one = self._job.delivery(delivery)
        status, path = self._sending.status(one), file_made(one)
        menu = QMenu(self)
        if status.is_running:
            menu.addAction(self.tr("Stop"), partial(self._sending.stop, delivery))
        else:
            menu.addAction(self.tr("Seal this one"), partial(self._send, delivery))
        see = outbox_texts.AS_IT_WILL_BE if path is None else outbox_texts.COMPARE_WITH_ITS_FILE
        menu.addAction(self.tr(see), partial(self.look_asked.emit, delivery))
        if path is not None:
            menu.addAction(self.tr("Hear it"), partial(self.hear_asked.emit, delivery))
            menu.addAction(self.tr("Show in folder"), partial(self.show_asked.emit, delivery))
            copy = partial(QApplication.clipboard().setText, str(path))
            menu.addAction(self.tr("Copy path"), copy)
        menu.addSeparator()
        for words, by in ((self.tr("Move up\tAlt+Up"), -1), (self.tr("Move down\tAlt+Down"), 1)):
            menu.addAction(words, partial(self.step, delivery, by))
        remove = menu.addAction(self.tr("Remove\tDel"), partial(self.remove, delivery))
        remove.setEnabled(not status.is_running)
        menu.popup(place)

    def remove(self, delivery: str) -> None:
        remove = partial(remove_delivery, delivery=delivery)
        self._pen.asked.emit(Edit(self.tr("remove a delivery"), remove))
