"""The outbox."""

from __future__ import annotations

from waxseal.core.job.edits.edit_tools import free_ids, replace_part
from waxseal.core.job.model import Delivery, Job, Outcome, change, make

__all__ = ["add_delivery", "change_delivery", "move_delivery", "record_outcome", "remove_delivery"]


def add_delivery(job: Job, *, name: str, folder: str) -> Job:
    fresh = next(free_ids("d", [one.id for one in job.deliveries]))
    delivery = make(Delivery, id=fresh, name=name, folder=folder)
    return change(job, deliveries=(*job.deliveries, delivery))


def change_delivery(job: Job, *, delivery: str, **fields: object) -> Job:
    """Other settings for a delivery; what was made before stays on record."""
    return change(
        job, deliveries=replace_part(job.deliveries, change(job.delivery(delivery), **fields))
    )


def move_delivery(job: Job, *, delivery: str, to: int) -> Job:
    """Give a delivery another place, counted from 0: they are made in this order."""
    moved = job.delivery(delivery)
    others = [one for one in job.deliveries if one.id != delivery]
    others.insert(max(0, min(to, len(others))), moved)
    return change(job, deliveries=tuple(others))


def record_outcome(job: Job, *, delivery: str, outcome: Outcome) -> Job:
    """Note how a try ended."""
    return change_delivery(job, delivery=delivery, outcome=outcome)


def remove_delivery(job: Job, *, delivery: str) -> Job:
    """Take a delivery out of the outbox; a file that was made stays where it is."""
    job.delivery(delivery)
    return change(job, deliveries=tuple(one for one in job.deliveries if one.id != delivery))
