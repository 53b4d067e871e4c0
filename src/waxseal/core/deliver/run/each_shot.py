"""Every shot as a file of its own."""

from __future__ import annotations

from collections.abc import Iterator

from waxseal.core.deliver.format.output_path import stem_of
from waxseal.core.deliver.specs.name_pattern import fill
from waxseal.core.job.model import Delivery, Job, change
from waxseal.core.plan.timeline import Timeline, timeline_of

__all__ = ["each_shot", "split_by_shot"]


def each_shot(timeline: Timeline, delivery: Delivery, **changed: object) -> Iterator[Delivery]:
    """A delivery for each shot, named after it; two of one source by their number."""
    names = [part.sequence.name for part in timeline.shots]
    for number, part in enumerate(timeline.shots):
        span, name = timeline.span(number), part.sequence.name
        shot = name if names.count(name) == 1 else f"{name}_{names[: number + 1].count(name)}"
        yield change(
            delivery,
            **changed,
            id=f"{delivery.id}s{number + 1}",
            name=fill("{job}_{shot}", job=stem_of(delivery.name), shot=shot),
            range=(span.first, span.last),
            outcome=None,
        )


def split_by_shot(job: Job, *, delivery: str) -> Job:
    """Put a delivery for each shot where one for all of them was. Raises JobError."""
    whole = job.delivery(delivery)
    made: list[Delivery] = []
    for one in job.deliveries:
        made += each_shot(timeline_of(job), whole) if one.id == delivery else (one,)
    return change(job, deliveries=tuple(made))
