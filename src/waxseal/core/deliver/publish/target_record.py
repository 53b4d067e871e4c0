"""What this user's program remembers of a file that it delivers to.

A lock, the note of an unfinished publishing, and the digest of what was sealed last: all in a
private folder, by the target's path. Nothing that lies beside a delivered file, or that stands in
a job, takes their place: those come with a file from anywhere.
"""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
import re
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Self

from waxseal.core.atomic_write import write_safely
from waxseal.core.errors import DeliveryRefused
from waxseal.core.folders import targets_folder
from waxseal.core.foreign_text import ForeignTextError, parse_json, read_foreign
from waxseal.core.private_folder import is_private, private_folder
from waxseal.core.process_identity import is_process_name
from waxseal.core.text_format import plain

__all__ = ["Identity", "MadeFile", "PublishNote", "TargetRecord", "identity_of"]

LARGEST_BYTES, MOST_WRITERS = 1 << 13, 100
DIGEST = re.compile(r"[0-9a-f]{64}")

Identity = tuple[int, int, int]


def identity_of(path: Path) -> Identity | None:
    """What tells a file or folder from others, whatever its name: inode, time of change, size.

    (Not the number of the device: it may change when the machine starts again.) None where
    there is nothing; a link is not followed.
    """
    try:
        facts = path.lstat()
    except OSError:
        return None
    return facts.st_ino, facts.st_mtime_ns, facts.st_size


@dataclass(frozen=True, slots=True)
class MadeFile:
    """What this program made under a name. owner: which delivery of which job file did."""

    sha256: str
    owner: str


@dataclass(frozen=True, slots=True)
class PublishNote:
    """A file and its seal that are about to get their names.

    process: that publishes them: the hidden names follow from it. made: identity of the finished
    file or folder. before: of what has the name until then; None for nothing.
    content: what is published.
    """

    process: str
    made: Identity
    before: Identity | None
    may_replace: bool
    content: MadeFile

    @classmethod
    def read(cls, text: bytes) -> Self:
        """Raises ForeignTextError, ValueError, TypeError, KeyError."""
        document = parse_json(text)
        before = document["before"]
        note = cls(
            str(document["process"]),
            as_identity(document["made"]),
            None if before is None else as_identity(before),
            document["may_replace"] is True,
            as_made(document["content"]),
        )
        if not is_process_name(note.process):
            raise ValueError(text)
        return note


def as_made(value: object) -> MadeFile:
    """Raises ValueError."""
    if not isinstance(value, dict) or not DIGEST.fullmatch(str(value.get("sha256"))):
        raise ValueError("a digest says what was made")
    return MadeFile(value["sha256"], str(value.get("owner", "")))


def as_identity(value: object) -> Identity:
    """Raises ValueError."""
    if not isinstance(value, list) or len(value) != 3 or {type(one) for one in value} != {int}:
        raise ValueError("three whole numbers identify a file")
    inode, changed, size = value
    return inode, changed, size


class TargetRecord:
    """The record of one target. Its methods raise OSError where the folder cannot be used."""

    def __init__(self, target: Path) -> None:
        self._target = target
        real = os.fsencode(os.path.realpath(target.parent)) + b"/" + os.fsencode(target.name)
        name = hashlib.blake2b(real, digest_size=16).hexdigest()
        self._stem = targets_folder() / name

    @contextmanager
    def locked(self) -> Iterator[None]:
        """Nobody else on this machine delivers to the target meanwhile. Raises DeliveryRefused."""
        with self._writable(".lock").open("a") as file:
            try:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                raise DeliveryRefused(
                    f"{plain(self._target.name)} is being delivered already: wait for it, "
                    "or choose another name."
                ) from None
            yield

    def begin_writing(self, process: str) -> None:
        """Note that a process is about to write hidden files for the target."""
        names = dict.fromkeys((*self.writers[-MOST_WRITERS:], process))
        write_safely(self._writable(".writers"), json.dumps(list(names)).encode())

    def end_writing(self, *processes: str) -> None:
        """Forget processes whose hidden files are gone."""
        left = [one for one in self.writers if one not in processes]
        if left:
            write_safely(self._writable(".writers"), json.dumps(left).encode())
        else:
            self._path(".writers").unlink(missing_ok=True)

    @property
    def writers(self) -> tuple[str, ...]:
        """The processes that have begun hidden files for the target, and may have left them."""
        try:
            names = parse_json(self._read(".writers"))
        except (OSError, ForeignTextError):
            return ()
        every = names if isinstance(names, list) else []
        return tuple(one for one in every if isinstance(one, str) and is_process_name(one))

    def begin_publishing(self, note: PublishNote) -> None:
        write_safely(self._writable(".publishing"), json.dumps(asdict(note)).encode())

    def end_publishing(self) -> None:
        with suppress(FileNotFoundError):
            self._path(".publishing").unlink()

    @property
    def publishing(self) -> PublishNote | None:
        """The note of a publishing that has not ended; None without one that can be read."""
        try:
            return PublishNote.read(self._read(".publishing"))
        except (OSError, ForeignTextError, ValueError, TypeError, KeyError):
            return None

    def note_made(self, made: MadeFile) -> None:
        """Remember what this program made there, so that its owner may make it again."""
        write_safely(self._writable(".made"), json.dumps(asdict(made)).encode())

    @property
    def made(self) -> MadeFile | None:
        """What this program made there last; None where that is not known."""
        try:
            return as_made(parse_json(self._read(".made")))
        except (OSError, ForeignTextError, ValueError):
            return None

    def hand_on(self, before: str, after: str) -> None:
        """Let another owner make again what one made."""
        made = self.made
        if made is not None and made.owner == before:
            self.note_made(MadeFile(made.sha256, after))

    def _path(self, suffix: str) -> Path:
        return self._stem.with_name(self._stem.name + suffix)

    def _writable(self, suffix: str) -> Path:
        private_folder(self._stem.parent)
        return self._path(suffix)

    def _read(self, suffix: str) -> bytes:
        if not is_private(self._stem.parent):
            raise FileNotFoundError(self._path(suffix))
        return read_foreign(self._path(suffix), LARGEST_BYTES)
