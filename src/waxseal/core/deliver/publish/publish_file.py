"""Publishing: a finished file and its seal get their names in one act.

Two names cannot be given at once. So a note is written first that says what is about to
be done (`target_record`); the next delivery of that name does the rest. At every instant the names
hold the old pair, or the new one, or a state that the note tells how to finish.

Beside the target only names are touched that the program itself makes for this very target, and
only if they hold what the note was written about.
"""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

from waxseal.core.atomic_write import flush_folder, partial_name, remove_partial
from waxseal.core.deliver.publish.target_record import (
    Identity,
    MadeFile,
    PublishNote,
    TargetRecord,
    identity_of,
)
from waxseal.core.process_identity import is_alive, process_name
from waxseal.core.seal.record import seal_path
from waxseal.core.text_format import plain

__all__ = [
    "clear_up",
    "finish_publishing",
    "is_unfinished",
    "name_trouble",
    "publish",
    "publish_without_seal",
]

LONGEST_NAME = 255  # bytes, of nearly every file system


def name_trouble(target: Path) -> str:
    """Why a file and its seal cannot have this name; empty where they can."""
    over = len(os.fsencode(seal_path(target).name)) - LONGEST_NAME
    if over > 0:
        return f"The name is too long by {over} bytes, with that of its seal: choose a shorter one."
    if target.is_symlink() and not target.exists():
        return f"{plain(target.name)} is a link that leads nowhere: choose another name."
    return ""


def clear_up(target: Path) -> None:
    """Finish what an earlier delivery began to publish, and remove what one that died left.

    Raises OSError. Only for whoever holds the target's lock.
    """
    finish_publishing(target)
    record = TargetRecord(target)
    dead = [one for one in record.writers if not is_alive(one)]
    for process in dead:
        for name in (target, seal_path(target)):
            remove_partial(partial_name(name, process))
    if dead:
        record.end_writing(*dead)


def is_unfinished(target: Path) -> bool:
    """Whether a delivery was stopped while it gave the target its name. Changes nothing."""
    return TargetRecord(target).publishing is not None


def publish(
    partial: Path, seal: bytes, target: Path, *, may_replace: bool, content: MadeFile
) -> None:
    """Give a finished file or folder, and its seal, their names.

    partial: as `partial_name` calls it in this process. content: what it holds, and whose it is.
    What was there is replaced only where it may be. Raises FileExistsError, OSError;
    then all is as it was before.
    """
    record = TargetRecord(target)
    beside = partial_name(seal_path(target))
    made = identity_of(partial)
    if made is None:
        raise FileNotFoundError(partial)
    note = PublishNote(process_name(), made, identity_of(target), may_replace, content)
    try:
        with beside.open("xb") as file:
            file.write(seal)
            file.flush()
            os.fsync(file.fileno())
        if not may_replace and os.path.lexists(target):
            raise FileExistsError(target)
        with suppress(OSError):  # without a folder of our own a stop here can be seen, not mended
            record.begin_publishing(note)
        flush_folder(target.parent)
    except BaseException:
        with suppress(OSError):
            record.end_publishing()
        beside.unlink(missing_ok=True)
        raise
    finish(note, target)


def finish_publishing(target: Path) -> None:
    """Do the rest of what a note says, if there is one. Raises OSError."""
    note = TargetRecord(target).publishing
    if note is not None:
        finish(note, target)


def finish(note: PublishNote, target: Path) -> None:
    """Every step may have been done already, up to any of them."""
    record = TargetRecord(target)
    partial = partial_name(target, note.process)
    seal = partial_name(seal_path(target), note.process)
    old = old_name(partial)
    try:
        if identity_of(partial) == note.made:
            put_in_place(partial, old, target, may_replace=note.may_replace, before=note.before)
    except FileExistsError:
        seal.unlink(missing_ok=True)
        with suppress(OSError):
            record.end_publishing()
        raise
    if identity_of(target) == note.made:
        if os.path.lexists(seal):
            seal.replace(seal_path(target))
        flush_folder(target.parent)
        if note.before is not None and identity_of(old) == note.before:
            remove_partial(old)
        with suppress(OSError):
            record.note_made(note.content)
    elif note.before is not None and identity_of(old) == note.before:
        give_back(old, target)
    with suppress(FileNotFoundError):
        seal.unlink()
    with suppress(OSError):
        record.end_publishing()


def give_back(old: Path, target: Path) -> None:
    """What was replaced gets its name again, as what was to replace it is not there any more."""
    if not os.path.lexists(target):
        old.rename(target)


def publish_without_seal(partial: Path, target: Path, *, content: MadeFile) -> None:
    """Give what is finished a name without a seal, in place of what has it. Raises OSError."""
    old, before = old_name(partial), identity_of(target)
    put_in_place(partial, old, target, may_replace=True, before=before)
    if before is not None and identity_of(old) == before:
        remove_partial(old)
    with suppress(OSError):
        TargetRecord(target).note_made(content)


def old_name(partial: Path) -> Path:
    """Where a folder waits that another takes the place of: folders cannot be exchanged."""
    return partial.with_name(f"{partial.name}.old")


def put_in_place(
    partial: Path,
    old: Path,
    target: Path,
    *,
    may_replace: bool,
    before: Identity | None,
) -> None:
    """before: what the target was when this began; anything else that has come is kept."""
    if partial.is_dir():
        if os.path.lexists(target):
            if not may_replace or identity_of(target) != before or os.path.lexists(old):
                raise FileExistsError(target)
            target.rename(old)
        partial.rename(target)
    elif may_replace:
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
