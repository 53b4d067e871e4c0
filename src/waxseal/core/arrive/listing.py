"""What is in folders, by name only: thousands of names a second, no file opened."""

from __future__ import annotations

import os
from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from waxseal.core.arrive.file_names import NamedSequence, natural_key, recognise, with_others
from waxseal.core.arrive.patterns import files_meant
from waxseal.core.errors import UnreadableInput
from waxseal.core.filenames import FRAME_SUFFIXES, MOVIE_SUFFIXES, SOUND_SUFFIXES
from waxseal.core.frames.headers import FORMATS
from waxseal.core.progress import CancelToken
from waxseal.core.text_format import plain

__all__ = ["WHAT_IS_READ", "Listing", "first_files", "folders_below", "list_paths"]

WHAT_IS_READ = (
    f"{FORMATS}, movies (MP4, MOV, MKV, WebM, AVI, MXF and more) "
    "and sounds (WAV, FLAC, AIFF, MP3, AAC, Ogg, Opus) are read"
)
ALL_SUFFIXES = FRAME_SUFFIXES | MOVIE_SUFFIXES | SOUND_SUFFIXES
MOST_FOLDERS = 5000  # that are watched for what begins in them
DEEPEST = 40  # folders below a dropped one


@dataclass(frozen=True, slots=True)
class Listing:
    """What was found by name: sequences with their folder, files, and folders that stay shut."""

    sequences: tuple[tuple[Path, NamedSequence], ...] = ()
    movies: tuple[Path, ...] = ()
    sounds: tuple[Path, ...] = ()
    troubles: tuple[str, ...] = ()


@dataclass(slots=True)
class Heap:
    """A listing while it grows."""

    sequences: list[tuple[Path, NamedSequence]] = field(default_factory=list)
    movies: list[Path] = field(default_factory=list)
    sounds: list[Path] = field(default_factory=list)
    troubles: list[str] = field(default_factory=list)
    seen: set[tuple[int, int]] = field(default_factory=set)


def list_paths(paths: Iterable[Path], token: CancelToken | None = None) -> Listing:
    """List folders, and all below them, and single files.

    A file that is one of a sequence brings the whole sequence; a pattern brings the files
    that it means, and of a range no others. Symbolic
    links are followed, a loop of them only once. Raises UnreadableInput for a
    path that is not there, Cancelled.
    """
    heap = Heap()
    files: dict[Path, list[str]] = {}
    for path in paths:
        full = path.absolute()
        named = files_meant(full)
        if named is not None:
            heap.sequences += [(full.parent, one) for one in sequences_among(named)]
        elif full.is_dir():
            walk(full, heap, token or CancelToken())
        elif full.exists():
            files.setdefault(full.parent, []).append(full.name)
        else:
            raise UnreadableInput(f"{plain(path)} is not there.", path=path)
    for folder, names in files.items():
        list_files(folder, names, heap)
    return Listing(
        tuple(heap.sequences), tuple(heap.movies), tuple(heap.sounds), tuple(heap.troubles)
    )


def walk(folder: Path, heap: Heap, token: CancelToken, depth: int = 0) -> None:
    token.check()
    try:
        status = folder.stat()
        if (status.st_dev, status.st_ino) in heap.seen:
            return
        heap.seen.add((status.st_dev, status.st_ino))
        names, folders = [], []
        with os.scandir(folder) as entries:
            for entry in entries:
                if entry.name.startswith("."):
                    continue
                if entry.is_dir():
                    folders.append(entry.name)
                else:
                    names.append(entry.name)
    except OSError as error:
        heap.troubles.append(f"{plain(folder)} cannot be looked into: {error.strerror}.")
        return
    sort_names(folder, names, heap)
    if depth >= DEEPEST:
        heap.troubles.append(f"{plain(folder)} goes deeper than {DEEPEST} folders: not followed.")
        return
    for name in sorted(folders, key=natural_key):
        walk(folder / name, heap, token, depth + 1)


def sort_names(folder: Path, names: list[str], heap: Heap) -> None:
    """Put one folder's names on the heap."""
    groups = by_suffix(names)
    heap.sequences += [(folder, one) for one in sequences_in(groups)]
    for suffixes, found in ((MOVIE_SUFFIXES, heap.movies), (SOUND_SUFFIXES, heap.sounds)):
        alone = [name for suffix, some in groups.items() if suffix in suffixes for name in some]
        found += [folder / name for name in sorted(alone, key=natural_key)]


def by_suffix(names: Iterable[str]) -> dict[str, list[str]]:
    groups: defaultdict[str, list[str]] = defaultdict(list)
    for name in names:
        groups[suffix_of(name)].append(name)
    return groups


def sequences_among(names: Iterable[str]) -> list[NamedSequence]:
    """The sequences of a folder by its names, each with the files beside it that are no source."""
    return sequences_in(by_suffix(names))


def sequences_in(groups: Mapping[str, list[str]]) -> list[NamedSequence]:
    """The same, of names that are grouped by their suffix."""
    frames, others = list[str](), list[str]()
    for suffix, names in groups.items():
        if suffix in FRAME_SUFFIXES:
            frames += names
        elif suffix not in ALL_SUFFIXES:
            others += names
    return with_others(recognise(frames), others)


def first_files(folder: Path) -> dict[str, Path]:
    """The first file of each numbered sequence in a folder, by the sequence's pattern."""
    try:
        with os.scandir(folder) as entries:
            names = [one.name for one in entries if suffix_of(one.name) in FRAME_SUFFIXES]
    except OSError:
        return {}
    files = [one.files_in(folder) for one in recognise(names) if one.padding]
    return {one.pattern: one.path_of(one.range.first) for one in files}


def folders_below(root: Path, *, most: int = MOST_FOLDERS) -> list[Path]:
    """A folder and those below it, without hidden ones; links are not followed.

    most: where there are more, the rest is left out.
    """
    found: list[Path] = []
    waiting = [(root, 0)]
    while waiting and len(found) < most:
        folder, depth = waiting.pop()
        try:
            with os.scandir(folder) as entries:
                below = [
                    Path(one.path)
                    for one in entries
                    if not one.name.startswith(".") and one.is_dir(follow_symlinks=False)
                ]
        except OSError:
            continue
        found.append(folder)
        if depth < DEEPEST:
            waiting += [(one, depth + 1) for one in below]
    return found


def suffix_of(name: str) -> str:
    return name[name.rfind(".") :].lower() if "." in name else ""


def list_files(folder: Path, names: list[str], heap: Heap) -> None:
    """Single files: the whole sequence that each belongs to."""
    for name in names:
        if suffix_of(name) not in ALL_SUFFIXES:
            heap.troubles.append(f"{plain(name)} is neither picture nor sound: {WHAT_IS_READ}.")
    wanted = {name for name in names if suffix_of(name) in FRAME_SUFFIXES}
    if wanted:
        everything = [one for one in os.listdir(folder) if not one.startswith(".")]  # noqa: PTH208 - names are all that is wanted
        files = [one for one in everything if suffix_of(one) or (folder / one).is_file()]
        for sequence in sequences_among(files):
            if wanted & set(names_of(sequence)):
                heap.sequences.append((folder, sequence))
    heap.movies += [folder / name for name in names if suffix_of(name) in MOVIE_SUFFIXES]
    heap.sounds += [folder / name for name in names if suffix_of(name) in SOUND_SUFFIXES]


def names_of(sequence: NamedSequence) -> Iterable[str]:
    files = sequence.files_in(Path())
    return (files.name_of(number) for number in sequence.numbers)
