"""The job file: JSON with a schema version, paths relative to the job where they can be.

Written to a partial name, flushed, renamed. Read as untrusted: size, nesting
and every value are checked, and a file that is damaged, newer or hostile gets
one sentence.
"""

from __future__ import annotations

import hashlib
import json
import os
from pathlib import Path
from typing import Any, TypeVar

from pydantic import ValidationError
from pydantic_core import from_json

from waxseal.core.atomic_write import save_safely
from waxseal.core.errors import JobError, NewerJob
from waxseal.core.job.migrations import VERSION, migrate
from waxseal.core.job.model import Job, Sequence, Sound, WithOrigin, change, sentence_of
from waxseal.core.job.values import Value
from waxseal.core.safe_open import open_regular

__all__ = [
    "LARGEST_BYTES",
    "document_of",
    "load",
    "quick_text",
    "read_job",
    "save",
    "stamp_of",
    "write_job",
]

KIND = "waxseal job"
LARGEST_BYTES = 64 * 1024 * 1024

V = TypeVar("V", bound=Value)


def save(job: Job, path: Path) -> None:
    """Write the job. What stood there before stays whole until the new one is. Raises JobError."""
    try:
        save_safely(path, write_job(job, home_of(path)).encode())
    except OSError as error:
        raise JobError(f"{path} cannot be written: {error.strerror}.", path=path) from error


def load(path: Path) -> Job:
    """Read a job file. Raises JobError."""
    try:
        with open_regular(path) as file:
            text = file.read(LARGEST_BYTES + 1)
        if len(text) > LARGEST_BYTES:
            raise JobError(f"{path.name} is too large for a job: is it one?", path=path)
    except OSError as error:
        raise JobError(f"{path} cannot be read: {error.strerror}.", path=path) from error
    try:
        return read_job(text, home_of(path))
    except JobError as error:
        raise JobError(f"{path.name} cannot be opened. {error}", path=path) from error


def stamp_of(path: Path) -> str:
    """What tells a job file's content from another; empty where there is none to be read."""
    try:
        with open_regular(path) as file:
            return hashlib.blake2b(file.read(LARGEST_BYTES + 1), digest_size=16).hexdigest()
    except OSError:
        return ""


def home_of(path: Path) -> Path:
    """The folder that a job's paths are relative to: where it lies, not what links to it."""
    return Path(os.path.realpath(path)).parent


def write_job(job: Job, home: Path) -> str:
    """The text of a job file in the folder `home`."""
    return json_text(document_of(job, home))


def document_of(job: Job, home: Path) -> dict[str, Any]:
    """What a job file in the folder `home` holds.

    Each part is turned into plain values by itself: the whole of a large job in one
    call of the library would keep the window's thread waiting.
    """
    turned = turn_paths(job, home, relative_to)
    reel = change(turned.reel, shots=(), overlays=()).model_dump()
    reel["shots"] = [one.model_dump() for one in turned.reel.shots]
    reel["overlays"] = [one.model_dump() for one in turned.reel.overlays]
    return {
        "kind": KIND,
        "schema": VERSION,
        "name": turned.name,
        "habits": turned.habits.model_dump(),
        "sources": [one.model_dump() for one in turned.sources],
        "reel": reel,
        "deliveries": [one.model_dump() for one in turned.deliveries],
    }


def json_text(document: dict[str, Any]) -> str:
    # Names that are not UTF-8 hold lone surrogates: plain ASCII JSON carries them.
    return json.dumps(document, indent=1, ensure_ascii=True) + "\n"


def quick_text(document: Any, depth: int = 3) -> str:
    """The same in a fraction of the time, a line for each entry of a list: for autosaves.

    Written piece by piece: a large job in one call would keep the window's thread waiting.
    """
    if depth and isinstance(document, dict):
        entries = (f"{json.dumps(key)}: {quick_text(document[key], depth - 1)}" for key in document)
        return "{" + ",\n".join(entries) + "}"
    if isinstance(document, list):
        return "[" + ",\n".join(map(json.dumps, document)) + "]"
    return json.dumps(document)


def read_job(text: bytes, home: Path) -> Job:
    """A job from the text of its file. Raises JobError."""
    try:
        document = parsed(text)
    except (ValueError, RecursionError):
        raise JobError("It is damaged: it is not JSON. Use an earlier copy.") from None
    if not isinstance(document, dict) or document.pop("kind", None) != KIND:
        raise JobError("It is not a Wax Seal job.")
    version = document.pop("schema", None)
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise JobError("It does not say which version of the job file it is.")
    if version > VERSION:
        raise NewerJob(
            f"It was written by a newer Wax Seal (job file {version}, this one reads {VERSION}): "
            "bring this one up to date."
        )
    migrate(document, version)
    forget_looks(document)
    try:
        job = Job.model_validate(document)
    except ValidationError as error:
        if any(one["type"] == "extra_forbidden" for one in error.errors(include_url=False)):
            raise JobError(
                f"A newer Wax Seal may have written it ({sentence_of(error)}): "
                "bring this one up to date."
            ) from error
        raise JobError(f"It is damaged: {sentence_of(error)}") from error
    except RecursionError:
        raise JobError("It is nested too deep to be a job.") from None
    return turn_paths(job, home, absolute_from)


def parsed(text: bytes) -> Any:
    """What JSON says. Raises ValueError, RecursionError.

    No other thread runs meanwhile, so the quicker library comes first. It does not know half
    pairs of UTF-16, which stand for what is no UTF-8 in the name of a file.
    """
    try:
        return from_json(text)
    except ValueError:
        return json.loads(text)


def forget_looks(document: dict[str, Any]) -> None:
    """Drop what only a look at the files may say: a job may be anybody's, and the files others."""
    sources = document.get("sources")
    for one in sources if isinstance(sources, list) else ():
        if isinstance(one, dict) and isinstance(one.get("found"), dict):
            one["found"].pop("is_opaque", None)


def turn_paths(job: Job, home: Path, turn: Any) -> Job:
    """The job with each of its paths turned. A part without paths stays the same object."""

    def at(path: str) -> str:
        return turn(path, home) if path else ""

    sources: list[Sequence | Sound] = []
    for source in job.sources:
        if isinstance(source, Sequence):
            files = turned(source.files, folder=at(source.files.folder))
            before = source.reading.lut
            lut = WithOrigin[str](value=at(before.value), origin=before.origin)
            reading = turned(source.reading, lut=lut)
            sources.append(turned(source, files=files, reading=reading))
        else:
            sources.append(turned(source, path=at(source.path)))
    deliveries = tuple(
        turned(one, folder=at(one.folder), lut=at(one.lut)) for one in job.deliveries
    )
    reel = job.reel
    config = reel.colour.config
    reel = turned(
        reel,
        shots=tuple(turned(one, finish=one.finish.with_files(at)) for one in reel.shots),
        overlays=tuple(turned(one, finish=one.finish.with_files(at)) for one in reel.overlays),
        finish=reel.finish.with_files(at),
        colour=turned(reel.colour, config=config if config.startswith("ocio://") else at(config)),
    )
    return turned(job, sources=tuple(sources), deliveries=deliveries, reel=reel)


def turned(value: V, **fields: object) -> V:
    """A validated copy with these fields; the value itself where it has them already: quicker."""
    if all(getattr(value, name) == field for name, field in fields.items()):
        return value
    return change(value, **fields)


def relative_to(path: str, home: Path) -> str:
    """Relative when it is beside or below the job or up to two folders above, else absolute."""
    relative = os.path.relpath(path, home)
    return path if relative.startswith("../../../") else relative


def absolute_from(path: str, home: Path) -> str:
    if "\0" in path:
        raise JobError("It holds a path with a NUL character.")
    return os.path.normpath(home / path)
