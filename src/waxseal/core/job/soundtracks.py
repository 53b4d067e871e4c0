"""Which sound came with which frames, and what its length says of their rate."""

from __future__ import annotations

from collections import Counter, defaultdict
from fractions import Fraction

from waxseal.core.job.model import Job, Sequence, Sound
from waxseal.core.job.pass_groups import leading_passes
from waxseal.core.last_asked import LastAsked

__all__ = ["frames_of", "is_of_name", "own_sounds", "rate_by_sound"]

# What is written from the same film ends together, but for the rounding of its samples.
NEAR = Fraction(1, 1000)  # of a second
USUAL_RATES = tuple(
    Fraction(rate) for rate in ("24000/1001", 24, 25, "30000/1001", 30, 50, "60000/1001", 60)
)


def own_sounds(job: Job) -> dict[str, Sound]:
    """The sound that came with a sequence, by the sequence's id.

    A movie's own; else that of the frames' name; else the only one in the folder of the only
    frames. None where two would be it. Of passes the one has it that is shown for all.
    """
    return OWN_SOUNDS(job.sources)


def sounds_among(sources: tuple[Sequence | Sound, ...]) -> dict[str, Sound]:
    sounds = [one for one in sources if isinstance(one, Sound)]
    sequences = [one for one in sources if isinstance(one, Sequence)]
    if not sounds:
        return {}
    leads = leading_passes(sequences)
    moving = [
        one
        for one in sequences
        if one.kind != "still" and (one.belongs is None or leads[one.belongs.shot] is one)
    ]
    movies = {
        str(one.files.path_of(one.files.range.first)): one for one in moving if one.kind == "movie"
    }
    named: dict[str, list[Sequence]] = defaultdict(list)
    beside: dict[str, list[Sequence]] = defaultdict(list)
    for one in moving:
        for name in {one.name, one.belongs.shot if one.belongs is not None else one.name}:
            named[name.casefold()].append(one)
        beside[one.files.folder].append(one)
    loose = Counter(folder_of(one) for one in sounds if not one.of_movie)
    claims: dict[str, dict[int, list[Sound]]] = defaultdict(lambda: defaultdict(list))
    for sound in sounds:
        folder = folder_of(sound)
        alike = named.get(stem_of(sound), [])
        if sound.of_movie:
            rank, frames = 0, [movies[sound.path]] if sound.path in movies else []
        elif alike:
            near = [one for one in alike if one.files.folder == folder]
            rank, frames = (1, near) if near else (2, alike)
        else:
            rank, frames = 3, beside.get(folder, []) if loose[folder] == 1 else []
        if len(frames) == 1:
            claims[frames[0].id][rank].append(sound)
    strongest = {source: ranked[min(ranked)] for source, ranked in claims.items()}
    return {source: found[0] for source, found in strongest.items() if len(found) == 1}


OWN_SOUNDS = LastAsked(sounds_among)  # edits of the reel leave the sources alone


def folder_of(sound: Sound) -> str:
    return sound.path.rpartition("/")[0]  # thousands are asked: no Path is made of each


def stem_of(sound: Sound) -> str:
    name = sound.path.rpartition("/")[2]
    return (name.rpartition(".")[0] or name).casefold()


def is_of_name(frames: Sequence, sound: Sound) -> bool:
    """Whether a sound is more than the only one beside the frames: of their name, or in them."""
    names = {frames.name, frames.belongs.shot if frames.belongs is not None else frames.name}
    return sound.of_movie or stem_of(sound) in {name.casefold() for name in names}


def frames_of(job: Job, sound: Sound) -> Sequence | None:
    """The frames that a sound came with."""
    for source, own in own_sounds(job).items():
        if own.id == sound.id:
            return job.sequence(source)
    return None


def rate_by_sound(frames: Sequence, sound: Sound) -> Fraction | None:
    """The usual rate at which frames last exactly as long as their sound; None if there is none."""
    count, seconds = frames.whole_range.count, sound.seconds
    fitting = [rate for rate in USUAL_RATES if abs(count / rate - seconds) <= NEAR]
    return min(fitting, key=lambda rate: abs(count / rate - seconds), default=None)
