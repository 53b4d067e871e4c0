"""The values of a pixel in words, as they are written under the picture."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QCoreApplication

from waxseal.core.deliver.preview.delivery_pixels import ViewedPair
from waxseal.core.deliver.preview.file_view import Pair
from waxseal.core.job.model import Sequence
from waxseal.core.picture.inspection.pixel_sample import Sampled
from waxseal.core.picture.target import Target
from waxseal.core.plan.recipe import Recipe

__all__ = ["held_words", "sampled_words"]

tr = partial(QCoreApplication.translate, "values")
GAP = "   "


def sampled_words(
    sampled: object, recipe: Recipe, place: tuple[int, int], sequence: Sequence
) -> str:
    """What the source holds, and what the first delivery will; empty for another frame's values."""
    if not isinstance(sampled, Sampled) or sampled.recipe.key != recipe.key:
        return ""
    sample = sampled.at(*place)
    if sample is None:
        return ""
    words = [f"{sample.x}, {sample.y}"]
    if sample.source is not None:
        colour = sequence.reading.colour.value
        words.append(f"{colour} " + " ".join(f"{value:.3f}" for value in sample.source))
    words.append(f"→ {delivered_words(sampled.target, sample.delivered)}")
    if sample.alpha is not None:
        words.append(tr("alpha {0:.2f}").format(sample.alpha))
    return GAP.join(words)


def held_words(held: object, pair: Pair, place: tuple[int, int]) -> str:
    """The codes of a delivery, from the reel and in the file; empty for another frame's values."""
    if not isinstance(held, ViewedPair) or held.pair.key != pair.key:
        return ""
    values = held.at(*place)
    if values is None:
        return ""
    made, there = values
    words = [f"{place[0]}, {place[1]}", tr("reel {0}").format(code_words(made))]
    if there:
        away = max(abs(one - other) for one, other in zip(made, there, strict=False))
        words.append(tr("file {0}").format(code_words(there)))
        words.append(tr("apart {0:.1f}").format(away))
    return GAP.join(words)


def code_words(codes: tuple[float, ...]) -> str:
    """Codes of 8 bits, with a decimal where there are finer ones between them."""
    return " ".join(f"{round(code, 1):g}" for code in codes)


def delivered_words(target: Target, delivered: tuple[float, ...]) -> str:
    """A pixel as the delivery will hold it."""
    if target.layout.is_ycbcr or target.layout.is_rgb:
        names = ("Y′", "Cb", "Cr", "A") if target.layout.is_ycbcr else ("R", "G", "B", "A")
        codes = zip(names, delivered, strict=False)
        return "  ".join(f"{name} {code:.0f}" for name, code in codes)
    return "R G B " + " ".join(f"{value:.3f}" for value in delivered)
