"""A finished file and its seal get their names in one act.

Two names cannot be given at once. So a note is written first that says what is about to
be done; whoever finds one (the next delivery of that name, `check`) does the rest. At
every instant the names hold the old pair, or the new one, or a state that the note tells
how to finish.
"""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass
from pathlib import Path

from waxseal.core.errors import DeliveryRefused
from waxseal.core.folders import locks_folder
from waxseal.core.regular import open_regular
from waxseal.core.safely import (
    flush_folder,
    partial_name,
    partials_of_the_dead,
    remove_partial,
    short_name,
    write_safely,
)
from waxseal.core.seal.record import seal_path
from waxseal.core.words import plain

__all__ = ["clear_up", "hand_over", "held", "name_trouble", "put_at", "recover"]

LONGEST_NAME = 255  # bytes, of nearly every file system
LARGEST_NOTE = 1 << 16  # bytes


@dataclass(frozen=True, slots=True)
class Note:
    """Names beside the target: of the finished file, its seal, and what is there before.

    number: of the finished file in its file system, whatever it is called.
    """

    partial: str
    seal: str
    old: str
    overwrite: bool
    number: int


def note_path(target: Path) -> Path:
    return target.with_name(f".{short_name(target.name)}.placing")


def name_trouble(target: Path) -> str:
    """Why a file and its seal cannot have this name; empty where they can."""
    over = len(os.fsencode(seal_path(target).name)) - LONGEST_NAME
    if over > 0:
        return f"The name is too long by {over} bytes, with that of its seal: choose a shorter one."
    if target.is_symlink() and not target.exists():
        return f"{plain(target.name)} is a link that leads nowhere: choose another name."
    return ""


@contextmanager
def held(target: Path) -> Iterator[None]:
    """Nobody else on this machine delivers to a target meanwhile. Raises DeliveryRefused."""
    folder = locks_folder()
    folder.mkdir(parents=True, exist_ok=True)
    name = hashlib.blake2b(os.fsencode(os.path.realpath(target)), digest_size=16).hexdigest()
    with (folder / name).open("w") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise DeliveryRefused(
                f"{plain(target.name)} is being delivered already: wait for it, "
                "or choose another name."
            ) from None
        yield


def clear_up(target: Path) -> None:
    """Finish what an earlier delivery began to place, and remove what one that died left."""
    recover(target)
    for left in partials_of_the_dead(target):
        remove_partial(left)


def hand_over(partial: Path, seal: bytes, target: Path, *, overwrite: bool) -> None:
    """Give a finished file or folder, and its seal, their names.

    What was there is replaced only where it may be. Raises FileExistsError, OSError;
    then all is as it was before.
    """
    beside = partial_name(seal_path(target))
    number = partial.stat().st_ino
    note = Note(partial.name, beside.name, f"{partial.name}.old", overwrite, number)
    try:
        with beside.open("xb") as file:
            file.write(seal)
            file.flush()
            os.fsync(file.fileno())
        if not overwrite and os.path.lexists(target):
            raise FileExistsError(target)
        write_safely(note_path(target), json.dumps(asdict(note)).encode())
        flush_folder(target.parent)
    except BaseException:
        note_path(target).unlink(missing_ok=True)
        beside.unlink(missing_ok=True)
        raise
    finish(note, target)


def recover(target: Path) -> None:
    """Do the rest of what a note says, if there is one. Raises OSError."""
    try:
        with open_regular(note_path(target)) as file:
            note = Note(**json.loads(file.read(LARGEST_NOTE)))
        is_ours = all(
            isinstance(name, str) and name.startswith(".") and "/" not in name
            for name in (note.partial, note.seal, note.old)
        )
    except FileNotFoundError:
        return
    except (OSError, ValueError, TypeError):
        is_ours, note = False, Note("", "", "", overwrite=False, number=0)
    if is_ours:
        finish(note, target)
    else:
        note_path(target).unlink(missing_ok=True)


def finish(note: Note, target: Path) -> None:
    """Every step may have been done already, up to any of them."""
    partial, seal, old = (target.with_name(name) for name in (note.partial, note.seal, note.old))
    try:
        if os.path.lexists(partial):
            place(partial, old, target, overwrite=note.overwrite)
    except FileExistsError:
        seal.unlink(missing_ok=True)
        note_path(target).unlink(missing_ok=True)
        raise
    is_there = target.exists() and target.stat().st_ino == note.number
    if seal.exists() and is_there:
        seal.replace(seal_path(target))
    seal.unlink(missing_ok=True)
    flush_folder(target.parent)
    remove_partial(old)
    note_path(target).unlink(missing_ok=True)


def put_at(partial: Path, target: Path) -> None:
    """Give what is finished a name without a seal, in place of what has it. Raises OSError."""
    old = partial.with_name(f"{partial.name}.old")
    place(partial, old, target, overwrite=True)
    remove_partial(old)


def place(partial: Path, old: Path, target: Path, *, overwrite: bool) -> None:
    if partial.is_dir():
        if target.exists() and not old.exists():
            if not overwrite:
                raise FileExistsError(target)
            target.rename(old)
        partial.rename(target)
    elif overwrite:
        partial.replace(target)
    else:
        place_new(partial, target)


def place_new(partial: Path, target: Path) -> None:
    """A hard link fails where the name is taken, without a moment between look and rename."""
    try:
        os.link(partial, target)
    except FileExistsError:
        if not target.samefile(partial):
            raise
    except OSError:  # a file system without hard links
        if os.path.lexists(target):
            raise FileExistsError(target) from None
        partial.rename(target)
        return
    with suppress(FileNotFoundError):
        partial.unlink()
