"""OCIO configs in one archive with the files that they name: `.ocioz`.

Source: OpenColorIO documentation, "Archiving configs": a ZIP that has `config.ocio` and, under
their own paths, the files. Looked at before the library unpacks it.
"""

from __future__ import annotations

import stat
from pathlib import Path, PurePosixPath
from zipfile import BadZipFile, ZipFile, ZipInfo

from waxseal.core.errors import JobError
from waxseal.core.safe_open import open_regular
from waxseal.core.text_format import bytes_words, plain

__all__ = ["CONFIG", "check_archive", "is_archive", "text_in"]

CONFIG = "config.ocio"
LARGEST_BYTES = 64 * 1024 * 1024  # of one file in it, unpacked
MOST_BYTES = 8 * LARGEST_BYTES  # of all together
MOST_FILES = 10_000


def is_archive(path: str) -> bool:
    return path.lower().endswith(".ocioz")


def check_archive(path: str) -> frozenset[str]:
    """The names of the files in an archive; it holds nothing that reaches out of it.

    Raises JobError.
    """
    name = plain(Path(path).name)
    try:
        with open_regular(Path(path)) as file, ZipFile(file) as archive:
            members = archive.infolist()
    except (OSError, BadZipFile, ValueError, NotImplementedError) as error:
        why = getattr(error, "strerror", None) or "it is no archive"
        raise JobError(f"{name} cannot be read: {why}.") from None
    if not any(one.filename == CONFIG for one in members):
        raise JobError(f"{name} holds no {CONFIG}: choose another.")
    if len(members) > MOST_FILES:
        raise JobError(f"{name} holds {len(members)} files, more than any config: choose another.")
    for one in members:
        check_member(one, name)
    total = sum(one.file_size for one in members)
    if total > MOST_BYTES:
        size = bytes_words(total)
        raise JobError(f"{name} unpacks to {size}, more than any config: choose another.")
    return frozenset(one.filename for one in members)


def check_member(one: ZipInfo, archive: str) -> None:
    place, member = PurePosixPath(one.filename), plain(one.filename)
    kind = stat.S_IFMT(one.external_attr >> 16)
    if place.is_absolute() or ".." in place.parts or "\\" in one.filename:
        raise JobError(f"{archive} holds {member}, which leads out of it: choose another.")
    if kind not in (0, stat.S_IFREG, stat.S_IFDIR):
        raise JobError(f"{archive} holds {member}, which is no ordinary file: choose another.")
    if one.file_size > LARGEST_BYTES:
        size = bytes_words(one.file_size)
        raise JobError(f"{archive} holds {member} of {size}, more than any LUT: choose another.")


def text_in(path: str, name: str = CONFIG) -> bytes:
    """What a file in an archive holds; empty where it cannot be read."""
    try:
        with (
            open_regular(Path(path)) as file,
            ZipFile(file) as archive,
            archive.open(name) as member,
        ):
            return member.read(LARGEST_BYTES)
    except (OSError, BadZipFile, ValueError, KeyError, NotImplementedError, RuntimeError):
        return b""
