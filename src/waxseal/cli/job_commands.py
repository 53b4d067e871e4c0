"""`waxseal new`, `show`, `deliver`: job files without a window."""

from __future__ import annotations

import os
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from fractions import Fraction
from functools import reduce
from pathlib import Path
from typing import Any

from waxseal.cli.assemble import outcome_facts
from waxseal.cli.sound_options import SoundOrders, lay_sounds, sound_facts, sounds_found
from waxseal.cli.terminal import (
    DONE,
    FINDINGS,
    STOPPED,
    answer,
    progress_line,
    say,
    stoppable,
    tell,
)
from waxseal.cli.when_complete import wait_for_frames
from waxseal.core.arrive.listing import WHAT_IS_READ
from waxseal.core.arrive.new_versions import older_words
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.format.delivery_settings import film_keys, reel_key_of
from waxseal.core.deliver.format.output_path import keys_of, path_of
from waxseal.core.deliver.match import Row, State, match
from waxseal.core.deliver.process.worker_messages import Before
from waxseal.core.deliver.process.worker_process import EncodingProcess
from waxseal.core.deliver.queue.still_sealed import is_still_sealed
from waxseal.core.deliver.run.each_shot import each_shot
from waxseal.core.deliver.specs.apply_spec import add_as
from waxseal.core.deliver.specs.spec_book import spec_book
from waxseal.core.errors import JobError, WaxSealError, WrongUse
from waxseal.core.job.edits import (
    change_delivery,
    change_reading,
    join_all,
    make_stack,
    record_outcome,
    set_reel_size,
    take_in,
)
from waxseal.core.job.job_file import load, save
from waxseal.core.job.model import (
    Delivery,
    DeliveryState,
    Job,
    Join,
    Outcome,
    Sequence,
    Size,
    change,
)
from waxseal.core.plan.join_spans import joins_words
from waxseal.core.plan.programme import Programme, programme
from waxseal.core.plan.timeline import Timeline, timeline_of
from waxseal.core.progress import CancelToken, Report
from waxseal.core.text_format import bytes_words, counted, plain
from waxseal.core.timing.ranges import FrameRange
from waxseal.core.timing.rates import rate_words, write_rate
from waxseal.core.timing.timecode import seconds_words

__all__ = ["DeliverWishes", "NewWishes", "run_deliver", "run_new", "run_show"]

SUFFIX = ".waxseal"


# ---- new -------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class NewWishes:
    """specs: names of the book, a delivery each; none: one H.264."""

    rate: Fraction | None
    size: Size | None
    join: Join
    specs: tuple[str, ...]
    with_passes: bool
    sounds: SoundOrders
    overwrite: bool


def run_new(path: Path, sources: list[Path], wishes: NewWishes, *, as_json: bool) -> int:
    """Returns the exit code. Raises WaxSealError."""
    path = path if path.suffix == SUFFIX else path.with_name(f"{path.name}{SUFFIX}")
    if path.exists() and not wishes.overwrite:
        raise WrongUse(f"{plain(path.name)} is there already: choose another name, or --overwrite.")
    book = spec_book()
    specs = [book.named(name) for name in wishes.specs]
    folder = str(path.absolute().parent)
    with stoppable() as token, progress_line() as report:
        found = scan(sources, report=report, token=token)
    for trouble in found.troubles:
        say(trouble)
    frames = [one for one in found.sources if isinstance(one, Sequence)]
    heard = sounds_found(found.sources, wishes.sounds)
    job = take_in(Job(name=path.stem), sources=[*frames, *heard], folder=folder)
    if not job.reel.shots:
        names = ", ".join(plain(one) for one in sources)
        raise WrongUse(f"There are no frames in {names}: {WHAT_IS_READ}.")
    if wishes.rate is not None:
        for source in job.sequences:
            if source.kind == "sequence":
                job = change_reading(job, source=source.id, rate=wishes.rate)
    if wishes.with_passes:
        for shot in job.reel.shots:
            source = job.sequence(shot.source)
            if source.belongs is not None and source.stack is None:
                job = make_stack(job, source=source.id)
    job = lay_sounds(job, wishes.sounds)
    job = join_all(set_reel_size(job, size=wishes.size), join=wishes.join)
    if specs:
        job = change(job, deliveries=())
        for spec in specs:
            job = add_as(job, spec, folder=folder, day=str(datetime.now().astimezone().date()))
    save(job, path)
    older = older_words(job, [one.id for one in job.sequences])
    if older:
        say(older)
    return tell_job(job, path, as_json=as_json)


# ---- show ------------------------------------------------------------------------------------


def run_show(path: Path, *, as_json: bool, with_prediction: bool = False) -> int:
    """Returns the exit code: findings where something is lost or needs a decision."""
    job = load(path)
    predictions = {}
    if with_prediction:
        with stoppable() as token, progress_line() as report:
            for one in job.deliveries:
                predictions[one.id] = EncodingProcess().deliver(
                    job, one, report=report, token=token, before=Before.PREDICT
                )
    return tell_job(job, path, as_json=as_json, predictions=predictions)


def tell_job(
    job: Job, path: Path, *, as_json: bool, predictions: dict[str, Outcome] | None = None
) -> int:
    """predictions: of deliveries by their ids, where they were asked for."""
    predictions = predictions or {}
    planned = programme(job)
    timeline = planned.timeline
    tables = {one.id: rows_or_why(planned, one) for one in job.deliveries}
    if as_json:
        facts = job_facts(job, timeline, tables)
        for one, fact in zip(job.deliveries, facts["deliveries"], strict=True):
            if one.id in predictions:
                fact["predicted"] = prediction_facts(predictions[one.id])
        answer(facts)
    else:
        tell(*job_lines(job, path, timeline, tables, predictions))
    states = {row.state for rows in tables.values() for row in rows}
    return FINDINGS if states & {State.DECIDE, State.LOST} else DONE


def rows_or_why(planned: Programme, delivery: Delivery) -> tuple[Row, ...]:
    """The match table; where the settings make no file, one row that says why."""
    try:
        return match(planned, delivery)
    except JobError as error:
        return (Row("settings", "", "", "", str(error), State.DECIDE),)


def job_facts(job: Job, timeline: Timeline, tables: dict[str, tuple[Row, ...]]) -> dict[str, Any]:
    """The keys that scripts rely on."""
    return {
        "name": job.name,
        "reel": {
            "frames": timeline.length,
            "rate": write_rate(timeline.rate),
            "size": [timeline.size.width, timeline.size.height],
            "seconds": round(float(timeline.length / timeline.rate), 6),
        },
        "joins": [
            {
                "shot": number,  # joined to the one before
                "kind": one.join.kind.value,
                "frames": one.length,
                "colour": one.join.colour if one.style.has_colour else None,
            }
            for number, one in enumerate(timeline.joins, 1)
            if one is not None
        ],
        "sounds": list(sound_facts(timeline)),
        "deliveries": [
            {
                "name": one.name,
                "spec": one.spec or None,
                "file": plain(path_of(one)),
                "state": (one.outcome.state if one.outcome else DeliveryState.DRAFT).value,
                "match": [
                    {
                        "what": row.what,
                        "sources": row.sources,
                        "reel": row.reel,
                        "file": row.file,
                        "done": row.done,
                        "state": row.state.value,
                    }
                    for row in tables[one.id]
                ],
            }
            for one in job.deliveries
        ],
    }


def prediction_facts(found: Outcome) -> dict[str, object]:
    if found.state is not DeliveryState.DRAFT:
        return {"bytes": None, "seconds": None, "reasons": list(found.reasons)}
    return {"bytes": found.size_bytes, "seconds": found.seconds}


def job_lines(
    job: Job,
    path: Path,
    timeline: Timeline,
    tables: dict[str, tuple[Row, ...]],
    predictions: dict[str, Outcome],
) -> Iterator[str]:
    length = seconds_words(timeline.length, timeline.rate)
    joins = "".join(f", {words}" for words in joins_words(filter(None, timeline.joins)))
    yield f"{job.name}  ({plain(path.name)})"
    yield (
        f"reel: {counted(len(timeline.shots), 'shot')}, {counted(timeline.length, 'frame')} "
        f"at {rate_words(timeline.rate)}, {length}, {timeline.size}{joins}"
    )
    for one in job.deliveries:
        yield ""
        state = (one.outcome.state if one.outcome else DeliveryState.DRAFT).value
        spec = f", {one.spec}" if one.spec else ""
        yield f"{plain(path_of(one).name)}{spec}, {state}"
        for row in tables[one.id]:
            sides = " → ".join(side for side in (row.sources, row.reel, row.file) if side)
            done = f"  ({row.done})" if row.done else ""
            mark = {State.DECIDE: "?", State.LOST: "!"}.get(row.state, " ")
            yield f" {mark} {row.what:<12} {sides}{done}"
        if one.id in predictions:
            found = predictions[one.id]
            yield f"   {'predicted':<12} {' '.join((*found.notes, *found.reasons))}"


# ---- deliver ---------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class DeliverWishes:
    """only: names of deliveries; none for all. out: another folder. is_fresh: again.

    workers, cluster: see Who. when_complete: wait until every frame is there.
    """

    only: tuple[str, ...]
    out: Path | None
    range: FrameRange | None
    each_shot: bool
    is_fresh: bool
    overwrite: bool
    workers: int = 0
    cluster: str = ""
    when_complete: bool = False


def run_deliver(path: Path, wishes: DeliverWishes, *, as_json: bool) -> int:
    """Make what is in the outbox, one after the other. Returns the exit code."""
    job, origin = load(path), os.path.realpath(path)
    if wishes.out is not None:
        make_folder(wishes.out)
    wanted = list(wanted_of(job, wishes))
    made: list[tuple[Delivery, Outcome]] = []
    troubles: list[str] = []
    with stoppable() as token, progress_line() as report:
        if wishes.when_complete:
            job = wait_for_frames(job, wanted, token)
            wanted = list(wanted_of(job, wishes))
        sealed = [] if wishes.is_fresh else [one for one in wanted if is_made(job, one, token)]
        for place, delivery in enumerate(wanted):
            if token.is_cancelled:
                break
            outcome = delivery.outcome if delivery in sealed else None
            if outcome is not None:
                say(f"{path_of(delivery).name} is sealed already.")
                made.append((delivery, outcome))
                continue
            say(f"{path_of(delivery).name}:")
            try:
                left = [one for one in wanted[place:] if one not in sealed]
                outcome = encode_one(job, left, report, token, wishes, origin)
            except WaxSealError as error:  # its process is gone: the others are made all the same
                outcome = Outcome(state=DeliveryState.REFUSED, reasons=(str(error),))
            for sentence in (*outcome.notes, *outcome.reasons):
                say(f"  {sentence}")
            say(f"  {outcome.state.value}{size_words(outcome.size_bytes)}")
            made.append((delivery, outcome))
            if delivery.id in {one.id for one in job.deliveries}:
                troubles += keep_outcome(path, delivery, outcome)
    for trouble in troubles:
        say(trouble)
    if as_json:
        facts = [outcome_facts(path_of(one), outcome) for one, outcome in made]
        answer({"deliveries": facts, **({"troubles": troubles} if troubles else {})})
    states = {outcome.state for _, outcome in made}
    if DeliveryState.STOPPED in states or len(made) < len(wanted):
        return STOPPED
    return DONE if states <= {DeliveryState.SEALED} and not troubles else FINDINGS


def make_folder(folder: Path) -> None:
    """Make the folder that deliveries go to. Raises WrongUse."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise WrongUse(f"The folder {folder} cannot be made: {error.strerror}.") from None


def keep_outcome(path: Path, delivery: Delivery, outcome: Outcome) -> Iterator[str]:
    """Write how it ended into the job as it is now: somebody may have saved it meanwhile.

    Yields a sentence where that is not possible. What was made stays made.
    """
    try:
        job = load(path)
        if any(one.id == delivery.id for one in job.deliveries):
            save(record_outcome(job, delivery=delivery.id, outcome=outcome), path)
    except JobError as error:
        yield (
            f"{path_of(delivery).name} is {outcome.state.value}, but that could not be noted in "
            f"the job. {error}"
        )


def size_words(size_bytes: int) -> str:
    return f", {bytes_words(size_bytes)}" if size_bytes else ""


def encode_one(
    job: Job,
    left: list[Delivery],
    report: Report,
    token: CancelToken,
    wishes: DeliverWishes,
    origin: str,
) -> Outcome:
    """left: the delivery, and those that are made after it. origin: the job's file."""
    delivery, *after = left
    job = reduce(with_delivery, left, job)
    return EncodingProcess().deliver(
        *(job, delivery),
        # What another process kept is not taken when all is to be made afresh.
        beside=[] if wishes.is_fresh else [one.id for one in after],
        report=report,
        token=token,
        overwrite=wishes.overwrite,
        who={
            "workers": wishes.workers,
            "cluster": wishes.cluster,
            "is_fresh": wishes.is_fresh,
        },
        origin=origin,
    )


def wanted_of(job: Job, wishes: DeliverWishes) -> Iterator[Delivery]:
    """The deliveries that are meant, as they are to be made. Raises WrongUse, JobError."""
    timeline = timeline_of(job)
    names = {name.casefold(): name for name in wishes.only}
    there = {key for one in job.deliveries for key in keys_of(one)}
    unknown = [name for key, name in names.items() if key not in there]
    if unknown:
        known = ", ".join(plain(one.name) for one in job.deliveries)
        raise WrongUse(f"There is no delivery “{unknown[0]}” in this job: choose one of {known}.")
    if not job.deliveries:
        raise WrongUse("The outbox is empty: put a delivery into it.")
    for one in job.deliveries:
        if names and not names.keys() & keys_of(one):
            continue
        changed: dict[str, object] = {}
        if wishes.out is not None:
            changed["folder"] = str(wishes.out.absolute())
        if wishes.range is not None:
            changed["range"] = (wishes.range.first, wishes.range.last)
        if wishes.each_shot:
            yield from each_shot(timeline, one, **changed)
        else:
            yield change(one, **changed) if changed else one


def with_delivery(job: Job, delivery: Delivery) -> Job:
    """The job with a delivery as it is to be made."""
    if any(one.id == delivery.id for one in job.deliveries):
        fields = {name: getattr(delivery, name) for name in ("folder", "range")}
        return change_delivery(job, delivery=delivery.id, **fields)
    return change(job, deliveries=(*job.deliveries, delivery))


def is_made(job: Job, delivery: Delivery, token: CancelToken) -> bool:
    """Whether nothing has changed since it was sealed. Raises Cancelled."""
    if delivery.outcome is None:
        return False
    planned = programme(job)
    key = film_keys(planned, [delivery])[delivery.id]
    return is_still_sealed(
        delivery, reel_key=reel_key_of(planned, delivery), film_key=key, token=token
    )
