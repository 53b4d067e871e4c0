"""Whether a delivery has to be made again, or what it made is there, sealed, and up to date."""

from __future__ import annotations

from pathlib import Path

from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.queue.delivery_queue import ChangesSince, changed_since
from waxseal.core.job.model import Delivery, DeliveryState
from waxseal.core.progress import CancelToken
from waxseal.core.seal.measure.file_facts import checksum
from waxseal.core.seal.measure.measure_frames import checksum_of_folder
from waxseal.core.seal.record import DIGEST, read_seal, record_digest

__all__ = ["is_as_sealed", "is_still_sealed"]


def is_still_sealed(
    delivery: Delivery, *, reel_key: str, film_key: str, token: CancelToken
) -> bool:
    """Whether its file was sealed from the reel, the frames and its settings as they are now.

    The file itself is read: another one may lie under its name. Raises Cancelled.
    """
    outcome = delivery.outcome
    if outcome is None or outcome.state is not DeliveryState.SEALED:
        return False
    since = changed_since(delivery, outcome, reel_key=reel_key, film_key=film_key)
    return since is ChangesSince.NOTHING and is_as_sealed(path_of(delivery), outcome.sha256, token)


def is_as_sealed(path: Path, sha256: str, token: CancelToken) -> bool:
    """Whether a file or folder has this digest, by its bytes and by its seal. Raises Cancelled."""
    record = read_seal(path) or {}
    if record.get("sha256") != sha256 or record.get(DIGEST) != record_digest(record):
        return False
    try:
        return (checksum_of_folder if path.is_dir() else checksum)(path, token) == sha256
    except OSError:
        return False
