"""Writing that never leaves half a file under its final name."""

from __future__ import annotations

import errno
import os
import shutil
import stat
import zlib
from contextlib import suppress
from pathlib import Path

from waxseal.core.process_identity import is_alive, is_process_name, process_name

__all__ = [
    "flush_folder",
    "flush_to_disk",
    "partial_name",
    "partials_in",
    "remove_partial",
    "save_safely",
    "short_name",
    "write_safely",
]

SHORT = 200  # bytes, of the 255 that a name may have


def short_name(name: str) -> str:
    """A name cut so that something can be added to it; two that are cut stay two."""
    whole = os.fsencode(name)
    if len(whole) <= SHORT:
        return name
    return f"{whole[:SHORT].decode(errors='ignore')}~{zlib.crc32(whole):08x}"


def partial_name(path: Path, process: str | None = None) -> Path:
    """Where a process (this one) writes a file until it is whole: hidden, beside its target.

    process: its name, see `process_identity`.
    """
    return path.with_name(f".{short_name(path.name)}.{process or process_name()}.partial")


def partials_in(folder: Path) -> list[Path]:
    """What processes that are gone began to write in a folder of ours. Raises OSError."""
    found = []
    for name in os.listdir(folder):  # noqa: PTH208 - names are all that is wanted
        target, _, process = name.removesuffix(".partial").rpartition(".")
        is_partial = name.startswith(".") and name.endswith(".partial") and len(target) > 1
        if is_partial and is_process_name(process) and not is_alive(process):
            found.append(folder / name)
    return found


def flush_folder(folder: Path) -> None:
    """Wait until the names in a folder are on the disk; where a file system cannot, nothing."""
    descriptor = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(descriptor)
    except OSError:
        return
    finally:
        os.close(descriptor)


def save_safely(path: Path, content: bytes) -> None:
    """Write a file of the user's: a link goes on leading to it, and it keeps its mode.

    Raises OSError, for a link that leads round in a circle too.
    """
    target = Path(os.path.realpath(path))  # (Path.resolve falls over a circle)
    if target.is_symlink():
        raise OSError(errno.ELOOP, os.strerror(errno.ELOOP), str(path))
    mode = stat.S_IMODE(target.stat().st_mode) if target.exists() else None
    write_safely(target, content, mode=mode)


def write_safely(path: Path, content: bytes, *, mode: int | None = None) -> None:
    """Write a whole file or none, replacing what was there, be it a link. Raises OSError."""
    partial = partial_name(path)
    partial.unlink(missing_ok=True)  # of a process that had this number before
    try:
        with partial.open("xb") as file:  # never through a link that lies there
            if mode is not None:
                os.fchmod(file.fileno(), mode)
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)


def flush_to_disk(path: Path) -> None:
    """Wait until a finished file is on the disk, not only in memory. Raises OSError."""
    with path.open("rb") as file:
        os.fsync(file.fileno())


def remove_partial(partial: Path) -> None:
    """A file or a folder that was begun; nothing if there is none, or can be none."""
    if partial.is_dir() and not partial.is_symlink():
        shutil.rmtree(partial, ignore_errors=True)
    else:
        with suppress(FileNotFoundError, NotADirectoryError):
            partial.unlink()
