"""The sounds that a command names, and those that came with its frames."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from waxseal.cli.terminal import say
from waxseal.core.errors import WrongUse
from waxseal.core.job.edits import (
    accept_sound,
    add_sources,
    change_sound,
    lay_sound,
    lift_sound,
)
from waxseal.core.job.model import Job, Retimed, Sequence, Sound
from waxseal.core.job.soundtracks import is_of_name, own_sounds
from waxseal.core.plan.sound_pieces import pieces_of
from waxseal.core.plan.timeline import Timeline
from waxseal.core.sound.mix_plan import SoundPiece
from waxseal.core.sound.sound_files import probe_sound
from waxseal.core.text_format import counted

__all__ = [
    "SoundOrders",
    "lay_sounds",
    "read_sound_orders",
    "sound_facts",
    "sounds_found",
    "sounds_words",
]

WRITTEN = re.compile(
    r"(?P<file>.+?)(?:@(?P<at>-?\d{1,9}(?:\.\d{1,6})?))?(?P<gain>[+-]\d{1,3}(?:\.\d{1,3})?)?(?P<db>dB)?",
    re.DOTALL | re.IGNORECASE,
)
REVERSED = {"turned": True, "left out": False}


@dataclass(frozen=True, slots=True)
class Named:
    """A sound of --sound. at: a frame of the reel, None where none is said. gain: in dB."""

    path: Path
    at: Fraction | None = None
    gain: float = 0.0


@dataclass(frozen=True, slots=True)
class SoundOrders:
    """named: by --sound. without_own: whether what came with the frames is left out.
    accepts_damaged: whether sounds that are not whole are used.

    turned: whether a bound sound is heard backwards with its frames; else it is left out there.
    """

    named: tuple[Named, ...] = ()
    without_own: bool = False
    accepts_damaged: bool = False
    turned: bool = True
    retimed: Retimed = Retimed.PITCH


def read_sound_orders(said: Any) -> SoundOrders:
    """From the options of a command, by their names. Raises WrongUse."""
    reversed_words = said.get("reversed_sound") or "turned"
    if reversed_words.casefold() not in REVERSED:
        known = ", ".join(REVERSED)
        raise WrongUse(f"--reversed-sound {reversed_words}: choose one of {known}.")
    return SoundOrders(
        named=tuple(read_named(text) for text in said.get("sound") or ()),
        without_own=bool(said.get("no_sound")),
        accepts_damaged=bool(said.get("accept_damaged_sound")),
        turned=REVERSED[reversed_words.casefold()],
    )


def read_named(text: str) -> Named:
    """`FILE`, `FILE@25`, `FILE@25-3dB`, `FILE-3dB`; a file of just that name comes first."""
    found = WRITTEN.fullmatch(text)
    if Path(text).exists() or found is None or bool(found["gain"]) != bool(found["db"]):
        return Named(Path(text).absolute())
    at = Fraction(found["at"]) if found["at"] is not None else None
    gain = float(found["gain"]) if found["gain"] else 0.0
    if not -100 <= gain <= 30:
        raise WrongUse(f"--sound {text}: a gain goes from -100 dB to +30 dB.")
    return Named(Path(found["file"]).absolute(), at, gain)


def sounds_found(sources: Iterable[Sequence | Sound], orders: SoundOrders) -> list[Sound]:
    """The sounds among what was found that may be used."""
    return [] if orders.without_own else [one for one in sources if isinstance(one, Sound)]


def lay_sounds(job: Job, orders: SoundOrders) -> Job:
    """Lay what was named, and of what else is there the one that came alone.

    What came with frames is bound to them already. Raises SoundError, WrongUse.
    """
    if orders.named:
        job = without_guessed(job)
    for named in orders.named:
        job = lay_named(job, named)
    if not orders.named:
        job = lay_lone(job)
    for laid in job.reel.sounds:
        if laid.bound:
            job = change_sound(job, sound=laid.id, turned=orders.turned, retimed=orders.retimed)
    if orders.accepts_damaged:
        for sound in job.sounds:
            job = accept_sound(job, source=sound.id)
    return job


def without_guessed(job: Job) -> Job:
    """Without what is laid for no other reason than that it lies beside the frames."""
    for laid in job.reel.sounds:
        if laid.is_free:
            job = lift_sound(job, sound=laid.id)
    for source, sound in own_sounds(job).items():
        if not is_of_name(job.sequence(source), sound):
            for laid in job.reel.sounds:
                if laid.source == sound.id:
                    job = lift_sound(job, sound=laid.id)
    return job


def lay_named(job: Job, named: Named) -> Job:
    wanted = os.path.realpath(named.path)
    there = [one for one in job.sounds if os.path.realpath(one.path) == wanted]
    if not there:
        job = add_sources(job, sources=[probe_sound(named.path)])
        there = [job.sounds[-1]]
    source = there[0].id
    bound = [one for one in job.reel.sounds if one.bound and one.source == source]
    if bound and named.at is None:  # it is there by itself
        for one in bound:
            job = change_sound(job, sound=one.id, gain=named.gain)
        return job
    for one in bound:
        job = lift_sound(job, sound=one.id)
    at = named.at if named.at is not None else Fraction(1)
    return lay_sound(job, source=source, at=at, gain=named.gain, placed=True)


def lay_lone(job: Job) -> Job:
    """Lay the only sound that came with no frames from the reel's start."""
    own = {sound.id for sound in own_sounds(job).values()}
    lone = [one for one in job.sounds if one.id not in own and not one.of_movie]
    if len(lone) > 1:
        names = ", ".join(sound.name for sound in lone)
        say(f"There are several sounds ({names}): none is laid. Choose with --sound.")
    is_laid = {one.source for one in job.reel.sounds}
    if len(lone) == 1 and lone[0].id not in is_laid:
        return lay_sound(job, source=lone[0].id)
    return job


def sounds_words(job: Job) -> str:
    """Which sounds are on the reel, for the end of a sentence."""
    names = list(dict.fromkeys(job.sound(one.source).name for one in job.reel.sounds))
    if not names:
        return ", no sound"
    return f", with {names[0]}" if len(names) == 1 else f", with {counted(len(names), 'sound')}"


def sound_facts(timeline: Timeline) -> Iterator[dict[str, object]]:
    """The keys of each sound of the reel that scripts rely on.

    from: the reel frame, from 1, where it is first heard, null where it is not. head: the second
    of the sound that is heard there. seconds: from there to the last that is heard.
    """
    job = timeline.job
    for one in job.reel.sounds:
        sound = job.sound(one.source)
        pieces = list(pieces_of(timeline, one, sound.sample_rate))
        begins = Fraction(pieces[0].at, sound.sample_rate) if pieces else None
        ends = Fraction(pieces[-1].end, sound.sample_rate) if pieces else Fraction(0)
        yield {
            "source": sound.name,
            "shot": one.shot or None,
            "bound": one.bound,
            "from": frame_at(begins, timeline.rate, sound) if begins is not None else None,
            "head": head_of(pieces[0]) if pieces else float(one.head),
            "seconds": round(float(ends - begins), 6) if begins is not None else 0.0,
            "gain_db": one.gain,
            "fade_in": float(one.fade_in.seconds),
            "fade_out": float(one.fade_out.seconds),
        }


def head_of(piece: SoundPiece) -> float:
    first = piece.head
    if piece.run is not None:
        first = piece.run[1] if piece.is_backwards else piece.run[0]
    return round(first / piece.sound.sample_rate, 6)


def frame_at(second: Fraction, rate: Fraction, sound: Sound) -> int | float:
    """A reel frame, from 1; a whole one if no more than a sample is between."""
    frame = second * rate + 1
    is_whole = abs(frame - round(frame)) <= rate / sound.sample_rate
    return round(frame) if is_whole else round(float(frame), 6)
