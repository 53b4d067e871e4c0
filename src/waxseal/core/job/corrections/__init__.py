"""The corrections, in the order in which they work, whatever order they were added in.

A new one is a class in one of the files here and a line in `Correction`. What it
does to pixels is a function in `picture.finish`.
"""

from __future__ import annotations

from typing import Annotated, get_args

from pydantic import Field

from waxseal.core.job.corrections.colour_corrections import (
    LUTS,
    Balance,
    Cdl,
    Exposure,
    Gamma,
    Lut,
    Saturation,
)
from waxseal.core.job.corrections.correction import (
    WHOLE,
    Corrects,
    Cover,
    Helper,
    Moment,
    Values,
)
from waxseal.core.job.corrections.fade import Curve, Fade, FadeTo, Opacity
from waxseal.core.job.corrections.shape import Border, Grain, Haze, Sharpen, Soften, Vignette
from waxseal.core.job.corrections.text import Text, TextPlace

__all__ = [
    "LUTS",
    "ORDER",
    "WHOLE",
    "Balance",
    "Border",
    "Cdl",
    "Correction",
    "Corrects",
    "Cover",
    "Curve",
    "Exposure",
    "Fade",
    "FadeTo",
    "Gamma",
    "Grain",
    "Haze",
    "Helper",
    "Lut",
    "Moment",
    "Opacity",
    "Saturation",
    "Sharpen",
    "Soften",
    "Text",
    "TextPlace",
    "Values",
    "Vignette",
]

Correction = Annotated[
    Exposure
    | Balance
    | Cdl
    | Gamma
    | Saturation
    | Lut
    | Haze
    | Soften
    | Sharpen
    | Vignette
    | Grain
    | Border
    | Text
    | Fade
    | Opacity,
    Field(discriminator="kind"),
]

ORDER: tuple[type[Corrects], ...] = get_args(get_args(Correction)[0])
