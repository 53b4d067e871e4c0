"""What the corner of the picture says: what is shown, and how fast it really plays."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QCoreApplication

from waxseal.app.view import picture_texts
from waxseal.app.view.player import Player
from waxseal.core.deliver.preview.file_view import BESIDE_TIMES, Show
from waxseal.core.picture.target import DIFFERENCE_TIMES, Aspect
from waxseal.core.timing.rates import rate_words

__all__ = ["caption"]

tr = partial(QCoreApplication.translate, "caption")


def caption(player: Player, rate: float, dropped: int, *, drags_cut: bool) -> str:
    """rate: frames a second while it plays; 0 while nobody knows. dropped: pictures left out.

    drags_cut: whether the picture can be dragged to choose what a delivery keeps of it.
    """
    wanted = rate_words(player.timeline.rate) if player.timeline is not None else ""
    if player.is_playing and rate:
        words = tr("{0:.1f} of {1} fps").format(rate, wanted)
        if dropped:
            words += tr(" · {0} dropped").format(dropped)
        return words + tr(" · light copy") if player.shows_light else words
    if drags_cut:
        return tr(picture_texts.DRAG_WHAT_IS_KEPT)
    if player.looked is not None and player.looked.show is Show.DIFFERENCE:
        return tr(picture_texts.DIFFERENCE_TIMES_AS_STRONG).format(BESIDE_TIMES)
    if player.beside is not None and player.beside.has_high_range:
        return tr(picture_texts.HIGH_RANGE_FITTED)
    if player.aspect is not Aspect.PICTURE:
        return aspect_words(player.aspect)
    if player.shows_before:
        return tr("before any finish")
    return tr("{0} fps").format(wanted)


def aspect_words(aspect: Aspect) -> str:
    """What is looked at in place of the picture."""
    times = tr(", {0} times as strong").format(DIFFERENCE_TIMES)
    strength = times if aspect is Aspect.DIFFERENCE else ""
    return tr("{0}{1}, before any finish").format(aspect, strength)
