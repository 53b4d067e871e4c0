"""Deliveries as a spec wants them, and what is not so of a delivery or a file."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from pathlib import Path

from waxseal.core.deliver.format.output_path import stem_of
from waxseal.core.deliver.specs.name_pattern import fill
from waxseal.core.deliver.specs.spec import KEYS, Spec
from waxseal.core.deliver.specs.spec_key import Ordered, Written
from waxseal.core.errors import JobError
from waxseal.core.job.edits import add_delivery, change_delivery
from waxseal.core.job.model import Delivery, Job, make
from waxseal.core.plan.timeline import Timeline, timeline_of
from waxseal.core.seal.measure.file_facts import Measured
from waxseal.core.timing.rates import rate_words

__all__ = ["add_as", "file_troubles", "spec_from", "spec_troubles"]


MOST_VERSIONS = 1000


def add_as(job: Job, spec: Spec, *, folder: str, day: str = "") -> Job:
    """One more delivery, as a spec wants it. day: what {date} says. Raises JobError."""
    timeline = timeline_or_none(job)
    settings = spec.settings(timeline)
    size = settings["size"] or (timeline.size if timeline else None)
    rate = settings["rate"] or (timeline.rate if timeline else None)
    length = timeline.frames if timeline else None
    named = partial(
        fill,
        spec.naming,
        job=job.name,
        spec=spec.name,
        size=f"{size.width}x{size.height}" if size else "",
        rate=rate_words(rate) if rate else "",
        first=str(length.first) if length else "",
        last=str(length.last) if length else "",
        date=day,
    )
    name = named()
    if "{version}" in spec.naming:
        taken = taken_names(job, folder)
        versions = (named(version=f"v{number:03}") for number in range(1, MOST_VERSIONS))
        name = next((one for one in versions if one not in taken), name)
    job = add_delivery(job, name=free_name(job, name, folder), folder=folder)
    return change_delivery(job, delivery=job.deliveries[-1].id, **settings)


def taken_names(job: Job, folder: str) -> set[str]:
    """Names of deliveries of the job, and of whatever is in their folder, without suffixes."""
    taken = {stem_of(one.name) for one in job.deliveries if one.folder == folder}
    try:
        there = [one.name for one in Path(folder).iterdir()] if folder else []
    except OSError:
        there = []
    return taken | {stem_of(one) for one in there}


def timeline_or_none(job: Job) -> Timeline | None:
    try:
        return timeline_of(job)
    except JobError:
        return None


def spec_from(delivery: Delivery, name: str) -> Spec:
    """The settings of a delivery as a spec. Raises JobError."""
    if not name.strip():
        raise JobError("The spec has no name: give it one.")
    values = {
        key: one.taken(delivery) if one.taken else getattr(delivery, one.sets)
        for key, one in KEYS.items()
        if one.taken or one.sets
    }
    return make(Spec, name=name.strip(), **values)


def free_name(job: Job, name: str, folder: str) -> str:
    """Another number where a delivery of the job has the name already."""
    taken = {one.name for one in job.deliveries if one.folder == folder}
    number, free = 2, name
    while free in taken:
        free, number = f"{name}_{number}", number + 1
    return free


def spec_troubles(spec: Spec, timeline: Timeline, delivery: Delivery) -> Iterator[str]:
    """Where a delivery is not as its spec wants it, in sentences. Raises JobError."""
    ordered = Ordered(spec, timeline, delivery)
    for key in KEYS.values():
        yield from key.order(ordered)


def file_troubles(spec: Spec, measured: Measured, suffix: str) -> Iterator[str]:
    """What a spec does not take of a file, in sentences. What cannot be looked at is said too.

    suffix: of its name; empty for a folder of frames.
    """
    written = Written(spec, measured, suffix)
    for key in KEYS.values():
        yield from key.file(written)
