"""Which deliveries are being made, noted down: what a crash interrupts is offered again."""

from __future__ import annotations

import json
from collections.abc import Iterable
from contextlib import suppress
from pathlib import Path

from waxseal.core.atomic_write import write_safely
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.folders import running_folder
from waxseal.core.foreign_text import ForeignTextError, parse_json, read_foreign
from waxseal.core.job.model import Delivery, Job
from waxseal.core.private_folder import is_private, private_folder
from waxseal.core.process_identity import is_alive, is_process_name, process_name

__all__ = ["note_running", "take_interrupted"]

LARGEST_BYTES = 1 << 20


def note_running(deliveries: Iterable[Delivery]) -> None:
    """Those that this process makes or is to make; none at its end. Never raises."""
    paths = [str(path_of(one)) for one in deliveries]
    own = running_folder() / f"{process_name()}.json"
    with suppress(OSError):
        if paths:
            private_folder(own.parent)
            write_safely(own, json.dumps(paths).encode())
        else:
            own.unlink(missing_ok=True)


def take_interrupted(job: Job) -> tuple[Delivery, ...]:
    """The deliveries of a job that a process was making which is gone. Each is told once."""
    found: list[Delivery] = []
    by_path = {str(path_of(one)): one for one in job.deliveries}
    if not is_private(running_folder()):
        return ()
    with suppress(OSError):
        for file in sorted(running_folder().glob("*.json")):
            if not is_process_name(file.stem) or is_alive(file.stem):
                continue
            paths = paths_in(file)
            if paths & by_path.keys():
                found += [one for path, one in by_path.items() if path in paths]
                file.unlink(missing_ok=True)
    return tuple(found)


def paths_in(file: Path) -> set[str]:
    try:
        paths = parse_json(read_foreign(file, LARGEST_BYTES))
    except (OSError, ForeignTextError):
        return set()
    return {one for one in paths if isinstance(one, str)} if isinstance(paths, list) else set()
