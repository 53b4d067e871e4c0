"""A card of the outbox: a delivery, its seal, how far it is, its docket."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QFileDialog, QGridLayout, QVBoxLayout, QWidget

from waxseal.app.look.card import Card
from waxseal.app.look.keys import Choice
from waxseal.app.look.pen import Pen
from waxseal.app.look.small import (
    Elided,
    Field,
    button,
    check,
    empty,
    keeping_focus,
    label,
    restyle,
    row_of,
)
from waxseal.app.outbox import sentences
from waxseal.app.outbox.sealdrawing import SealDrawing
from waxseal.core.deliver.codecs import CODECS, Codec
from waxseal.core.deliver.naming import container_of, file_name, path_of
from waxseal.core.deliver.quality import bitrate_words, last_bitrate_words, parse_bitrate
from waxseal.core.deliver.queue import Since, Status, changed_since
from waxseal.core.deliver.settings import bytes_of
from waxseal.core.errors import JobError
from waxseal.core.job.corrections import LUTS
from waxseal.core.job.edits import Edit, change_delivery
from waxseal.core.job.model import (
    Bitrate,
    ConstantQuality,
    Delivery,
    DeliveryState,
    Graded,
    Job,
)
from waxseal.core.plan.programme import Programme
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import length_words
from waxseal.core.words import bytes_words, left_words, plain

__all__ = ["DeliveryCard"]

CHANGED = {
    Since.REEL: sentences.THE_REEL_HAS_CHANGED_SINCE,
    Since.SETTINGS: sentences.ITS_SETTINGS_HAVE_CHANGED_SINCE,
    Since.FRAMES: sentences.FRAMES_HAVE_CHANGED_SINCE,
}


class DeliveryCard(Card):
    toggled = Signal(str)
    send_asked = Signal(str)
    overwrite_asked = Signal(str)
    stop_asked = Signal(str)
    show_asked = Signal(str)
    remove_asked = Signal(str)
    source_asked = Signal(str)  # the source whose frames hold the delivery up

    def __init__(self, delivery: Delivery, pen: Pen) -> None:
        super().__init__()
        self._pen = pen
        self.delivery = delivery.id
        self.opened.connect(self._toggle)
        self._docket_of: tuple[object, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 8, 8)
        column.setSpacing(4)
        self.seal = SealDrawing()
        self._name = Elided("", "name", middle=True)
        self._what = Elided("", "")
        self._state = label("", "quiet", wraps=True)
        self._notes = label("", "heed", wraps=True)
        words = QVBoxLayout()
        words.setSpacing(2)
        for widget in (self._name, self._what, self._state, self._notes):
            words.addWidget(widget)
        words.addStretch(1)
        head = row_of()
        head.addWidget(self.seal, 0, Qt.AlignmentFlag.AlignTop)
        head.addLayout(words, 1)
        column.addLayout(head)
        self._actions = QWidget()
        self._action_row = QVBoxLayout(self._actions)
        self._action_row.setContentsMargins(52, 0, 0, 0)
        column.addWidget(self._actions)
        self._docket = QWidget()
        self._docket.setObjectName("docket")
        self._docket.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._inside = QVBoxLayout(self._docket)
        self._inside.setContentsMargins(0, 8, 0, 0)
        self._inside.setSpacing(6)
        column.addWidget(self._docket)

    def _toggle(self) -> None:
        self.toggled.emit(self.delivery)

    def show_delivery(
        self,
        delivery: Delivery,
        status: Status,
        programme: Programme | None,
        *,
        film_key: str,
        is_open: bool,
    ) -> None:
        """film_key: of what the reel is made of now; empty where nobody has looked yet."""
        self._name.say(plain(path_of(delivery).name))
        self.setAccessibleName(f"{path_of(delivery).name}, {status.state.value}")
        length = ""
        if programme is not None:
            frames = programme.timeline.frames.count
            length = f" · {length_words(frames, programme.timeline.rate)}"
            length += f" {self.tr('at')} {rate_words(programme.timeline.rate)}"
        kind = self._kind_words(delivery)
        self._what.say(f"{kind}{length}")
        progress = status.progress
        share = progress.done / progress.total if progress and progress.total else 0.0
        outcome, since = status.outcome, Since.NOTHING
        if programme is not None and outcome is not None:
            since = changed_since(delivery, outcome, reel_key=programme.key, film_key=film_key)
        is_past = status.state is DeliveryState.SEALED and since is not Since.NOTHING
        self.seal.show_state(status.state, share, is_past=is_past)
        words, tone = self._words(delivery, status, programme, since)
        self._state.setText(words)
        self._state.setObjectName(tone)
        restyle(self._state)
        notes = status.outcome.notes if status.outcome else ()
        self._notes.setText("\n".join(notes))
        self._notes.setVisible(bool(notes))
        self._show_actions(delivery, status, programme)
        self.say_open(is_open=is_open)
        self._docket.setVisible(is_open)
        state = (delivery, is_open, status.is_running)
        if is_open and state != self._docket_of:
            with keeping_focus(self._docket):
                empty(self._inside)
                self._fill_docket(delivery, status)
        self._docket_of = state

    def _kind_words(self, delivery: Delivery) -> str:
        """Codec and container: `H.264 · MP4`."""
        if delivery.codec not in CODECS:
            return self.tr("{0}, not known here").format(delivery.codec)
        return f"{delivery.codec} · {container_of(delivery).name}"

    def _words(
        self, delivery: Delivery, status: Status, programme: Programme | None, since: Since
    ) -> tuple[str, str]:
        outcome, progress = status.outcome, status.progress
        if status.state is DeliveryState.DRAFT:
            if programme is None:
                return self.tr(sentences.NOTHING_ON_THE_REEL_YET), "quiet"
            if delivery.codec not in CODECS:
                return self.tr("draft"), "quiet"
            try:
                about = bytes_of(programme.timeline, delivery)
            except JobError as error:
                return str(error), "bad"
            return self.tr(sentences.DRAFT_UP_TO_ABOUT).format(bytes_words(about)), "quiet"
        if status.state is DeliveryState.WAITING:
            return self.tr("waits"), "quiet"
        if progress is not None:
            state = self.tr("checking") if progress.stage == "checking" else self.tr("encoding")
            words = self.tr("{0} {1} of {2}").format(state, progress.done, progress.total)
            if progress.per_second:
                words += f" · {progress.per_second:.1f} f/s"
            return words + left_words(progress.seconds_left, " · "), "quiet"
        if outcome is None:
            return self.tr("encoding"), "quiet"
        if outcome.state is DeliveryState.SEALED:
            sealed = self.tr("sealed and signed") if outcome.signed_by else self.tr("sealed")
            words = f"{sealed} · {bytes_words(outcome.size_bytes)}"
            if since is Since.NOTHING:
                return words, "good"
            return f"{words}\n{self.tr(CHANGED[since])}", "heed"
        if outcome.state is DeliveryState.STOPPED:
            return self.tr(sentences.STOPPED_NOTHING_WAS_LEFT_BEHIND), "quiet"
        return f"{outcome.state.value}: " + "\n".join(outcome.reasons), "bad"

    def _show_actions(
        self, delivery: Delivery, status: Status, programme: Programme | None
    ) -> None:
        wanted: list[tuple[str, Callable[[], None]]] = []
        if status.is_running:
            wanted.append((self.tr("Stop"), partial(self.stop_asked.emit, self.delivery)))
        elif status.state is DeliveryState.SEALED:
            show = partial(self.show_asked.emit, self.delivery)
            wanted.append((self.tr("Show in folder"), show))
        elif status.state is DeliveryState.REFUSED and path_of(delivery).exists():
            over = partial(self.overwrite_asked.emit, self.delivery)
            wanted.append((self.tr("Overwrite"), over))
        elif status.state is DeliveryState.REFUSED and programme is not None:
            missing = [one.sequence for one in programme.missing() if not one.is_stood_in]
            if missing:
                go = partial(self.source_asked.emit, missing[0].id)
                wanted.append((self.tr("Show {0}").format(missing[0].name), go))
        texts = [text for text, _ in wanted]
        if texts == self._actions.property("texts"):
            return
        self._actions.setProperty("texts", texts)
        empty(self._action_row)
        for text, act in wanted:
            self._action_row.addLayout(row_of(button(text, act), 1))
        self._actions.setVisible(bool(wanted))

    # ---- the docket ------------------------------------------------------------------------

    def _fill_docket(self, delivery: Delivery, status: Status) -> None:
        codec = known_codec(delivery)
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        rows = [*self._name_rows(delivery), (self.tr("Codec"), self._codec_choice(delivery))]
        if codec.grades:
            rows.append((self.tr("Quality"), self._grade_choice(delivery, codec)))
        if codec.has_bitrate:
            rows.append((self.tr("or bitrate"), self._bitrate_field(delivery)))
            last = last_bitrate_words(delivery.outcome)
            if last:
                words = self.tr(sentences.THE_LAST_FILE_TOOK).format(last)
                rows.append(("", label(words, "quiet", wraps=True)))
        if codec.takes_codes:
            rows += self._colour_rows(delivery, codec)
        for row, (words, widget) in enumerate(rows):
            title = label(words, "quiet")
            title.setBuddy(widget)
            grid.addWidget(title, row, 0)
            grid.addWidget(widget, row, 1)
            widget.setEnabled(not status.is_running)
        self._inside.addLayout(grid)
        send = button(self.tr("Seal this one"), partial(self.send_asked.emit, self.delivery))
        remove = button(self.tr("Remove"), partial(self.remove_asked.emit, self.delivery), "word")
        for widget in (send, remove):
            widget.setEnabled(not status.is_running)
        self._inside.addLayout(row_of(send, 1, remove))

    def _name_rows(self, delivery: Delivery) -> list[tuple[str, QWidget]]:
        name = Field(path_of(delivery).name, self.tr("Name"), file_name)
        name.setObjectName("deliveryName")
        name.said.connect(self._say_name)
        name.wrong.connect(self._pen.complained)
        folder = Elided(plain(delivery.folder), "", middle=True)
        choose = button(self.tr("Choose…"), partial(self._choose_folder, delivery.folder))
        return [(self.tr("Name"), name), (self.tr("Folder"), folder), ("", choose)]

    def _codec_choice(self, delivery: Delivery) -> Choice:
        box = named_choice("codec", self.tr("Codec"))
        for one in CODECS.values():
            box.addItem(one.title, one.name)
        if delivery.codec not in CODECS:
            box.addItem(self.tr("{0}, not known here").format(delivery.codec), delivery.codec)
        box.setCurrentIndex(box.findData(delivery.codec))
        box.activated.connect(partial(self._say_codec, box, delivery))
        return box

    def _grade_choice(self, delivery: Delivery, codec: Codec) -> Choice:
        box = named_choice("quality", self.tr("Quality"))
        for grade, figure in codec.grades.items():
            box.addItem(f"{grade.value} ({figure:g})", Graded(grade=grade))
        quality = delivery.quality
        if isinstance(quality, ConstantQuality):
            box.addItem(f"{quality.figure:g}", quality)
        elif isinstance(quality, Bitrate):
            box.addItem(self.tr("by bitrate"), quality)
        box.setCurrentIndex(next(n for n in range(box.count()) if box.itemData(n) == quality))
        box.activated.connect(partial(self._say_grade, box))
        return box

    def _bitrate_field(self, delivery: Delivery) -> Field:
        field = Field(bitrate_words(delivery.quality), self.tr("Bitrate"), parse_bitrate)
        field.setObjectName("bitrate")
        field.setPlaceholderText(self.tr("5M"))
        field.said.connect(self._say_bitrate)
        field.wrong.connect(self._pen.complained)
        return field

    def _colour_rows(self, delivery: Delivery, codec: Codec) -> list[tuple[str, QWidget]]:
        space = named_choice("space", self.tr("Colour"))
        for value in codec.spaces:
            space.addItem(value.value, value)
        space.setCurrentIndex(space.findData(delivery.space))
        space.setToolTip(self.tr(sentences.SRGB_KEEPS_THE_CODES))
        space.activated.connect(partial(self._say_space, space))
        lut = button(Path(delivery.lut).name or self.tr("none"), self._choose_lut)
        lut.setToolTip(self.tr(sentences.A_LUT_THAT_IS_APPLIED))
        dither = check(self.tr("on"), self._say_dither, "dither")
        dither.setToolTip(self.tr(sentences.HIDES_STEPS_IN_SOFT_GRADIENTS))
        dither.setChecked(delivery.dither)
        exact = check(self.tr("on"), self._say_exact, "exact")
        exact.setToolTip(self.tr(sentences.WORKS_THE_VIEW_OUT))
        exact.setChecked(delivery.exact)
        return [
            (self.tr("Colour"), space),
            (self.tr("LUT"), lut),
            (self.tr("Dither"), dither),
            (self.tr("Exact"), exact),
        ]

    # ---- saying ----------------------------------------------------------------------------

    def _say(self, words: str, **fields: object) -> None:
        def change(job: Job) -> Job:
            return change_delivery(job, delivery=self.delivery, **fields)

        self._pen.asked.emit(Edit(words, change))

    def _say_name(self, name: object) -> None:
        self._say(self.tr("name a delivery"), name=name, outcome=None)

    def _say_grade(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("quality"), quality=box.currentData())

    def _say_bitrate(self, bitrate: object) -> None:
        self._say(self.tr("bitrate"), quality=bitrate)

    def _say_space(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("deliver as {0}").format(box.currentData()), space=box.currentData())

    def _say_codec(self, box: QComboBox, before: Delivery, _index: int) -> None:
        name = str(box.currentData())
        codec = CODECS.get(name)
        fields: dict[str, object] = {"codec": name}
        if codec is not None and before.space not in codec.spaces:
            fields["space"] = codec.usual_space
        if codec is not None and codec.quality_trouble(before.quality):
            fields["quality"] = Graded()
        self._say(self.tr("deliver as {0}").format(name), **fields)

    def _say_exact(self, on: bool) -> None:
        self._say(self.tr("exact views"), exact=on)

    def _say_dither(self, on: bool) -> None:
        self._say(self.tr("dither"), dither=on)

    def _choose_lut(self) -> None:
        """Choose a LUT's file; to choose none takes it away."""
        name, _ = QFileDialog.getOpenFileName(self, self.tr("LUT"), "", LUTS)
        self._say(self.tr(sentences.LUT_OF_A_DELIVERY), lut=name)

    def _choose_folder(self, before: str) -> None:
        chosen = QFileDialog.getExistingDirectory(self, self.tr("Deliver into"), before)
        if chosen:
            self._say(
                self.tr("deliver into {0}").format(Path(chosen).name),
                folder=chosen,
                outcome=None,
            )


def known_codec(delivery: Delivery) -> Codec:
    """A delivery's codec, or the usual one where a newer job names one that is not known here."""
    return CODECS.get(delivery.codec) or next(iter(CODECS.values()))


def named_choice(name: str, words: str) -> Choice:
    box = Choice()
    box.setObjectName(name)
    box.setAccessibleName(words)
    return box
