"""Text over a picture, with fields that are filled in at each frame."""

from __future__ import annotations

from enum import StrEnum
from typing import ClassVar, Literal, Self

from pydantic import Field
from typing_extensions import override

from waxseal.core.job.corrections.correction import Corrects, Moment
from waxseal.core.job.corrections.fields import (
    Choices,
    ColourField,
    FieldOf,
    FileField,
    Lines,
    Number,
    Words,
)
from waxseal.core.job.paths import PathText
from waxseal.core.job.reading_settings import HexColour
from waxseal.core.timing.timecode import to_timecode

__all__ = ["Text", "TextPlace"]


class TextPlace(StrEnum):
    """Where in the safe area."""

    TOP_LEFT = "top left"
    TOP = "top"
    TOP_RIGHT = "top right"
    LEFT = "left"
    MIDDLE = "middle"
    RIGHT = "right"
    BOTTOM_LEFT = "bottom left"
    BOTTOM = "bottom"
    BOTTOM_RIGHT = "bottom right"


class Text(Corrects):
    """Lines of text inside the safe area.

    words: may hold the fields {frame}, {timecode}, {name}, {count}, {date}.
    size: the letters' height, in thousandths of the frame's height.
    font: a file; empty is our own. shade: how dark it is behind the text, 0..1.
    date: what {date} says; no clock is asked.
    """

    label = "text"
    fields: ClassVar[tuple[FieldOf, ...]] = (
        Lines("words", "words"),
        Choices("place", "place", TextPlace),
        Number("size", "size ‰", 1),
        ColourField("colour", "colour"),
        Number("shade", "shade", 0.02),
        FileField("font", "font", "Font (*.ttf *.otf *.ttc)"),
        Words("date", "date"),
    )
    varies = True
    is_typed = True
    kind: Literal["text"] = "text"
    words: str = Field(default="", max_length=2000)
    place: TextPlace = TextPlace.BOTTOM
    size: float = Field(default=50.0, ge=2, le=500)
    colour: HexColour = "#ffffff"
    font: PathText = ""
    shade: float = Field(default=0.0, ge=0, le=1)
    date: str = Field(default="", max_length=100)

    @property
    @override
    def does_nothing(self) -> bool:
        return not self.words.strip()

    @override
    def at(self, moment: Moment) -> Self:
        """The words with their fields filled in; braces that are no field stay."""
        values = {
            "{frame}": str(moment.number),
            "{reel frame}": str(moment.reel_frame),
            "{timecode}": to_timecode(moment.reel_frame - 1, moment.rate, moment.counting),
            "{name}": moment.name,
            "{count}": str(moment.count),
            "{date}": self.date,
        }
        words = self.words
        for name, value in values.items():
            words = words.replace(name, value)
        return self.model_copy(update={"words": words, "date": ""})
