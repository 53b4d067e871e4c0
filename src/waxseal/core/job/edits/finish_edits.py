"""The finish of a shot, an overlay or the whole reel: set, switched, copied, taken away.

`of` names a shot or an overlay by its id; REEL is the whole reel.
"""

from __future__ import annotations

from collections.abc import Iterable

from waxseal.core.errors import JobError
from waxseal.core.job.corrections import Correction, Text
from waxseal.core.job.edits.edit_tools import with_laid, with_reel
from waxseal.core.job.finish_settings import Finish, Inside
from waxseal.core.job.model import Colourway, Job, change

__all__ = [
    "REEL",
    "add_text",
    "change_colourway",
    "copy_finish",
    "finish_of",
    "keep_inside",
    "remove_correction",
    "reset_finish",
    "set_correction",
    "switch_finish",
    "without_finishes",
]

REEL = ""


def finish_of(job: Job, of: str) -> Finish:
    return job.reel.finish if of == REEL else job.laid(of).finish


def with_finish(job: Job, of: str, finish: Finish) -> Job:
    if of == REEL:
        return with_reel(job, finish=finish)
    return with_laid(job, change(job.laid(of), finish=finish))


def set_correction(job: Job, *, of: str, correction: Correction, number: int = 0) -> Job:
    """Put a correction in the place of its kind; number: of a text, from 0, among the texts."""
    finish = finish_of(job, of)
    kept = list(finish.corrections)
    places = [at for at, one in enumerate(kept) if one.kind == correction.kind]
    if number < len(places):
        kept[places[number]] = correction
    else:
        kept.append(correction)
    return with_finish(job, of, change(finish, corrections=tuple(kept)))


def add_text(job: Job, *, of: str, text: Text) -> Job:
    """One more text, after those that are there."""
    finish = finish_of(job, of)
    return with_finish(job, of, change(finish, corrections=(*finish.corrections, text)))


def remove_correction(job: Job, *, of: str, kind: str, number: int = 0) -> Job:
    """Take a correction away; number: of a text, from 0, among the texts."""
    finish = finish_of(job, of)
    same = [one for one in finish.corrections if one.kind == kind]
    if number >= len(same):
        raise JobError(f"There is no correction “{kind}” to take away.")
    gone = same[number]
    kept = tuple(one for one in finish.corrections if one is not gone)
    return with_finish(job, of, change(finish, corrections=kept))


def switch_finish(job: Job, *, of: str, on: bool) -> Job:
    """Switch all corrections on or off; their values stay."""
    finish = finish_of(job, of)
    corrections = tuple(change(one, on=on) for one in finish.corrections)
    return with_finish(job, of, change(finish, corrections=corrections))


def keep_inside(job: Job, *, of: str, inside: Inside | None) -> Job:
    """Let the colour corrections work inside a matte only; None: everywhere."""
    return with_finish(job, of, change(finish_of(job, of), inside=inside))


def reset_finish(job: Job, *, of: str) -> Job:
    return with_finish(job, of, Finish())


def without_finishes(job: Job) -> Job:
    """As everything was before any finish: for looking, not for keeping."""
    reel = job.reel
    return with_reel(
        job,
        shots=tuple(change(one, finish=Finish()) for one in reel.shots),
        overlays=tuple(change(one, finish=Finish()) for one in reel.overlays),
        finish=Finish(),
    )


def copy_finish(job: Job, *, of: str, to: Iterable[str]) -> Job:
    """Give others the same finish, in place of theirs."""
    finish = finish_of(job, of)
    for other in to:
        job = with_finish(job, other, finish)
    return job


def change_colourway(job: Job, **values: object) -> Job:
    """The reel's working primaries, its view, its config."""
    colourway: Colourway = change(job.reel.colour, **values)
    return with_reel(job, colour=colourway)
