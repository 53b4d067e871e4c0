"""Autosaves: what comes back after a crash. One file a process, gone after an orderly end."""

from __future__ import annotations

import json
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from waxseal.core.atomic_write import write_safely
from waxseal.core.errors import JobError, NewerJob
from waxseal.core.foreign_text import ForeignTextError, parse_json, read_foreign
from waxseal.core.job.job_file import LARGEST_BYTES, document_of, quick_text, read_job
from waxseal.core.job.model import Job
from waxseal.core.private_folder import is_private, private_folder
from waxseal.core.process_identity import is_alive, is_process_name, process_name

__all__ = ["Leftover", "forget", "keep", "leftovers", "put_broken_aside"]

BROKEN = ".broken"
KEPT_SECONDS = 30 * 24 * 3600
UNREADABLE = (OSError, ValueError, KeyError, TypeError, ForeignTextError, JobError)
HOME = Path("/")  # paths are kept whole: an autosave does not stand beside its job


@dataclass(frozen=True, slots=True)
class Leftover:
    """A job that was open when its process ended without a word.

    origin: the job file that it was saved in last, if it ever was. stamp: what that file
        held then; empty where that is not known.
    """

    file: Path
    job: Job
    origin: Path | None
    stamp: str = ""


def own_file(folder: Path) -> Path:
    return folder / f"{process_name()}.json"


def keep(job: Job, *, folder: Path, origin: Path | None, stamp: str = "") -> None:
    """Write this process's autosave. stamp: of its file, as it is known. Raises OSError."""
    private_folder(folder)
    from_file = {"origin": str(origin) if origin else None, "stamp": stamp}
    document = {**from_file, "job": document_of(job, HOME)}
    write_safely(own_file(folder), quick_text(document).encode())


def forget(folder: Path, file: Path | None = None) -> None:
    """Remove an autosave: this process's, or one that was brought back or not wanted."""
    (file or own_file(folder)).unlink(missing_ok=True)


def leftovers(folder: Path) -> tuple[Leftover, ...]:
    """Autosaves of processes that are gone; one that cannot be read is passed over."""
    found = []
    for file in files_in(folder):
        if not is_process_name(file.stem) or is_alive(file.stem):
            continue
        with suppress(*UNREADABLE):
            found.append(read_leftover(file))
    return tuple(found)


def files_in(folder: Path) -> list[Path]:
    """The autosaves that are there; none where somebody else could have put them there."""
    return sorted(folder.glob("*.json")) if is_private(folder) else []


def read_leftover(file: Path) -> Leftover:
    """Raises one of UNREADABLE."""
    document = parse_json(read_foreign(file, LARGEST_BYTES))
    origin = document["origin"]
    job = read_job(json.dumps(document["job"]).encode(), HOME)
    stamp = str(document.get("stamp", ""))
    return Leftover(file, job, Path(origin) if origin else None, stamp)


def put_broken_aside(folder: Path) -> tuple[Path, ...]:
    """Rename the autosaves of processes that are gone and that cannot be read.

    Returns their new names. What was put aside a month ago is removed.
    """
    if not is_private(folder):
        return ()
    for old in folder.glob(f"*{BROKEN}"):
        with suppress(OSError):
            if time.time() - old.stat().st_mtime > KEPT_SECONDS:
                old.unlink()
    aside = []
    for file in files_in(folder):
        if not is_process_name(file.stem) or is_alive(file.stem):
            continue
        try:
            read_leftover(file)
        except NewerJob:
            continue  # the one that wrote it will read it
        except UNREADABLE:
            pass
        else:
            continue
        with suppress(OSError):
            aside.append(file.rename(file.with_suffix(BROKEN)))
    return tuple(aside)
