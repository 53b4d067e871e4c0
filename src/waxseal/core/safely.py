"""Writing that never leaves half a file under its final name."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

__all__ = ["flush_to_disk", "partial_name", "put_in_place", "remove_partial", "write_safely"]


def partial_name(path: Path, process: int | None = None) -> Path:
    """Where a process (this one) writes a file until it is whole: hidden, beside its target."""
    return path.with_name(f".{path.name[:200]}.{process or os.getpid()}.partial")


def write_safely(path: Path, content: bytes) -> None:
    """Write a whole file or none, replacing what was there. Raises OSError."""
    partial = partial_name(path)
    try:
        with partial.open("wb") as file:
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
    """A file or a folder that was begun; nothing if there is none."""
    if partial.is_dir() and not partial.is_symlink():
        shutil.rmtree(partial, ignore_errors=True)
    else:
        partial.unlink(missing_ok=True)


def put_in_place(partial: Path, path: Path, *, overwrite: bool) -> None:
    """Give a finished file its final name. Raises FileExistsError unless it may overwrite."""
    if overwrite:
        partial.replace(path)
        return
    # A hard link fails where the name is taken, without a moment between look and rename.
    try:
        os.link(partial, path)
    except FileExistsError:
        raise
    except OSError:  # a file system without hard links
        if path.exists():
            raise FileExistsError(path) from None
        partial.rename(path)
    else:
        partial.unlink()
