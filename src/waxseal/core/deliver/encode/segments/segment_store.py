"""The store of segments: a bounded folder, by key; what was used longest ago goes first.

Losing it costs time alone. What comes out of it was read bit by bit.
"""

from __future__ import annotations

import io
import os
import shutil
import threading
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO

from waxseal.core.atomic_write import partial_name, partials_in
from waxseal.core.deliver.encode.segments.segment_file import Segment, StoreFull
from waxseal.core.folders import segments_folder
from waxseal.core.private_folder import is_private, private_folder
from waxseal.core.safe_open import open_regular

__all__ = ["SegmentStore"]

MOST_BYTES = 20_000_000_000
LEAST_FREE = 2_000_000_000  # bytes that are left to deliveries and renderers
SUFFIX = ".segment"


kept_here: set[str] = set()  # the keys of what this process has kept


class SegmentStore:
    """folder: usually the user's; one on a shared disk serves several machines."""

    def __init__(
        self,
        folder: Path | None = None,
        most_bytes: int = MOST_BYTES,
        least_free: int = LEAST_FREE,
        *,
        is_fresh: bool = False,
        keeps: bool = True,
    ) -> None:
        """is_fresh: whether only what this process kept is found. keeps: whether anything is."""
        self._is_fresh, self._keeps = is_fresh, keeps
        self._folder = folder or segments_folder()
        self._most, self._least_free = most_bytes, least_free

    def find(self, key: str) -> Segment | None:
        """A segment that was kept; None where there is none, or not every bit of it is right."""
        path = self._path(key)
        if (self._is_fresh and key not in kept_here) or not is_private(self._folder):
            return None
        try:
            file = open_regular(path)
        except OSError:
            return None  # nothing is removed that was not looked at: it may come this moment
        with file:
            try:
                segment = Segment.read(file)
            except (OSError, ValueError, KeyError, TypeError):
                segment = None
        if self._keeps:
            with suppress(OSError):
                if segment is None:
                    path.unlink(missing_ok=True)
                else:
                    os.utime(path)
        return segment

    @contextmanager
    def writing(self, key: str) -> Iterator[IO[bytes]]:
        """Where a segment is written. Kept when all went well; in memory where it cannot be.

        Raises StoreFull where it could not be kept in the end: somebody may empty the folder.
        """
        file = self._begin(key)
        if isinstance(file, io.BytesIO):
            yield file
            return
        partial = Path(file.name)
        try:
            with file:
                yield file
                keep_as(file, self._path(key))
                kept_here.add(key)
        finally:
            partial.unlink(missing_ok=True)
        self._forget_oldest()

    def drop(self, key: str) -> None:
        """Remove a segment. Whoever has it open can still read it."""
        if not self._keeps:
            return
        with suppress(OSError):
            self._path(key).unlink(missing_ok=True)

    def forget(self, keys: Iterable[str]) -> None:
        """Remove segments that turned out not to show their pictures."""
        for key in keys:
            self.drop(key)

    def keep(self, key: str, body: bytes) -> None:
        """Keep a segment that another machine encoded, if there is room."""
        with suppress(OSError, StoreFull), self.writing(key) as file:
            file.write(body)

    def _begin(self, key: str) -> IO[bytes]:
        if not self._keeps:
            return io.BytesIO()
        try:
            private_folder(self._folder)
            if shutil.disk_usage(self._folder).free < self._least_free:
                return io.BytesIO()
            # (Pieces that are alike have one key, and may be encoded at the same time.)
            once = self._path(f"{key}-{threading.get_ident()}")
            return partial_name(once).open("x+b")
        except OSError:
            return io.BytesIO()

    def _path(self, key: str) -> Path:
        return self._folder / f"{key}{SUFFIX}"

    def _forget_oldest(self) -> None:
        for left in partials_in(self._folder):
            left.unlink(missing_ok=True)
        kept = []
        with suppress(OSError):
            for one in self._folder.glob(f"*{SUFFIX}"):
                facts = one.stat()
                kept.append((facts.st_mtime, facts.st_size, one))
        total = sum(size for _, size, _ in kept)
        for _, size, path in sorted(kept):
            if total <= self._most:
                return
            with suppress(OSError):
                path.unlink()
            total -= size


def keep_as(file: IO[bytes], path: Path) -> None:
    """Give a file that is whole its name. Raises StoreFull."""
    try:
        os.fsync(file.fileno())
        Path(file.name).replace(path)
    except OSError as error:
        raise StoreFull from error
