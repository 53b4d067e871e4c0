"""A spec as a form has it: a text for each of its keys, and back."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from typing import Any

from waxseal.core.deliver.codecs import CODECS
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.specs.spec import Purpose, SoundWish, Spec
from waxseal.core.errors import JobError
from waxseal.core.job.model import Alpha, Framing, Space, make, shape_words

__all__ = ["ENTRIES", "Entry", "spec_of", "texts_of"]

ON, OFF = "yes", "no"


@dataclass(frozen=True, slots=True)
class Entry:
    """A key of a spec in a form.

    words: what it is called. usual: what it is if left out. example: how it is written.
    choices: all that it may be; empty where it is typed.
    """

    key: str
    words: str
    usual: str = ""
    example: str = ""
    choices: tuple[str, ...] = ()


def all_of(kind: type[StrEnum]) -> tuple[str, ...]:
    return tuple(one.value for one in kind)


SWITCH = (OFF, ON)
SOUNDS = {one.name: None for container in CONTAINERS.values() for one in container.sounds}

# In the order in which somebody thinks of a place: what for, which file, which frame, which sound.
ENTRIES = (
    Entry("name", "Name"),
    Entry("purpose", "For", choices=all_of(Purpose)),
    Entry("about", "About", "nothing", "a sentence"),
    Entry("codec", "Codec", choices=tuple(CODECS)),
    Entry("container", "Container", "the codec's usual one", choices=("", *CONTAINERS)),
    Entry("quality", "Quality", "high", "18, or 12M"),
    Entry("alpha", "Alpha", choices=all_of(Alpha)),
    Entry("space", "Colour", "the codec's usual one", choices=("", *all_of(Space))),
    Entry("mastering", "Mastering display", "not written", "P3 1000 0.005"),
    Entry("dither", "Dither", choices=SWITCH),
    Entry("sizes", "Sizes", "any", "1920x1080, 1280x720"),
    Entry("shapes", "Shapes", "any", "9:16, 4:5"),
    Entry("pixel_shape", "Pixel shape", "square", "64:45"),
    Entry("framing", "Framing", choices=(Framing.FIT, Framing.FILL, Framing.STRETCH)),
    Entry("rates", "Rates", "any", "24, 30000/1001"),
    Entry("shortest", "Shortest", "any length", "3 (seconds)"),
    Entry("longest", "Longest", "any length", "60 (seconds)"),
    Entry("key_seconds", "Key frames", "as the codec likes", "2 (seconds)"),
    Entry("max_size", "At most", "any size", "8 MB"),
    Entry("sound", "Sound", choices=all_of(SoundWish)),
    Entry("channels", "Channels", "any", "1, 2"),
    Entry("sound_codec", "Sound codec", "the container's usual one", choices=("", *SOUNDS)),
    Entry("loudness", "Loudness", "as it is", "-14 (LUFS)"),
    Entry("true_peak", "True peak", "as it is", "-1 (dBTP)"),
    Entry("timecode", "Timecode", "none", "01:00:00:00"),
    Entry("no_flashes", "Refuse flashes", choices=SWITCH),
    Entry("naming", "Naming", "{job}_{spec}"),
)


def texts_of(spec: Spec) -> dict[str, str]:
    """What stands in each entry; empty where it is left out."""
    return {one.key: text_of(spec, one) for one in ENTRIES}


def text_of(spec: Spec, entry: Entry) -> str:
    value = getattr(spec, entry.key)
    if isinstance(value, bool):
        return ON if value else OFF
    if value is None or (not entry.choices and value == Spec.model_fields[entry.key].default):
        return ""
    if isinstance(value, Fraction):
        return shape_words(value)
    if isinstance(value, tuple):
        return ", ".join(str(one) for one in value)
    return f"{value:g}" if isinstance(value, float) else str(value)


def spec_of(texts: Mapping[str, str]) -> Spec:
    """The spec of a form. Raises JobError, which names the entry that is wrong."""
    values = {key: value_of(key, text.strip()) for key, text in texts.items() if text.strip()}
    try:
        return make(Spec, **values)
    except JobError as error:
        key, mark, why = str(error).partition(": ")
        words = next((one.words for one in ENTRIES if one.key == key.split(" ")[0]), "")
        raise JobError(f"{words}: {why}" if mark and words else str(error)) from None


def value_of(key: str, text: str) -> Any:
    """A text as the model takes it: numbers are read there."""
    annotation = str(Spec.model_fields[key].annotation)
    if annotation.startswith("tuple"):
        return [one.strip() for one in text.split(",") if one.strip()]
    if "bool" in annotation:
        return text == ON
    return text.replace("−", "-") if "float" in annotation else text
