"""Making light copies of what one thread cannot make in time."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from fractions import Fraction

from waxseal.core.errors import FrameError, JobError
from waxseal.core.job.model import Space
from waxseal.core.picture.copies.proxy_folder import LightCopies
from waxseal.core.picture.light.light_reader import Means, light_of_shown
from waxseal.core.plan.recipe import Layer, Shown
from waxseal.core.plan.recipe_range import Film
from waxseal.core.progress import CancelToken, Progress, Report
from waxseal.core.speedometer import time_call

__all__ = ["copy_heavy"]

LOOKED_AT = 3  # frames by which a source is judged: the first one finds nothing warm


def copy_heavy(
    film: Film,
    copies: LightCopies,
    *,
    report: Report,
    token: CancelToken,
    budget: Fraction | None = None,
) -> int:
    """Copy every frame of a film's heavy sources; returns how many were made.

    budget: seconds that a frame may take on one thread; None is the reel's own step.
    Its reports name the source that is copied. Raises OSError where the folder
    cannot be written, Cancelled.
    """
    of_reel = Means(film.timeline.job.reel.colour, Space.SRGB)
    longest = float(budget if budget is not None else 1 / film.timeline.rate)
    made = 0
    for source, layers in layers_by_source(film, token).items():
        means, frames = of_reel.of(layers[0]), list(dict.fromkeys(shown_by(layers)))
        wanted = [shown for shown in frames if not copies.has(shown, means.colourway)]
        quickest = min(seconds_for(wanted[:LOOKED_AT], means, token), default=0.0)
        if quickest <= longest:
            continue  # light enough
        for number, shown in enumerate(wanted):
            token.check()
            with suppress(FrameError, JobError):  # reported when the frame is looked at
                copies.keep(shown, means.colourway, light_of_shown(shown, means))
                made += 1
            report(Progress(source, number + 1, len(wanted)))
    return made


def seconds_for(frames: list[Shown], means: Means, token: CancelToken) -> Iterator[float]:
    """How long each frame takes that can be read."""
    for shown in frames:
        token.check()
        with suppress(FrameError, JobError):
            yield time_call(light_of_shown, shown, means)[1]


def layers_by_source(film: Film, token: CancelToken) -> dict[str, list[Layer]]:
    """The layers that show each source, in the order of the reel."""
    found: dict[str, list[Layer]] = {}
    for reel_frame in film.frames:
        token.check()
        for layer in film.recipe(reel_frame).layers():
            found.setdefault(layer.pick.source, []).append(layer)
    return found


def shown_by(layers: list[Layer]) -> Iterator[Shown]:
    for layer in layers:
        yield layer.shown
        if layer.between is not None:
            yield layer.between.following
