"""From names to sources: a first look at once, then the quick look at every file."""

from __future__ import annotations

from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass
from itertools import islice
from pathlib import Path

from waxseal.core.arrive.file_names import NamedSequence
from waxseal.core.arrive.first_reading import first_reading
from waxseal.core.arrive.header_scan import examine, found_in, frames_in
from waxseal.core.arrive.listing import Listing, list_paths
from waxseal.core.arrive.movie_sources import movie_source
from waxseal.core.arrive.pass_guess import with_passes
from waxseal.core.errors import FrameError, SoundError
from waxseal.core.frames.headers import look
from waxseal.core.frames.isolated import run_isolated
from waxseal.core.job.model import Files, Habits, Sequence, Sound
from waxseal.core.progress import CancelToken, Report, silent
from waxseal.core.sound.sound_files import probe_sound
from waxseal.core.text_format import plain

__all__ = ["Scan", "first_look", "scan", "take_in"]

FIRST_TRIES = 50  # frames that may be damaged before a sequence counts as having no readable one


USUAL = Habits()


@dataclass(frozen=True, slots=True)
class Scan:
    """What arrived: the sources, and sentences on what could not be taken in."""

    sources: tuple[Sequence | Sound, ...]
    troubles: tuple[str, ...]


def scan(
    paths: Iterable[Path],
    *,
    habits: Habits = USUAL,
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


def take_in(listing: Listing, *, habits: Habits = USUAL) -> Scan:
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
    # What runs comes first: a plate or a title beside the shots' folders is not the first shot.
    sources.sort(key=lambda one: isinstance(one, Sequence) and one.kind == "still")
    for path in listing.sounds:
        try:
            sources.append(run_isolated(probe_sound, path))
        except SoundError as error:
            troubles.append(str(error))
        except FrameError as error:
            troubles.append(f"{plain(path.name)} cannot be heard: {error}.")
    return Scan(with_passes(sources), tuple(troubles))


def movie_and_sound(path: Path) -> Iterable[Sequence | Sound]:
    """A movie, and its sound where it has one that can be heard. Raises FrameError."""
    yield movie_source(path)
    with suppress(SoundError):  # most movies that come to be laid over have none
        yield run_isolated(probe_sound, path)


def name_of(files: Files) -> str:
    return files.prefix.rstrip("._- ") or Path(files.folder).name or "frames"


def first_look(folder: Path, named: NamedSequence, *, habits: Habits = USUAL) -> Sequence:
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
