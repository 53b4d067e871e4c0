"""The settings of a delivery as rows of fields: what cannot go together cannot be chosen."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QComboBox, QFileDialog, QWidget

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.key_widgets import Choice, named_choice
from waxseal.app.look.widgets import Field, button, check, label
from waxseal.app.outbox import outbox_texts
from waxseal.core.deliver.codecs import CODECS, Codec
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.format.output_path import container_of
from waxseal.core.deliver.format.quality import (
    bitrate_words,
    last_bitrate_words,
    parse_bitrate,
    parse_bytes,
    parse_level,
)
from waxseal.core.job.corrections import LUTS
from waxseal.core.job.model import (
    Alpha,
    Bitrate,
    ConstantQuality,
    Delivery,
    Framing,
    Graded,
    Space,
    parse_pixel_shape,
    shape_words,
)
from waxseal.core.job.sizes import parse_size
from waxseal.core.sound.layouts import LAYOUTS
from waxseal.core.text_format import bytes_words, numbered
from waxseal.core.timing.parse_length import parse_number
from waxseal.core.timing.ranges import FrameRange, parse_range
from waxseal.core.timing.rates import parse_rate, rate_words

__all__ = ["FilledRows", "SettingRows", "without_what_it_lacks"]

FilledRows = list[tuple[str, QWidget]]


class SettingRows(QObject):
    """Made for one state of a delivery. say: asks for a change of it, with its words."""

    def __init__(
        self,
        delivery: Delivery,
        codec: Codec,
        pen: Pen,
        say: Callable[..., None],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self._delivery, self._codec, self._pen, self._say = delivery, codec, pen, say
        self._parent = parent

    def rows(self) -> FilledRows:
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
                words = self.tr(outbox_texts.THE_LAST_FILE_TOOK).format(last)
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
        box.addItem(self.tr(outbox_texts.FILLED_WITH_THE_GROUND), Alpha.NONE)
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
        if self._says_pixel_shape():
            words, shape = self.tr("Pixel shape"), delivery.pixel_shape
            text = "" if shape == 1 else shape_words(shape)
            field = self._field("ownPixelShape", words, text, shape_or_square, self.tr("square"))
            rows.append((words, field))
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
            field.setToolTip(self.tr(outbox_texts.FROM_ONE_KEY_FRAME))
            rows.append((self.tr("Key frames"), field))
        return rows + self._sound_rows()

    def _says_pixel_shape(self) -> bool:
        """Whether the field is needed: to choose a shape, or to give up one that cannot be said."""
        delivery = self._delivery
        is_known = delivery.codec in CODECS
        can = is_known and container_of(delivery).says_pixel_shape(self._codec)
        return can or delivery.pixel_shape != 1

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
            channels = named_choice("soundChannels", self.tr("Channels"))
            for count, words in ((0, self.tr("as the reel")), *LAYOUTS.items()):
                channels.addItem(words, count)
            channels.setCurrentIndex(max(0, channels.findData(delivery.sound_channels)))
            channels.activated.connect(partial(self._say_channels, channels))
            rows.append((self.tr("Channels"), channels))
            codec = container.sound_codec(delivery.sound_codec)
            if codec is not None and codec.bits_per_second:
                text = f"{delivery.sound_bits / 1000:g}k" if delivery.sound_bits else ""
                words = self.tr("Sound bitrate")
                field = self._field("soundBits", words, text, sound_bits_in, self.tr("as usual"))
                rows.append((words, field))
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
            field.setToolTip(self.tr(outbox_texts.TIMECODE_OF_THE_FIRST_FRAME))
            rows.append((words, field))
        return rows

    def _colour_rows(self) -> FilledRows:
        delivery = self._delivery
        space = named_choice("space", self.tr("Colour"))
        known = delivery.codec in CODECS
        for value in self._codec.spaces:
            lacks = known and container_of(delivery).colour_trouble(value, self._codec)
            if not lacks or value is delivery.space:
                space.addItem(value.value, value)
        space.setCurrentIndex(space.findData(delivery.space))
        space.setToolTip(self.tr(outbox_texts.SRGB_KEEPS_THE_CODES))
        space.activated.connect(partial(self._say_space, space))
        judged: FilledRows = []
        if delivery.space is Space.PQ:
            words = self.tr("Mastering display")
            field = self._field("mastering", words, delivery.mastering, str, "P3 1000 0.005")
            field.setToolTip(self.tr(outbox_texts.THE_MASTERING_DISPLAY))
            judged = [(words, field)]
        lut = button(Path(delivery.lut).name or self.tr("none"), self._choose_lut)
        lut.setToolTip(self.tr(outbox_texts.A_LUT_THAT_IS_APPLIED))
        dither = check(self.tr("on"), self._say_dither, "dither")
        dither.setToolTip(self.tr(outbox_texts.HIDES_STEPS_IN_SOFT_GRADIENTS))
        dither.setChecked(delivery.dither)
        exact = check(self.tr("on"), self._say_exact, "exact")
        exact.setToolTip(self.tr(outbox_texts.WORKS_THE_VIEW_OUT))
        exact.setChecked(delivery.exact)
        flashes = check(self.tr("refuse"), self._say_flashes, "noFlashes")
        flashes.setToolTip(self.tr(outbox_texts.FLASHES_THAT_MAY_HARM))
        flashes.setChecked(delivery.no_flashes)
        return [
            (self.tr("Colour"), space),
            *judged,
            (self.tr("LUT"), lut),
            (self.tr("Dither"), dither),
            (self.tr("Exact"), exact),
            (self.tr("Flashes"), flashes),
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

    # ---- saying ----------------------------------------------------------------------------

    def _say_field(self, field: str, words: str, value: object) -> None:
        self._say(words.lower(), **{field: value})

    def _say_grade(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("quality"), quality=box.currentData())

    def _say_space(self, box: QComboBox, _index: int) -> None:
        fields: dict[str, object] = {"space": box.currentData()}
        if fields["space"] is not Space.PQ:
            fields["mastering"] = ""
        self._say(self.tr("deliver as {0}").format(box.currentData()), **fields)

    def _say_alpha(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("alpha of a delivery"), alpha=box.currentData())

    def _say_framing(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("framing of a delivery"), framing=box.currentData())

    def _say_container(self, box: QComboBox, _index: int) -> None:
        """Alpha that the container would lose is given up here, and the table says so."""
        name = str(box.currentData())
        fields: dict[str, object] = {"container": name, **without_what_it_lacks(name, self._codec)}
        if self._codec.alpha_trouble(self._delivery.alpha, name):
            fields["alpha"] = Alpha.NONE
        self._say(self.tr("deliver as {0}").format(name), **fields)

    def _say_codec(self, box: QComboBox, _index: int) -> None:
        before, name = self._delivery, str(box.currentData())
        codec = CODECS.get(name)
        fields: dict[str, object] = {"codec": name}
        if codec is not None:
            if before.space not in codec.spaces:
                fields |= {"space": codec.usual_space, "mastering": ""}
            if codec.quality_trouble(before.quality):
                fields["quality"] = Graded()
            container = before.container if before.container in codec.containers else ""
            fields["container"] = container
            fields |= without_what_it_lacks(container or codec.containers[0], codec)
            if codec.alpha_trouble(before.alpha, container or codec.containers[0]):
                fields["alpha"] = Alpha.NONE
        self._say(self.tr("deliver as {0}").format(name), **fields)

    def _say_channels(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("channels of a delivery"), sound_channels=box.currentData())

    def _say_sound_codec(self, box: QComboBox, _index: int) -> None:
        self._say(self.tr("sound of a delivery"), sound_codec=box.currentData())

    def _say_exact(self, on: bool) -> None:
        self._say(self.tr("exact views"), exact=on)

    def _say_flashes(self, on: bool) -> None:
        self._say(self.tr("flashes"), no_flashes=on)

    def _say_dither(self, on: bool) -> None:
        self._say(self.tr("dither"), dither=on)

    def _choose_lut(self) -> None:
        """Choose a LUT's file; to choose none takes it away."""
        name, _ = QFileDialog.getOpenFileName(self._parent, self.tr("LUT"), "", LUTS)
        self._say(self.tr(outbox_texts.LUT_OF_A_DELIVERY), lut=name)


# The settings that are typed, by the names of their fields.
FIELDS = {
    "bitrate": "quality",
    "ownSize": "size",
    "ownPixelShape": "pixel_shape",
    "ownRate": "rate",
    "ownRange": "range",
    "limit": "most_bytes",
    "keySeconds": "key_seconds",
    "soundBits": "sound_bits",
    "loudness": "loudness",
    "truePeak": "true_peak",
    "timecode": "timecode",
    "mastering": "mastering",
}


def sound_bits_in(text: str) -> int:
    """`96k` in bits a second; 0 for the codec's usual. Raises WrongUse."""
    return parse_bitrate(text).bits_per_second if text.strip() else 0


def without_what_it_lacks(name: str, codec: Codec) -> dict[str, object]:
    """What a delivery gives up in another container, by its name."""
    lost: dict[str, object] = {"sound_codec": "", "sound_bits": 0, "sound_channels": 0}
    container = CONTAINERS[name]
    if not container.has_timecode:
        lost["timecode"] = ""
    if not container.has_boxes:
        lost["mastering"] = ""
    if not container.says_pixel_shape(codec):
        lost["pixel_shape"] = Fraction(1)
    return lost


def shape_or_square(text: str) -> Fraction:
    return parse_pixel_shape(text or "1")


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
