"""Opening files: ordinary ones only. A pipe or a device would keep its reader waiting for ever."""

from __future__ import annotations

import errno
import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

__all__ = ["NotAFile", "open_regular", "path_for_library"]


class NotAFile(OSError):
    """It is a pipe, a socket, a device or a folder."""

    def __init__(self, path: Path) -> None:
        super().__init__(errno.EINVAL, "it is not an ordinary file", str(path))


def open_regular(path: Path) -> BinaryIO:
    """Open a file for reading; never waits for somebody to write. Raises OSError."""
    # A pipe that nobody writes to is opened at once, and seen for what it is.
    descriptor = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    if not stat.S_ISREG(os.fstat(descriptor).st_mode):
        os.close(descriptor)
        raise NotAFile(path)
    return os.fdopen(descriptor, "rb")


@contextmanager
def path_for_library(path: Path) -> Iterator[str]:
    """A name that a library takes for an ordinary file, and for nothing else. Raises OSError.

    It is absolute, so that nothing in front of a colon is taken for a protocol. One that
    is no text (its bytes are not UTF-8) goes by descriptor.
    """
    with open_regular(path) as file:
        try:
            str(path).encode()
        except UnicodeEncodeError:
            yield f"/proc/self/fd/{file.fileno()}"
        else:
            yield str(path.absolute())
