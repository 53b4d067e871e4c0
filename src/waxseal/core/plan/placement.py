"""Where a title card goes, and what could lie over its neighbours instead of after them."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from waxseal.core.errors import JobError
from waxseal.core.job.corrections import Text
from waxseal.core.job.edits import (
    add_text,
    change_overlay,
    lay_over,
    move_shot,
    put_on_reel,
    remove_shot,
    set_length,
)
from waxseal.core.job.edits.stack_edits import has_alpha
from waxseal.core.job.model import Job, Shot
from waxseal.core.plan.timeline import Timeline, timeline_of

__all__ = ["could_lie_over", "lay_card", "lay_over_neighbours"]

CARD_SECONDS = 2


def lay_card(job: Job, *, source: str, at: int, texts: Sequence[Text]) -> Job:
    """Lay a title card or a slate, a still, at a reel frame for two seconds, with its words on it.

    Where one shot ends and another begins it goes between them, and so it does before the
    first and after the last; elsewhere it is laid over the picture.
    """
    try:
        timeline: Timeline | None = timeline_of(job)
    except JobError:
        timeline = None  # nothing is on the reel
    place = place_between(timeline, at) if timeline is not None else 0
    if timeline is None or place is not None:
        job = put_on_reel(job, sources=[source])
        laid = job.reel.shots[-1].id
        job = set_length(job, of=laid, frames=round(CARD_SECONDS * job.reel_rate), count=1)
        job = move_shot(job, shot=laid, to=place or 0)
    else:
        job = lay_over(job, source=source, at=at)
        laid = job.reel.overlays[-1].id
        job = change_overlay(job, overlay=laid, length=round(CARD_SECONDS * timeline.rate))
    for text in texts:
        job = add_text(job, of=laid, text=text)
    return job


def place_between(timeline: Timeline, at: int) -> int | None:
    """The place among the shots where a reel frame is a cut; None inside a shot."""
    for number, part in enumerate(timeline.shots):
        if part.first == at:
            return number
    return len(timeline.shots) if at >= timeline.length else None


def could_lie_over(job: Job, fresh: Collection[str]) -> tuple[Shot, ...]:
    """Of the shots whose sources have just come those with alpha, beside one without."""
    shots = [shot for shot in job.reel.shots if shot.source in fresh]
    clear = [shot for shot in shots if has_alpha(job.sequence(shot.source))]
    is_beside_another = len(clear) < len(job.reel.shots)
    return tuple(clear) if is_beside_another else ()


def lay_over_neighbours(job: Job, *, shots: Collection[str]) -> Job:
    """Take shots off the reel, and lay each over the shot before it: the next one without."""
    parts = timeline_of(job).shots
    lifted = frozenset(shots)
    left = [part.laid.id for part in parts if part.laid.id not in lifted]
    if not left:
        raise JobError("Nothing is left on the reel that they could lie over.")
    places, before = {}, left[0]
    for part in parts:
        if part.laid.id in lifted:
            places[part.laid.id] = before
        else:
            before = part.laid.id
    for shot in shots:
        source = job.shot(shot).source
        job = lay_over(remove_shot(job, shot=shot), source=source, at=1)
    starts = {part.laid.id: part.first for part in timeline_of(job).shots}
    fresh = job.reel.overlays[-len(shots) :]
    for overlay, shot in zip(fresh, shots, strict=True):
        job = change_overlay(job, overlay=overlay.id, at=starts[places[shot]])
    return job
