"""Folders that only this user writes to: what the program keeps for itself is read from no other.

Whoever can write into a folder of ours could put code, pictures or permissions into it.
"""

from __future__ import annotations

import errno
import os
import stat
from collections.abc import Iterator
from pathlib import Path

from waxseal.core.folders import (
    PROGRAM,
    autosave_folder,
    kernels_folder,
    light_folder,
    measures_folder,
    proofs_folder,
    running_folder,
    segments_folder,
    targets_folder,
    tops,
)
from waxseal.core.text_format import plain

__all__ = ["NotPrivate", "folder_troubles", "is_private", "private_folder", "trouble_with"]

ONLY_MINE = 0o700
OTHERS_WRITE = stat.S_IWGRP | stat.S_IWOTH


class NotPrivate(OSError):
    """A folder of ours that belongs to somebody else, or that others may write to."""

    def __init__(self, sentence: str, path: Path) -> None:
        super().__init__(errno.EPERM, sentence, str(path))


def private_folder(path: Path) -> Path:
    """Make a folder that only this user may use; use one that is there only if it is safe.

    Raises NotPrivate, OSError.
    """
    for level in levels(path):
        if not os.path.lexists(level):
            level.parent.mkdir(parents=True, exist_ok=True)
            try:
                level.mkdir()
                level.chmod(ONLY_MINE)  # whatever the umask left of it
            except FileExistsError:
                pass  # another process was quicker
        require_private(level)
    return path


def is_private(path: Path) -> bool:
    """Whether a folder is there and may be read from."""
    try:
        for level in levels(path):
            require_private(level)
    except OSError:
        return False
    return True


def trouble_with(path: Path) -> str:
    """Why a folder that is there is not used; empty if it is not there, or safe."""
    try:
        for level in levels(path):
            require_private(level)
    except NotPrivate as error:
        return error.strerror or ""
    except OSError:
        return ""
    return ""


def folder_troubles() -> tuple[str, ...]:
    """Why folders of ours are not used, a sentence each; none where all is well."""
    folders = (
        *(segments_folder(), kernels_folder(), measures_folder(), light_folder(), proofs_folder()),
        *(autosave_folder(), running_folder(), targets_folder()),
    )
    return tuple(dict.fromkeys(filter(None, map(trouble_with, folders))))


def levels(path: Path) -> Iterator[Path]:
    """The folders from the program's own top one down to a folder; any other folder alone."""
    chain = [path, *path.parents]
    top = next((at for at, one in enumerate(chain) if one.name == PROGRAM and one in tops()), 0)
    yield from reversed(chain[: top + 1])


def require_private(path: Path) -> None:
    """Raises NotPrivate, OSError."""
    me = os.geteuid()
    link, folder = path.lstat(), path.stat()
    if link.st_uid != me or folder.st_uid != me:
        raise NotPrivate(
            f"{plain(path)} belongs to another user, so Wax Seal does not use it: "
            "remove it, or choose other folders by XDG_CACHE_HOME and XDG_STATE_HOME.",
            path,
        )
    if not stat.S_ISDIR(folder.st_mode):
        raise NotPrivate(f"{plain(path)} is not a folder: move it away.", path)
    if folder.st_mode & OTHERS_WRITE:
        raise NotPrivate(
            f"Other users may write to {plain(path)}, so Wax Seal does not use it: "
            f"look at what it holds, then chmod 700 it.",
            path,
        )
