"""A card of the outbox: a delivery, its seal, how far it is, its docket."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QFileDialog, QGridLayout, QVBoxLayout, QWidget

from waxseal.app.finish.fields import LUTS
from waxseal.app.look.card import Card
from waxseal.app.look.keys import Choice
from waxseal.app.look.small import (
    Elided,
    Field,
    button,
    check,
    emptied,
    keeping_focus,
    label,
    restyled,
    row_of,
)
from waxseal.app.outbox.sealdrawing import SealDrawing
from waxseal.app.outbox.sending import Status
from waxseal.core.deliver.forms import FORMS
from waxseal.core.deliver.settings import FIGURES, Grade, estimated_bytes, parse_bitrate
from waxseal.core.job.edits import Edit, change_delivery
from waxseal.core.job.model import (
    Bitrate,
    Codec,
    ConstantQuality,
    Delivery,
    DeliveryState,
    Job,
)
from waxseal.core.plan.programme import Programme
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import length_words
from waxseal.core.words import bytes_words, left_words, plain

__all__ = ["DeliveryCard"]

RUNNING = (DeliveryState.WAITING, DeliveryState.ENCODING, DeliveryState.CHECKING)


class DeliveryCard(Card):
    edit_asked = Signal(object)
    toggled = Signal(str)
    send_asked = Signal(str)
    stop_asked = Signal(str)
    show_asked = Signal(str)
    remove_asked = Signal(str)
    source_asked = Signal(str)  # the source whose frames hold the delivery up
    complained = Signal(str)

    def __init__(self, delivery: Delivery) -> None:
        super().__init__()
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
        self, delivery: Delivery, status: Status, programme: Programme | None, *, is_open: bool
    ) -> None:
        self._name.say(plain(delivery.path.name))
        self.setAccessibleName(f"{delivery.path.name}, {status.state.value}")
        length = ""
        if programme is not None:
            frames = programme.frames.count
            length = f" · {length_words(frames, programme.rate)}"
            length += f" {self.tr('at')} {rate_words(programme.rate)}"
        kind = self.tr("EXR frames") if delivery.codec is Codec.EXR else f"{delivery.codec} · MP4"
        self._what.say(f"{kind}{length}")
        progress = status.progress
        share = progress.done / progress.total if progress and progress.total else 0.0
        self.seal.show_state(status.state, share)
        words, tone = self._words(delivery, status, programme)
        self._state.setText(words)
        self._state.setObjectName(tone)
        restyled(self._state)
        notes = status.outcome.notes if status.outcome else ()
        self._notes.setText("\n".join(notes))
        self._notes.setVisible(bool(notes))
        self._show_actions(delivery, status, programme)
        restyled(self, open=is_open)
        self._docket.setVisible(is_open)
        state = (delivery, is_open, status.state in RUNNING)
        if is_open and state != self._docket_of:
            with keeping_focus(self._docket):
                emptied(self._inside)
                self._fill_docket(delivery, status)
        self._docket_of = state

    def _words(
        self, delivery: Delivery, status: Status, programme: Programme | None
    ) -> tuple[str, str]:
        outcome, progress = status.outcome, status.progress
        if status.state is DeliveryState.DRAFT:
            if programme is None:
                return self.tr("nothing on the reel yet"), "quiet"
            about = estimated_bytes(
                delivery, programme.size, programme.frames.count, programme.rate
            )
            return self.tr("draft · up to about {0}").format(bytes_words(about)), "quiet"
        if status.state is DeliveryState.WAITING:
            return self.tr("waits"), "quiet"
        if progress is not None:
            state = self.tr("checking") if progress.stage == "checking" else self.tr("encoding")
            words = self.tr("{0} {1} of {2}").format(state, progress.done, progress.total)
            if progress.per_second:
                words += f" · {progress.per_second:.1f} f/s"
            if progress.seconds_left is not None and progress.seconds_left >= 1:
                words += f" · {left_words(progress.seconds_left)}"
            return words, "quiet"
        if outcome is None:
            return self.tr("encoding"), "quiet"
        if outcome.state is DeliveryState.SEALED:
            words = self.tr("sealed · {0}").format(bytes_words(outcome.size_bytes))
            if programme is not None and outcome.made_from != programme.key:
                return words + "\n" + self.tr("The reel has changed since."), "heed"
            if outcome.made_as and outcome.made_as != delivery.key:
                return words + "\n" + self.tr("Its settings have changed since."), "heed"
            return words, "good"
        if outcome.state is DeliveryState.STOPPED:
            return self.tr("stopped · nothing was left behind"), "quiet"
        return f"{outcome.state.value}: " + "\n".join(outcome.reasons), "bad"

    def _show_actions(
        self, delivery: Delivery, status: Status, programme: Programme | None
    ) -> None:
        wanted: list[tuple[str, Callable[[], None]]] = []
        if status.state in RUNNING:
            wanted.append((self.tr("Stop"), partial(self.stop_asked.emit, self.delivery)))
        elif status.state is DeliveryState.SEALED:
            show = partial(self.show_asked.emit, self.delivery)
            wanted.append((self.tr("Show in folder"), show))
        elif (
            status.state is DeliveryState.REFUSED
            and not delivery.overwrite
            and (delivery.path.exists())
        ):
            wanted.append((self.tr("Overwrite"), self._overwrite))
        elif status.state is DeliveryState.REFUSED and programme is not None:
            place = next(programme.refusals(programme.frames), None)
            if place is not None:
                go = partial(self.source_asked.emit, place.sequence.id)
                wanted.append((self.tr("Show {0}").format(place.sequence.name), go))
        texts = [text for text, _ in wanted]
        if texts == self._actions.property("texts"):
            return
        self._actions.setProperty("texts", texts)
        emptied(self._action_row)
        for text, act in wanted:
            self._action_row.addLayout(row_of(button(text, act), 1))
        self._actions.setVisible(bool(wanted))

    def _overwrite(self) -> None:
        self._say(self.tr("overwrite {0}").format(self._name.whole), overwrite=True)
        self.send_asked.emit(self.delivery)

    def _fill_docket(self, delivery: Delivery, status: Status) -> None:
        name = Field(delivery.path.name, self.tr("Name"), file_name)
        name.setObjectName("deliveryName")
        name.said.connect(self._say_name)
        name.wrong.connect(self.complained)
        folder = Elided(plain(delivery.folder), "", middle=True)
        choose = button(self.tr("Choose…"), partial(self._choose_folder, delivery.folder))
        grade = Choice()
        grade.setObjectName("quality")
        grade.setAccessibleName(self.tr("Quality"))
        for one in Grade:
            grade.addItem(f"{one.value} ({FIGURES[one]:g})", ConstantQuality(figure=FIGURES[one]))
        quality = delivery.quality
        if isinstance(quality, ConstantQuality):
            if quality.figure not in FIGURES.values():
                grade.addItem(f"{quality.figure:g}", quality)
            grade.setCurrentIndex(
                next(n for n in range(grade.count()) if grade.itemData(n) == quality)
            )
        else:
            grade.addItem(self.tr("by bitrate"), quality)
            grade.setCurrentIndex(grade.count() - 1)
        grade.activated.connect(partial(self._say_grade, grade))
        rate = Field(bitrate_words(quality), self.tr("Bitrate"), parse_bitrate)
        rate.setObjectName("bitrate")
        rate.setPlaceholderText(self.tr("5M"))
        rate.said.connect(self._say_bitrate)
        rate.wrong.connect(self.complained)
        codec = Choice()
        codec.setObjectName("codec")
        codec.setAccessibleName(self.tr("Codec"))
        for kind in Codec:
            codec.addItem(self._codec_words(kind), kind)
        codec.setCurrentIndex(codec.findData(delivery.codec))
        codec.activated.connect(partial(self._say_codec, codec))
        space = Choice()
        space.setObjectName("space")
        space.setAccessibleName(self.tr("Colour"))
        for value in FORMS[delivery.codec].colours:
            space.addItem(value.value, value)
        self._space = delivery.space
        space.setCurrentIndex(space.findData(delivery.space))
        space.setToolTip(
            self.tr("sRGB keeps the codes of display-encoded frames; BT.709 is for BT.1886")
        )
        space.activated.connect(partial(self._say_space, space))
        lut = button(Path(delivery.lut).name or self.tr("none"), self._choose_lut)
        lut.setToolTip(self.tr("A LUT that the finished numbers go through"))
        dither = check(self.tr("against steps in soft light"), self._say_dither, "dither")
        dither.setChecked(delivery.dither)
        exact = check(self.tr("views without a cube, slower"), self._say_exact, "exact")
        exact.setChecked(delivery.exact)
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        rows: list[tuple[str, QWidget]] = [
            (self.tr("Name"), name),
            (self.tr("Folder"), folder),
            ("", choose),
            (self.tr("Codec"), codec),
        ]
        if delivery.codec is not Codec.EXR:  # light goes out as it is
            rows += [
                (self.tr("Quality"), grade),
                (self.tr("or bitrate"), rate),
                (self.tr("Colour"), space),
                (self.tr("LUT"), lut),
                (self.tr("Dither"), dither),
                (self.tr("Exact"), exact),
            ]
        for row, (words, widget) in enumerate(rows):
            title = label(words, "quiet")
            title.setBuddy(widget)
            grid.addWidget(title, row, 0)
            grid.addWidget(widget, row, 1)
        self._inside.addLayout(grid)
        send = button(self.tr("Seal this one"), partial(self.send_asked.emit, self.delivery))
        remove = button(self.tr("Remove"), partial(self.remove_asked.emit, self.delivery), "word")
        self._inside.addLayout(row_of(send, 1, remove))
        running = status.state in RUNNING
        for widget in (
            *(name, choose, codec, grade, rate, space, lut, dither, exact),
            *(send, remove),
        ):
            widget.setEnabled(not running)

    def _say(self, words: str, **fields: object) -> None:
        def change(job: Job) -> Job:
            return change_delivery(job, delivery=self.delivery, **fields)

        self.edit_asked.emit(Edit(words, change))

    def _say_name(self, name: object) -> None:
        self._say(self.tr("name a delivery"), name=name, overwrite=False, outcome=None)

    def _say_grade(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("quality"), quality=box.currentData())

    def _say_bitrate(self, bitrate: object) -> None:
        self._say(self.tr("bitrate"), quality=bitrate)

    def _say_space(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("deliver as {0}").format(box.currentData()), space=box.currentData())

    def _codec_words(self, codec: Codec) -> str:
        return {
            Codec.H264: self.tr("H.264, 8 bits"),
            Codec.H265: self.tr("H.265, 10 bits"),
            Codec.EXR: self.tr("EXR frames, half"),
        }[codec]

    def _say_codec(self, box: QComboBox, _index: int) -> None:
        codec = Codec(box.currentData())
        words = self.tr("deliver as {0}").format(codec)
        if self._space in FORMS[codec].colours:
            self._say(words, codec=codec)
        else:
            self._say(words, codec=codec, space=next(iter(FORMS[codec].colours)))

    def _say_exact(self, on: bool) -> None:
        self._say(self.tr("exact views"), exact=on)

    def _say_dither(self, on: bool) -> None:
        self._say(self.tr("dither"), dither=on)

    def _choose_lut(self) -> None:
        """Choose a LUT's file; to choose none takes it away."""
        name, _ = QFileDialog.getOpenFileName(self, self.tr("LUT"), "", LUTS)
        self._say(self.tr("LUT of a delivery"), lut=name)

    def _choose_folder(self, before: str) -> None:
        chosen = QFileDialog.getExistingDirectory(self, self.tr("Deliver into"), before)
        if chosen:
            self._say(
                self.tr("deliver into {0}").format(Path(chosen).name),
                folder=chosen,
                overwrite=False,
                outcome=None,
            )


def bitrate_words(quality: ConstantQuality | Bitrate) -> str:
    if isinstance(quality, ConstantQuality):
        return ""
    bits = quality.bits_per_second
    return f"{bits / 1e6:g}M" if bits >= 1_000_000 else f"{bits / 1e3:g}k"


def file_name(text: str) -> str:
    """A name without a path; `.mp4` is added where it is missing."""
    name = text.strip()
    if not name or re.search(r"[/\0]", name) or name in (".", ".."):
        raise ValueError(f"“{text}” is no file name: leave out slashes.")
    return name if name.lower().endswith(".mp4") else f"{name}.mp4"
