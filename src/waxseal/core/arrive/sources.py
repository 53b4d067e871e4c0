"""From names to sources: a first look at once, then every file of it, side by side."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable
from collections.abc import Sequence as Row
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache
from itertools import islice
from pathlib import Path
from typing import Any, Protocol

from waxseal.core.apart import run_apart
from waxseal.core.arrive.arrival import is_settling
from waxseal.core.arrive.listing import Listing, list_paths
from waxseal.core.arrive.names import NamedSequence
from waxseal.core.arrive.passes import with_passes
from waxseal.core.errors import FrameError, HelperLost, SoundError, UnreadableInput
from waxseal.core.frames.careful import carefully
from waxseal.core.frames.headers import Format, Header, look
from waxseal.core.job.model import (
    BT709,
    Alpha,
    Colour,
    Files,
    Finding,
    FindingKind,
    Found,
    Habits,
    Order,
    Origin,
    Reading,
    Sequence,
    Size,
    Sound,
    Told,
    changed,
)
from waxseal.core.progress import CancelToken, Progress, Report, silent
from waxseal.core.sound.files import probe_sound
from waxseal.core.words import bytes_words, plain

__all__ = [
    "Look",
    "Scan",
    "elsewhere",
    "examine",
    "first_look",
    "identity",
    "look_again",
    "scan",
    "take_in",
]

GUESSED_RATE = Fraction(24)
BATCH = 64  # files between two reports and two looks at the stop token
ODD_TIMES = 3  # how many times smaller or larger than both neighbours a file is odd
FIRST_TRIES = 50  # frames that may be damaged before a sequence counts as having no readable one


class Look(Protocol):
    """A look at a source's files: the source again, with what was found."""

    def __call__(
        self, sequence: Sequence, *, report: Report = ..., token: CancelToken | None = ...
    ) -> Sequence: ...


@dataclass(frozen=True, slots=True)
class Scan:
    """What arrived: the sources, and sentences on what could not be taken in."""

    sources: tuple[Sequence | Sound, ...]
    troubles: tuple[str, ...]


def scan(
    paths: Iterable[Path],
    *,
    habits: Habits = Habits(),
    report: Report = silent,
    token: CancelToken | None = None,
) -> Scan:
    """List, look and examine: all there is to know short of decoding every frame."""
    token = token or CancelToken()
    taken = take_in(list_paths(paths, token), habits=habits)
    sources = tuple(
        examine(source, report=report, token=token) if isinstance(source, Sequence) else source
        for source in taken.sources
    )
    return Scan(sources, taken.troubles)


def take_in(listing: Listing, *, habits: Habits = Habits()) -> Scan:
    """A first look at everything that was listed."""
    sources: list[Sequence | Sound] = []
    troubles = list(listing.troubles)
    for folder, named in listing.sequences:
        sources.append(first_look(folder, named, habits=habits))
    for path in listing.movies:
        try:
            sources += movie_and_sound(path)
        except FrameError as error:
            troubles.append(f"{plain(path.name)} cannot be read as a movie: {error}.")
    for path in listing.sounds:
        try:
            sources.append(carefully(probe_sound, path))
        except SoundError as error:
            troubles.append(str(error))
        except FrameError as error:
            troubles.append(f"{plain(path.name)} cannot be heard: {error}.")
    return Scan(with_passes(sources), tuple(troubles))


def movie_and_sound(path: Path) -> Iterable[Sequence | Sound]:
    """A movie, and its sound where it has one that can be heard. Raises FrameError."""
    from waxseal.core.arrive.movies import movie_source  # NumPy and codecs: only where needed

    yield movie_source(path)
    with suppress(SoundError):  # most movies that come to be laid over have none
        yield carefully(probe_sound, path)


def frames_in(files: Files) -> Iterable[int]:
    return (frame for first, last in files.runs for frame in range(first, last + 1))


def name_of(files: Files) -> str:
    return files.prefix.rstrip("._- ") or Path(files.folder).name or "frames"


def first_look(folder: Path, named: NamedSequence, *, habits: Habits = Habits()) -> Sequence:
    """A source from its first readable frame; the files behind it are not yet looked at."""
    files = named.files_in(folder)
    header = None
    for frame in islice(frames_in(files), FIRST_TRIES):
        try:
            header = look(files.path_of(frame), frame)
            break
        except FrameError:
            continue
    return Sequence(
        kind="still" if files.count == 1 else "sequence",
        id="s0",
        name=plain(name_of(files)),
        files=files,
        found=found_in(header, ()),
        reading=first_reading(header, habits),
    )


def found_in(header: Header | None, findings: tuple[Finding, ...]) -> Found:
    if header is None:
        nothing = Size(width=16, height=16)
        return Found(format="", size=nothing, channels=(), depth="", findings=findings)
    return Found(
        format=header.format,
        size=Size(width=header.width, height=header.height),
        channels=header.channels,
        depth=header.depth,
        parts=header.parts if len(header.parts) > 1 else (),
        findings=findings,
    )


def first_reading(header: Header | None, habits: Habits) -> Reading:
    """What the file says, else the job's habit, else a guess that stays marked."""
    alike = replace(header, size_bytes=0) if header is not None else None
    return reading_of(alike, habits)


@lru_cache(maxsize=256)
def reading_of(header: Header | None, habits: Habits) -> Reading:
    """As first_reading; made once for all that are alike, as most of a large folder are."""
    if header is not None and header.rate is not None:
        rate: Told[Fraction] = Told(value=header.rate, origin=Origin.WRITTEN)
    elif habits.rate is not None:
        rate = Told(value=habits.rate, origin=Origin.HABIT)
    else:
        rate = Told(value=GUESSED_RATE, origin=Origin.GUESS)
    # EXR is scene-linear with associated alpha by its standard; the others say so by custom.
    linear = header is not None and (
        header.format is Format.EXR or header.depth in ("half", "float")
    )
    written = header.chromaticities if header is not None else None
    shape = header.pixel_shape if header is not None else None
    colour = Colour.LINEAR if linear else Colour.SRGB
    is_log = header is not None and header.is_log
    alpha = header.alpha if header else Alpha.NONE
    is_custom = alpha is not Alpha.NONE and header is not None and header.format is not Format.EXR
    if is_custom and habits.alpha is not None:
        alpha = habits.alpha
    return Reading(
        rate=rate,
        order=Told(value=Order.FORWARD, origin=Origin.HABIT),
        alpha=Told(value=alpha, origin=Origin.HABIT if is_custom else Origin.WRITTEN),
        colour=Told(
            value=Colour.FILM_LOG if is_log else colour,
            origin=Origin.WRITTEN if linear or is_log else Origin.HABIT,
        ),
        chromaticities=Told(
            value=written or habits.primaries or BT709,
            origin=Origin.WRITTEN if written else Origin.HABIT,
        ),
        stand_in=Told(value=habits.stand_in, origin=Origin.HABIT),
        pixel_shape=Told(
            value=shape or Fraction(1), origin=Origin.WRITTEN if shape else Origin.HABIT
        ),
    )


@dataclass(frozen=True, slots=True)
class Looked:
    """A frame's header, or why there is none. is_growing: not whole yet, and written just now."""

    frame: int
    header: Header | None
    trouble: str = ""
    is_growing: bool = False


def examine(
    sequence: Sequence, *, report: Report = silent, token: CancelToken | None = None
) -> Sequence:
    """Look at every file's header and end; the source again, with what was found.

    The size and kind that most frames have are the sequence's; the others are
    findings. Raises Cancelled.
    """
    token = token or CancelToken()
    if sequence.kind == "movie":
        from waxseal.core.arrive.movies import examine_movie

        return with_still_seen(examine_movie(sequence), sequence)
    files = sequence.files
    frames = list(frames_in(files))

    def one(frame: int) -> Looked:
        path = files.path_of(frame)
        try:
            return Looked(frame, look(path, frame))
        except FrameError as error:
            return Looked(frame, None, str(error), error.is_incomplete and is_settling(path))

    looked: list[Looked] = []
    with ThreadPoolExecutor(2, "look") as pool:
        for start in range(0, len(frames), BATCH):
            token.check()
            looked += pool.map(one, frames[start : start + BATCH])
            report(Progress("looking", len(looked), len(frames)))
    usual = most_common([one.header for one in looked if one.header is not None])
    quick = (
        *(found for entry in looked if (found := finding_of(entry, usual, files.name_of))),
        *odd_sizes(looked, files.name_of),
        *strays_in(files),
    )
    if usual is None and sequence.found.format:  # all gone: what it was is still known
        now = changed(sequence.found, findings=quick)
    else:
        now = found_in(usual, quick)
    reading = sequence.reading
    if usual is not None and not sequence.found.format:
        reading = first_reading(usual, Habits())
    looked_at = with_still_seen(changed(sequence, found=now, reading=reading), sequence)
    if reading.alpha.value is Alpha.NONE:
        return looked_at
    from waxseal.core.arrive.alpha import with_alpha_seen  # NumPy: only where there is alpha

    return with_alpha_seen(looked_at)


def still_seen(sequence: Sequence) -> list[Finding]:
    """What a close look found in files that have not changed since."""
    return [
        finding
        for finding in sequence.found.findings
        if finding.seen and finding.seen == identity(sequence.files.path_of(finding.frame))
    ]


def with_still_seen(sequence: Sequence, before: Sequence) -> Sequence:
    """The findings of a quick look, with what a close one saw before it in the same file."""
    quick = sequence.found.findings
    broken = {finding.frame for finding in quick if finding.kind is FindingKind.DAMAGED}
    kept = [finding for finding in still_seen(before) if finding.frame not in broken]
    explained = {finding.frame for finding in kept}
    findings = [
        *(
            one
            for one in quick
            if one.kind is not FindingKind.ODD_SIZE or one.frame not in explained
        ),
        *kept,
    ]
    findings.sort(key=lambda finding: finding.frame)
    return changed(sequence, found=changed(sequence.found, findings=tuple(findings)))


def identity(path: Path) -> str:
    """The same as long as a file was not written again; empty where there is none."""
    try:
        status = path.stat()
    except OSError:
        return ""
    return f"{status.st_size} {status.st_mtime_ns}"


def most_common(headers: Row[Header]) -> Header | None:
    """A header of the size and kind that most have; the earliest where they are as many."""
    if not headers:
        return None
    counts = Counter(kind_of(header) for header in headers)
    usual = counts.most_common(1)[0][0]
    return next(header for header in headers if kind_of(header) == usual)


def kind_of(header: Header) -> tuple[object, ...]:
    return (header.width, header.height, header.channels, header.depth)


def finding_of(looked: Looked, usual: Header | None, name: Callable[[int], str]) -> Finding | None:
    frame, header = looked.frame, looked.header
    file = name(frame)
    if looked.is_growing:
        what = f"still being written ({looked.trouble})"
        return Finding(kind=FindingKind.ARRIVING, frame=frame, file=file, what=what)
    if header is None or usual is None:
        return Finding(kind=FindingKind.DAMAGED, frame=frame, file=file, what=looked.trouble)
    if (header.width, header.height) != (usual.width, usual.height):
        what = f"{header.width} × {header.height}, the others {usual.width} × {usual.height}"
        return Finding(kind=FindingKind.ANOTHER_SIZE, frame=frame, file=file, what=what)
    if kind_of(header) != kind_of(usual):
        what = (
            f"{''.join(header.channels)} {header.depth}, "
            f"the others {''.join(usual.channels)} {usual.depth}"
        )
        return Finding(kind=FindingKind.ANOTHER_KIND, frame=frame, file=file, what=what)
    return None


def odd_sizes(looked: Row[Looked], name: Callable[[int], str]) -> Iterable[Finding]:
    """Files far smaller or larger than both their neighbours. A fade grows: it is none."""
    whole = [(one.frame, one.header.size_bytes) for one in looked if one.header is not None]
    for (_, before), (frame, size), (_, after) in zip(whole, whole[1:], whole[2:], strict=False):
        small, large = min(before, after), max(before, after)
        if large < ODD_TIMES * small and not small / ODD_TIMES <= size <= large * ODD_TIMES:
            what = (
                f"the file has {bytes_words(size)}, its neighbours "
                f"{bytes_words(before)} and {bytes_words(after)}"
            )
            yield Finding(kind=FindingKind.ODD_SIZE, frame=frame, file=name(frame), what=what)


def strays_in(files: Files) -> Iterable[Finding]:
    for frame, file in files.strays:
        what = f"{plain(file)} has the same number: {plain(files.name_of(frame))} is used"
        yield Finding(kind=FindingKind.STRAY, frame=frame, file=file, what=what)


def moved(sequence: Sequence) -> Sequence:
    files = sequence.files
    folder = Path(files.folder)
    name = files.name_of(files.range.first) if folder.is_dir() else plain(folder)
    finding = Finding(
        kind=FindingKind.MOVED,
        frame=files.range.first,
        file=files.name_of(files.range.first),
        what=f"{name} is not where it was: find it elsewhere, or bring it back",
    )
    return changed(sequence, found=changed(sequence.found, findings=(finding,)))


def look_again(
    sequence: Sequence, *, report: Report = silent, token: CancelToken | None = None
) -> Sequence:
    """The same source from its folder as it is now: frames may have come, gone or been mended.

    A folder, or a single file, that is gone leaves the source as it was but for
    one finding, which says that it is not where it was.
    """
    folder = Path(sequence.files.folder)
    one_file = sequence.files.path_of(sequence.files.range.first)
    is_single = sequence.kind == "movie" or sequence.files.count == 1
    if not folder.is_dir() or (is_single and not one_file.exists()):
        return moved(sequence)
    if sequence.kind == "movie":
        return examine(sequence, report=report, token=token)
    listed = list_paths([folder], token) if folder.is_dir() else Listing()
    for found_in_folder, named in listed.sequences:
        files = named.files_in(found_in_folder)
        if (files.folder, files.pattern) == (sequence.files.folder, sequence.files.pattern):
            return examine(changed(sequence, files=files), report=report, token=token)
    return examine(sequence, report=report, token=token)


def elsewhere(look: Look, sequence: Sequence) -> Sequence:
    """A short look in a helper process, where this process has them.

    Hundreds of looks in this process would keep its other threads waiting.
    Raises UnreadableInput where the helper did not survive it.
    """
    try:
        return Sequence.model_validate(run_apart("", looked_at, look, sequence.model_dump()))
    except HelperLost as error:
        raise UnreadableInput(f"{sequence.name} could not be looked at: {error}.") from error


def looked_at(look: Look, parts: dict[str, Any]) -> dict[str, Any]:
    """A source goes there and back in its parts: its own classes cannot be sent."""
    return look(Sequence.model_validate(parts)).model_dump()
