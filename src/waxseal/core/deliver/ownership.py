"""Whose file lies there: a delivery is made again over what it sealed itself, and nothing else."""

from __future__ import annotations

from waxseal.core.deliver.naming import path_of
from waxseal.core.job.model import Delivery
from waxseal.core.progress import CancelToken
from waxseal.core.seal.measure.facts import checksum
from waxseal.core.seal.measure.frames import checksum_of_folder

__all__ = ["may_replace"]


def may_replace(delivery: Delivery, token: CancelToken, *, overwrite: bool) -> bool:
    """Whether what has its name now may go. Raises Cancelled.

    overwrite: somebody said so. Without that it has to be, byte for byte, what this
    delivery sealed last.
    """
    if overwrite or not delivery.own:
        return overwrite
    path = path_of(delivery)
    try:
        found = (checksum_of_folder if path.is_dir() else checksum)(path, token)
    except OSError:
        return False
    return found == delivery.own
