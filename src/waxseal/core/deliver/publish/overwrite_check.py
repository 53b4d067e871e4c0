"""Whether a file may be replaced without a question: only by the delivery that made it."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.publish.target_record import TargetRecord
from waxseal.core.job.model import Delivery, Job
from waxseal.core.progress import CancelToken
from waxseal.core.seal.measure.file_facts import checksum
from waxseal.core.seal.measure.measure_frames import checksum_of_folder

__all__ = ["hand_on", "is_own_work", "owner_of"]


def owner_of(delivery: Delivery, origin: str) -> str:
    """A delivery's name in the records of targets; empty if nobody says where it comes from.

    origin: the job's file, or the window that has it open.
    """
    return f"{origin}#{delivery.id}" if origin else ""


def is_own_work(path: Path, owner: str | None, token: CancelToken) -> bool:
    """Whether a file or folder is, byte for byte, what its owner made here. Raises Cancelled.

    owner: None for whatever this user's program made. What the file is compared with comes from
    this user's own records (`target_record`), never from a job or a seal: those may be foreign.
    """
    known = TargetRecord(path).made
    if known is None or owner == "" or owner not in (None, known.owner):
        return False
    try:
        return (checksum_of_folder if path.is_dir() else checksum)(path, token) == known.sha256
    except OSError:
        return False


def hand_on(job: Job, *, before: str, after: str) -> None:
    """A job has another origin from now on: what it made stays its own. Never raises."""
    for one in job.deliveries:
        with suppress(OSError):
            record = TargetRecord(path_of(one))
            record.hand_on(owner_of(one, before), owner_of(one, after))
