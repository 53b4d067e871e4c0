"""Files that the colour library reads by itself: LUTs, CDLs, configs and what those name.

Looked at first: it would wait for ever on a pipe, and read a device until memory runs out.
"""

from __future__ import annotations

import os
import re
import stat
import threading
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

import PyOpenColorIO as ocio

from waxseal.core.errors import JobError
from waxseal.core.foreign_text import ForeignTextError, read_foreign
from waxseal.core.picture.colour.config_archives import check_archive, is_archive, text_in
from waxseal.core.picture.colour.config_excerpt import LargeConfig, large_config
from waxseal.core.picture.colour.cube_luts import check_cube
from waxseal.core.plan.filestates import FileState
from waxseal.core.text_format import bytes_words, plain

__all__ = [
    "FAILURES",
    "check_file",
    "files_of",
    "first_line",
    "large_config_in",
    "load_config",
    "read_config",
    "take_file",
]

# A missing file is no kind of the library's usual exception, and a message that quotes
# bytes that are no text cannot be turned into one.
FAILURES = (ocio.Exception, ocio.ExceptionMissingFile, UnicodeDecodeError)
LARGEST_BYTES = 64 * 1024 * 1024  # a cube of 129 points a side

REFERENCE = re.compile(rb"<\s*Reference\b", re.IGNORECASE)  # in a file of transforms: another one

_caches = threading.Lock()
_seen: dict[str, tuple[int, int]] = {}


def first_line(error: Exception) -> str:
    if isinstance(error, UnicodeDecodeError):
        return "it holds bytes that are no text"
    return str(error).strip().splitlines()[0][:200]


def take_file(file: FileState) -> None:
    """See that a file can be read by the library, as it is now. Raises JobError.

    The library keeps what it read by name alone: that is forgotten where the file is
    another by now.
    """
    check_file(file.path)
    state = (file.size_bytes, file.modified_ns)
    with _caches:
        seen = _seen.get(file.path)
    if seen == state:
        return
    check_alone(file.path)
    if file.path.lower().endswith(".cube"):
        check_lut(Path(file.path))
    with _caches:
        if seen is not None:
            ocio.ClearAllCaches()
        _seen[file.path] = state


def check_lut(path: Path) -> None:
    """Raises JobError."""
    try:
        check_cube(path)
    except OSError as error:
        raise JobError(f"{plain(path.name)} cannot be read: {error.strerror}.") from None


def check_file(path: str) -> None:
    """Raises JobError."""
    name = plain(Path(path).name)
    try:
        found = os.stat(path)  # noqa: PTH116 - Path.stat costs twice as much, once a frame
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or "its name makes no sense"
        raise JobError(f"{name} cannot be read: {why}.") from None
    if not stat.S_ISREG(found.st_mode):
        raise JobError(f"{name} is not an ordinary file: choose another.")
    if found.st_size > LARGEST_BYTES:
        size = bytes_words(found.st_size)
        raise JobError(f"{name} has {size}, more than any LUT or config: choose another.")


def check_alone(path: str, content: bytes | None = None) -> None:
    """See that a file of transforms brings in no other, which nobody has looked at.

    content: of a file that is in an archive. Raises JobError.
    """
    if not path.lower().endswith((".ctf", ".clf")):
        return
    try:
        content = read_foreign(Path(path), LARGEST_BYTES) if content is None else content
    except (FileNotFoundError, ForeignTextError):
        return  # it is said where it is read
    if REFERENCE.search(content):
        name = plain(Path(path).name)
        raise JobError(f"{name} reads another file: put what that holds into it instead.")


def large_config_in(path: str) -> LargeConfig | None:
    """None of what is no text, or not large. Raises JobError."""
    if path.startswith("ocio://") or is_archive(path):
        return None
    check_file(path)
    try:
        return large_config(read_foreign(Path(path), LARGEST_BYTES).decode())
    except (FileNotFoundError, ForeignTextError, UnicodeDecodeError):
        return None  # it is said where the library reads it


def load_config(path: str, spaces: Iterable[str]) -> Any:
    """As the library has it; of a large one with those spaces, and what all of it refers to."""
    large = large_config_in(path)
    if large is None:
        return ocio.Config.CreateFromFile(path)
    config = ocio.Config.CreateFromStream(large.with_only(spaces))
    config.setWorkingDir(str(Path(path).parent))
    return config


def read_config(path: str, spaces: Iterable[str] = ()) -> Any:
    """An OCIO config, with all files that it names looked at. Raises JobError.

    spaces: that are asked for, of a config that has thousands.
    """
    if path.startswith("ocio://"):
        return ocio.Config.CreateFromFile(path)
    check_file(path)
    inside = check_archive(path) if is_archive(path) else None
    config = load_config(path, spaces)
    config.validate()
    folders = folders_of(config, path)
    for found in files_of(config):
        if inside is not None:
            if found not in inside:
                raise outside(path, found)
            check_alone(found, text_in(path, found))
            continue
        check_file(found)
        if not any(Path(found).resolve().is_relative_to(one) for one in folders):
            raise outside(path, found)
        check_alone(found)
    return config


def folders_of(config: Any, path: str) -> tuple[Path, ...]:
    """Where the files of a config may be: in its own folder, and where it looks for them."""
    own = Path(path).resolve().parent
    context = config.getCurrentContext()
    searched = (context.resolveStringVar(one) for one in config.getSearchPaths())
    return (own, *((own / one).resolve() for one in searched))


def outside(path: str, found: str) -> JobError:
    names = plain(Path(path).name), plain(found)
    return JobError(
        f"{names[0]} reads {names[1]}, which is outside its folders: put that file beside it."
    )


def files_of(config: Any, named: Iterable[str] | None = None) -> Iterator[str]:
    """The files that a config names, where they are; in one order. named: instead of its own."""
    context = config.getCurrentContext()
    for name in sorted(set(named_files(config) if named is None else named)):
        try:
            yield context.resolveFileLocation(name)
        except FAILURES:
            continue  # said when what needs it is asked for


def named_files(config: Any) -> Iterator[str]:
    """What the transforms of a config read."""
    both = (ocio.TRANSFORM_DIR_FORWARD, ocio.TRANSFORM_DIR_INVERSE)
    reference = (ocio.COLORSPACE_DIR_TO_REFERENCE, ocio.COLORSPACE_DIR_FROM_REFERENCE)
    ways = (ocio.VIEWTRANSFORM_DIR_TO_REFERENCE, ocio.VIEWTRANSFORM_DIR_FROM_REFERENCE)
    transforms = [space.getTransform(way) for space in config.getColorSpaces() for way in reference]
    transforms += [one.getTransform(way) for one in config.getViewTransforms() for way in ways]
    transforms += [one.getTransform(way) for one in config.getNamedTransforms() for way in both]
    for look in config.getLooks():
        transforms += [look.getTransform(), look.getInverseTransform()]
    for one in transforms:
        yield from files_in(one)


def files_in(transform: Any) -> Iterator[str]:
    if isinstance(transform, ocio.GroupTransform):
        for one in transform:
            yield from files_in(one)
    elif isinstance(transform, ocio.FileTransform):
        yield str(transform.getSrc())
