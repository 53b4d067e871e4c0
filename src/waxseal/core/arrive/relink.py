"""Files that were moved: found again by name and number."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from waxseal.core.arrive.listing import list_paths
from waxseal.core.job.model import Files, Job, Sequence, Sound, change
from waxseal.core.progress import CancelToken

__all__ = ["RelinkOffer", "find_again", "is_lost"]


@dataclass(frozen=True, slots=True)
class RelinkOffer:
    """What a source would be linked to.

    there, known: how many of the frames that the job knows are in the new place, and how many
        it knows; 1 and 1 for a single file.
    """

    source: Sequence | Sound
    there: int
    known: int

    @property
    def folder(self) -> Path:
        if isinstance(self.source, Sound):
            return Path(self.source.path).parent
        return Path(self.source.files.folder)


def is_lost(source: Sequence | Sound) -> bool:
    """Whether none of a source's files is where it was."""
    if isinstance(source, Sound):
        return not Path(source.path).exists()
    files = source.files
    return not any(
        files.path_of(frame).exists() for first, last in files.runs for frame in (first, last)
    )


def find_again(
    job: Job, folder: Path, *, only: Iterable[str] | None = None, token: CancelToken | None = None
) -> tuple[RelinkOffer, ...]:
    """Look for the job's sources below a folder: the same names, the most of their numbers.

    only: ids of the sources that are looked for; None is all. Where several
    places have as many frames, the one whose path ends like the old one wins.
    What is where it was already is no match. Raises UnreadableInput, Cancelled.
    """
    listing = list_paths([folder], token)
    sequences: dict[tuple[str, str], list[Files]] = defaultdict(list)
    for place, named in listing.sequences:
        files = named.files_in(place)
        sequences[files.prefix, files.suffix].append(files)
    single: dict[str, list[Path]] = defaultdict(list)
    for path in (*listing.movies, *listing.sounds):
        single[path.name].append(path)
    wanted = None if only is None else set(only)
    refound = []
    for source in job.sources:
        if wanted is not None and source.id not in wanted:
            continue
        if isinstance(source, Sequence) and source.kind != "movie":
            found = match_sequence(source, sequences[source.files.prefix, source.files.suffix])
        else:
            found = match_file(source, single)
        if found is not None:
            refound.append(found)
    return tuple(refound)


def match_sequence(source: Sequence, candidates: list[Files]) -> RelinkOffer | None:
    old = source.files
    best: tuple[int, int, Files] | None = None
    for files in candidates:
        is_single = old.padding == 0 or files.padding == 0
        if files.folder == old.folder or (is_single and old.padding != files.padding):
            continue
        common = in_common(old, files)
        ranked = (common, like_ending(old.folder, files.folder), files)
        if common and (best is None or ranked[:2] > best[:2]):
            best = ranked
    if best is None:
        return None
    return RelinkOffer(change(source, files=best[2]), best[0], old.count)


def in_common(one: Files, other: Files) -> int:
    """How many numbers two have in common."""
    return sum(
        max(0, min(last, other_last) - max(first, other_first) + 1)
        for first, last in one.runs
        for other_first, other_last in other.runs
    )


def match_file(source: Sequence | Sound, single: dict[str, list[Path]]) -> RelinkOffer | None:
    """A movie or a sound: by its name alone."""
    old = Path(source.path) if isinstance(source, Sound) else source.files.path_of(1)
    there = [path for path in single.get(old.name, ()) if path != old]
    if not there:
        return None
    best = max(there, key=lambda path: like_ending(str(old.parent), str(path.parent)))
    if isinstance(source, Sound):
        return RelinkOffer(change(source, path=str(best)), 1, 1)
    return RelinkOffer(change(source, files=change(source.files, folder=str(best.parent))), 1, 1)


def like_ending(one: str, other: str) -> int:
    """How many folders from the end on two paths have in common."""
    count = 0
    for left, right in zip(reversed(Path(one).parts), reversed(Path(other).parts), strict=False):
        if left != right:
            break
        count += 1
    return count
