"""The docket of a delivery: its name, what will happen to the reel, and its settings."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QFileDialog, QGridLayout, QVBoxLayout, QWidget

from waxseal.app.look.keys import Choice
from waxseal.app.look.pen import Pen
from waxseal.app.look.small import Elided, Field, button, check, label, row_of
from waxseal.app.outbox import sentences
from waxseal.app.outbox.matchtable import Decision, MatchTable
from waxseal.core.deliver.codecs import CODECS, Codec
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.match import Row, State, has_guessed_rate, match
from waxseal.core.deliver.naming import container_of, file_name, named_container, path_of
from waxseal.core.deliver.quality import (
    bitrate_words,
    last_bitrate_words,
    parse_bitrate,
    parse_bytes,
    parse_level,
)
from waxseal.core.deliver.specs.book import save_spec, spec_book
from waxseal.core.deliver.specs.ordering import spec_from, spec_troubles
from waxseal.core.errors import JobError, WaxSealError
from waxseal.core.job.corrections import LUTS
from waxseal.core.job.edits import Edit, change_delivery, confirm_rates
from waxseal.core.job.model import (
    Alpha,
    Bitrate,
    ConstantQuality,
    Delivery,
    Framing,
    Graded,
    Job,
)
from waxseal.core.job.sizes import parse_size
from waxseal.core.plan.programme import Programme
from waxseal.core.timing.entry import parse_number
from waxseal.core.timing.ranges import FrameRange, parse_range
from waxseal.core.timing.rates import parse_rate, rate_words
from waxseal.core.words import bytes_words, numbered, plain

__all__ = ["DeliveryDocket"]

FilledRows = list[tuple[str, QWidget]]


class DeliveryDocket(QWidget):
    """Made for one state of a delivery; the match table follows the reel.

    settings_asked: show the settings, or hide them.
    """

    send_asked = Signal()
    remove_asked = Signal()
    proof_asked = Signal()
    poster_asked = Signal()
    settings_asked = Signal(bool)

    def __init__(
        self, delivery: Delivery, pen: Pen, *, is_running: bool, shows_settings: bool
    ) -> None:
        super().__init__()
        self._delivery, self._pen = delivery, pen
        self._is_running = is_running
        self._codec = known_codec(delivery)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(self._grid(self._name_rows()))
        self._match = MatchTable()
        self._match.setEnabled(not is_running)
        column.addWidget(self._match)
        self._troubles = label("", "bad", wraps=True)
        column.addWidget(self._troubles)
        words = self.tr("Hide the settings") if shows_settings else self.tr("Settings")
        settings = button(words, partial(self.settings_asked.emit, not shows_settings), "word")
        settings.setObjectName("word")
        column.addLayout(row_of(settings, 1))
        if shows_settings:
            column.addLayout(self._grid(self._setting_rows()))
            column.addWidget(self._spec_row())
        proof = button(self.tr("Proof"), self.proof_asked.emit, "word")
        proof.setToolTip(self.tr(sentences.A_SECOND_AROUND_THE_PLAYHEAD))
        poster = button(self.tr("Poster frame"), self.poster_asked.emit, "word")
        poster.setToolTip(self.tr(sentences.THE_FRAME_UNDER_THE_PLAYHEAD))
        column.addLayout(row_of(proof, poster, 1))
        send = button(self.tr("Seal this one"), self.send_asked.emit)
        remove = button(self.tr("Remove"), self.remove_asked.emit, "word")
        for widget in (send, remove):
            widget.setEnabled(not is_running)
        column.addLayout(row_of(send, 1, remove))

    def _grid(self, rows: FilledRows) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        for row, (words, widget) in enumerate(rows):
            title = label(words, "quiet")
            title.setBuddy(widget)
            grid.addWidget(title, row, 0)
            grid.addWidget(widget, row, 1)
            widget.setEnabled(not self._is_running)
        return grid

    # ---- what will happen ------------------------------------------------------------------

    def show_programme(self, programme: Programme | None) -> None:
        """What happens to the reel as it is now."""
        rows: tuple[Row, ...] = ()
        troubles: list[str] = []
        if programme is not None and self._delivery.codec in CODECS:
            try:
                rows = match(programme.timeline, self._delivery)
                if self._delivery.spec:
                    spec = spec_book().named(self._delivery.spec)
                    troubles = list(spec_troubles(spec, programme.timeline, self._delivery))
            except WaxSealError as error:
                troubles = [str(error)]
        self._match.setVisible(bool(rows))
        decisions = dict(self._decisions(rows, programme)) if programme is not None else {}
        self._match.show_rows(rows, decisions)
        self._troubles.setText("\n".join(troubles))
        self._troubles.setVisible(bool(troubles))

    def _decisions(self, rows: tuple[Row, ...], programme: Programme) -> list[tuple[str, Decision]]:
        """What can be decided where it is said."""
        found: list[tuple[str, Decision]] = []
        codec, there = self._codec, container_of(self._delivery).name
        parts = (part.sequence for part in programme.timeline.shots)
        guess = next((one.reading.rate for one in parts if has_guessed_rate(one)), None)
        for row in rows:
            if row.what == "rate" and row.state is State.DECIDE and guess is not None:
                rate = guess.value
                words = self.tr("confirm {0}").format(rate_words(rate))
                edit = Edit(words, partial(confirm_rates, rate=rate))
                found.append((row.what, (words, partial(self._pen.asked.emit, edit))))
            can_keep = bool(codec.alphas) and there in codec.clear_containers
            if row.what == "alpha" and row.state is State.LOST and can_keep:
                keep = partial(self._say, self.tr("keep alpha"), alpha=codec.alphas[0])
                found.append((row.what, (self.tr("keep the alpha"), keep)))
        return found

    # ---- the name --------------------------------------------------------------------------

    def _name_rows(self) -> FilledRows:
        delivery = self._delivery
        name = Field(path_of(delivery).name, self.tr("Name"), file_name)
        name.setObjectName("deliveryName")
        name.said.connect(self._say_name)
        name.wrong.connect(self._pen.complained)
        folder = Elided(plain(delivery.folder), "", middle=True)
        choose = button(self.tr("Choose…"), self._choose_folder)
        return [(self.tr("Name"), name), (self.tr("Folder"), folder), ("", choose)]

    def _say_name(self, name: object) -> None:
        """A suffix that the codec has a container for chooses that."""
        fields: dict[str, object] = {"name": name, "outcome": None}
        container = named_container(str(name), self._codec)
        if container:
            fields |= {"container": container, **without_what_it_lacks(container)}
        self._say(self.tr("name a delivery"), **fields)

    def _choose_folder(self) -> None:
        before = self._delivery.folder
        chosen = QFileDialog.getExistingDirectory(self, self.tr("Deliver into"), before)
        if chosen:
            words = self.tr("deliver into {0}").format(Path(chosen).name)
            self._say(words, folder=chosen, outcome=None)

    # ---- settings --------------------------------------------------------------------------

    def _setting_rows(self) -> FilledRows:
        codec = self._codec
        rows: FilledRows = [
            (self.tr("Codec"), self._codec_choice()),
            (self.tr("Container"), self._container_choice()),
        ]
        if codec.alphas:
            rows.append((self.tr("Alpha"), self._alpha_choice()))
        if codec.grades:
            rows.append((self.tr("Quality"), self._grade_choice()))
        if codec.has_bitrate:
            rows.append((self.tr("or bitrate"), self._bitrate_field()))
            last = last_bitrate_words(self._delivery.outcome)
            if last:
                words = self.tr(sentences.THE_LAST_FILE_TOOK).format(last)
                rows.append(("", label(words, "quiet", wraps=True)))
        rows += self._frame_rows()
        if codec.takes_codes:
            rows += self._colour_rows()
        return rows

    def _codec_choice(self) -> Choice:
        delivery = self._delivery
        box = named_choice("codec", self.tr("Codec"))
        for one in CODECS.values():
            box.addItem(one.title, one.name)
        if delivery.codec not in CODECS:
            box.addItem(self.tr("{0}, not known here").format(delivery.codec), delivery.codec)
        box.setCurrentIndex(box.findData(delivery.codec))
        box.activated.connect(partial(self._say_codec, box))
        return box

    def _container_choice(self) -> Choice:
        box = named_choice("container", self.tr("Container"))
        for name in self._codec.containers:
            box.addItem(name, name)
        if self._delivery.codec in CODECS:
            box.setCurrentIndex(box.findData(container_of(self._delivery).name))
        box.activated.connect(partial(self._say_container, box))
        return box

    def _alpha_choice(self) -> Choice:
        box = named_choice("alpha", self.tr("Alpha"))
        box.addItem(self.tr(sentences.FILLED_WITH_THE_GROUND), Alpha.NONE)
        if self._delivery.codec in CODECS:
            keeps = container_of(self._delivery).name in self._codec.clear_containers
            for one in self._codec.alphas if keeps else ():
                box.addItem(one.value, one)
        box.setCurrentIndex(max(0, box.findData(self._delivery.alpha)))
        box.activated.connect(partial(self._say_alpha, box))
        return box

    def _grade_choice(self) -> Choice:
        box = named_choice("quality", self.tr("Quality"))
        for grade, figure in self._codec.grades.items():
            box.addItem(f"{grade.value} ({figure:g})", Graded(grade=grade))
        quality = self._delivery.quality
        if isinstance(quality, ConstantQuality):
            box.addItem(f"{quality.figure:g}", quality)
        elif isinstance(quality, Bitrate):
            box.addItem(self.tr("by bitrate"), quality)
        box.setCurrentIndex(next(n for n in range(box.count()) if box.itemData(n) == quality))
        box.activated.connect(partial(self._say_grade, box))
        return box

    def _bitrate_field(self) -> Field:
        words = bitrate_words(self._delivery.quality)
        return self._field("bitrate", self.tr("Bitrate"), words, parse_bitrate, self.tr("5M"))

    def _frame_rows(self) -> FilledRows:
        """Where the file is another than the reel: empty fields are as the reel is."""
        delivery, as_reel = self._delivery, self.tr("as the reel")
        size = f"{delivery.size.width}x{delivery.size.height}" if delivery.size else ""
        rate = rate_words(delivery.rate) if delivery.rate else ""
        span = str(FrameRange(*delivery.range)) if delivery.range else ""
        limit = bytes_words(delivery.most_bytes) if delivery.most_bytes else ""
        rows: FilledRows = [
            (
                self.tr("Size"),
                self._field("ownSize", self.tr("Size"), size, or_none(parse_size), as_reel),
            )
        ]
        if delivery.size is not None:
            box = named_choice("ownFraming", self.tr("Framing"))
            for one in (Framing.FIT, Framing.FILL, Framing.STRETCH):
                box.addItem(one.value, one)
            box.setCurrentIndex(max(0, box.findData(delivery.framing)))
            box.activated.connect(partial(self._say_framing, box))
            rows.append((self.tr("Framing"), box))
        rows += [
            (
                self.tr("Rate"),
                self._field("ownRate", self.tr("Rate"), rate, or_none(parse_rate), as_reel),
            ),
            (
                self.tr("Range"),
                self._field("ownRange", self.tr("Range"), span, range_or_none, as_reel),
            ),
            (
                self.tr("At most"),
                self._field("limit", self.tr("At most"), limit, bytes_or_none, self.tr("any size")),
            ),
        ]
        if self._codec.has_key_frames:
            keys = f"{delivery.key_seconds:g}" if delivery.key_seconds else ""
            field = self._field(
                "keySeconds", self.tr("Key frames"), keys, seconds_or_none, self.tr("seconds")
            )
            field.setToolTip(self.tr(sentences.FROM_ONE_KEY_FRAME))
            rows.append((self.tr("Key frames"), field))
        return rows + self._sound_rows()

    def _sound_rows(self) -> FilledRows:
        """How the sound goes into the file, and the timecode beside it."""
        delivery = self._delivery
        container = container_of(delivery) if delivery.codec in CODECS else None
        rows: FilledRows = []
        if container is not None and container.sounds:
            box = named_choice("soundCodec", self.tr("Sound"))
            for at, one in enumerate(container.sounds):
                box.addItem(one.name, one.name if at else "")
            box.setCurrentIndex(max(0, box.findData(delivery.sound_codec)))
            box.activated.connect(partial(self._say_sound_codec, box))
            rows.append((self.tr("Sound"), box))
            for name, words, value, unit in (
                ("loudness", self.tr("Loudness"), delivery.loudness, "LUFS"),
                ("truePeak", self.tr("True peak"), delivery.true_peak, "dBTP"),
            ):
                text = "" if value is None else f"{numbered(value, 2)} {unit}"
                field = self._field(name, words, text, or_none(parse_level), self.tr("as it is"))
                rows.append((words, field))
        if container is not None and container.has_timecode:
            words = self.tr("Timecode")
            field = self._field("timecode", words, delivery.timecode, str, self.tr("none"))
            field.setToolTip(self.tr(sentences.TIMECODE_OF_THE_FIRST_FRAME))
            rows.append((words, field))
        return rows

    def _colour_rows(self) -> FilledRows:
        delivery = self._delivery
        space = named_choice("space", self.tr("Colour"))
        for value in self._codec.spaces:
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

    def _field(
        self, name: str, words: str, text: str, turn: Callable[[str], object], hint: str
    ) -> Field:
        field = Field(text, words, turn)
        field.setObjectName(name)
        field.setPlaceholderText(hint)
        field.said.connect(partial(self._say_field, FIELDS[name], words))
        field.wrong.connect(self._pen.complained)
        return field

    # ---- the spec --------------------------------------------------------------------------

    def _spec_row(self) -> QWidget:
        """The name under which these settings go into the spec book."""
        name = Field(self._delivery.spec, self.tr("Spec"), str)
        name.setObjectName("specName")
        name.setPlaceholderText(self.tr(sentences.NAME_OF_A_SPEC))
        save = button(self.tr("Save as a spec"), partial(self._save_spec, name), "word")
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(name)
        column.addLayout(row_of(save, 1))
        holder.setEnabled(not self._is_running and self._delivery.codec in CODECS)
        return holder

    def _save_spec(self, name: Field) -> None:
        try:
            spec = spec_from(self._delivery, name.text())
            save_spec(spec)
        except JobError as error:
            self._pen.complained.emit(str(error))
            return
        self._say(self.tr("save a spec"), spec=spec.name)
        self._pen.complained.emit(self.tr(sentences.IS_IN_THE_SPEC_BOOK).format(spec.name))

    # ---- saying ----------------------------------------------------------------------------

    def _say(self, words: str, **fields: object) -> None:
        delivery = self._delivery.id

        def change(job: Job) -> Job:
            return change_delivery(job, delivery=delivery, **fields)

        self._pen.asked.emit(Edit(words, change))

    def _say_field(self, field: str, words: str, value: object) -> None:
        self._say(words.lower(), **{field: value})

    def _say_grade(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("quality"), quality=box.currentData())

    def _say_space(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("deliver as {0}").format(box.currentData()), space=box.currentData())

    def _say_alpha(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("alpha of a delivery"), alpha=box.currentData())

    def _say_framing(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("framing of a delivery"), framing=box.currentData())

    def _say_container(self, box: QComboBox, _index: int) -> None:
        """Alpha that the container would lose is given up here, and the table says so."""
        name = str(box.currentData())
        fields: dict[str, object] = {"container": name, **without_what_it_lacks(name)}
        if self._codec.alpha_trouble(self._delivery.alpha, name):
            fields["alpha"] = Alpha.NONE
        self._say(self.tr("deliver as {0}").format(name), **fields)

    def _say_codec(self, box: QComboBox, _index: int) -> None:
        before, name = self._delivery, str(box.currentData())
        codec = CODECS.get(name)
        fields: dict[str, object] = {"codec": name}
        if codec is not None:
            if before.space not in codec.spaces:
                fields["space"] = codec.usual_space
            if codec.quality_trouble(before.quality):
                fields["quality"] = Graded()
            container = before.container if before.container in codec.containers else ""
            fields["container"] = container
            fields |= without_what_it_lacks(container or codec.containers[0])
            if codec.alpha_trouble(before.alpha, container or codec.containers[0]):
                fields["alpha"] = Alpha.NONE
        self._say(self.tr("deliver as {0}").format(name), **fields)

    def _say_sound_codec(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("sound of a delivery"), sound_codec=box.currentData())

    def _say_exact(self, on: bool) -> None:
        self._say(self.tr("exact views"), exact=on)

    def _say_dither(self, on: bool) -> None:
        self._say(self.tr("dither"), dither=on)

    def _choose_lut(self) -> None:
        """Choose a LUT's file; to choose none takes it away."""
        name, _ = QFileDialog.getOpenFileName(self, self.tr("LUT"), "", LUTS)
        self._say(self.tr(sentences.LUT_OF_A_DELIVERY), lut=name)


# The settings that are typed, by the names of their fields.
FIELDS = {
    "bitrate": "quality",
    "ownSize": "size",
    "ownRate": "rate",
    "ownRange": "range",
    "limit": "most_bytes",
    "keySeconds": "key_seconds",
    "loudness": "loudness",
    "truePeak": "true_peak",
    "timecode": "timecode",
}


def without_what_it_lacks(container: str) -> dict[str, object]:
    """What a delivery gives up in another container."""
    lost: dict[str, object] = {"sound_codec": ""}
    if not CONTAINERS[container].has_timecode:
        lost["timecode"] = ""
    return lost


def or_none(parse: Callable[[str], object]) -> Callable[[str], object]:
    """An empty field means: as the reel."""

    def turn(text: str) -> object:
        return parse(text) if text.strip() else None

    return turn


def range_or_none(text: str) -> tuple[int, int] | None:
    if not text.strip():
        return None
    span = parse_range(text)
    return span.first, span.last


def bytes_or_none(text: str) -> int:
    return parse_bytes(text) if text.strip() else 0


def seconds_or_none(text: str) -> float:
    return parse_number(text) if text.strip() else 0.0


def known_codec(delivery: Delivery) -> Codec:
    """A delivery's codec, or the usual one where a newer job names one that is not known here."""
    return CODECS.get(delivery.codec) or next(iter(CODECS.values()))


def named_choice(name: str, words: str) -> Choice:
    """A choice that may be narrower than its longest entry."""
    box = Choice()
    box.setObjectName(name)
    box.setAccessibleName(words)
    box.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(6)
    return box
