"""`waxseal assemble`: from frames to a sealed file in one step, without a job file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from waxseal.cli.assemble_order import Orders
from waxseal.cli.sound_options import lay_sounds, sounds_found, sounds_words
from waxseal.cli.terminal import DONE, FINDINGS, STOPPED, answer, progress_line, say, stoppable
from waxseal.core.arrive.listing import WHAT_IS_READ
from waxseal.core.arrive.scanning import Scan, scan
from waxseal.core.deliver.format.output_path import file_name, path_of
from waxseal.core.deliver.process.worker_process import EncodingProcess
from waxseal.core.deliver.specs.spec_book import spec_book
from waxseal.core.errors import DeliveryRefused, WrongUse
from waxseal.core.job.edits import (
    add_delivery,
    add_sources,
    change_colourway,
    change_delivery,
    change_reading,
    change_timing,
    join_all,
    make_stack,
    mark,
    put_on_reel,
    set_correction,
    set_counting,
    set_expected,
    set_framing,
    set_ground,
    set_part,
    set_range,
    set_reel_rate,
    set_reel_size,
)
from waxseal.core.job.model import (
    DeliveryState,
    Job,
    Order,
    Outcome,
    Sequence,
)
from waxseal.core.job.pass_groups import leading_pass
from waxseal.core.plan.join_spans import joins_words
from waxseal.core.plan.timeline import Timeline, timeline_of
from waxseal.core.seal.record import read_seal, seal_path
from waxseal.core.text_format import bytes_words, counted, plain
from waxseal.core.timing.ranges import FrameRange, write_frames
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import seconds_words

__all__ = ["run_assemble"]


def run_assemble(orders: Orders, *, as_json: bool) -> int:
    """Returns the exit code. Raises WaxSealError."""
    with stoppable() as token:
        process = EncodingProcess()
        try:
            with progress_line() as report:
                found = scan([orders.path], report=report, token=token)
                for trouble in found.troubles:
                    say(trouble)
                job = job_of(orders, found)
                say(summary(job))
                outcome = process.deliver(
                    job,
                    job.deliveries[0],
                    report=report,
                    token=token,
                    overwrite=orders.overwrite,
                )
        finally:
            process.close()
    for sentence in (*outcome.notes, *outcome.reasons):
        say(sentence)
    path = path_of(job.deliveries[0])
    if as_json:
        timeline = timeline_of(job)
        ranges = {"range": str(timeline.frames), "source_frames": used_frames(timeline)}
        answer(outcome_facts(path, outcome) | ranges)
    elif outcome.state is DeliveryState.SEALED:
        say(f"sealed: {plain(path)}, {bytes_words(outcome.size_bytes)}")
    else:
        say(f"{outcome.state.value}: nothing was written under {plain(path)}")
    if outcome.state is DeliveryState.STOPPED:
        return STOPPED
    if outcome.state is not DeliveryState.SEALED:
        return FINDINGS
    return FINDINGS if has_guess(job, orders) else DONE


def has_guess(job: Job, orders: Orders) -> bool:
    """Whether the rate or the layer is a guess; tells how to say it."""
    if orders.accepts_guesses:
        return False
    guessed = job.guessed_from
    if guessed is not None:
        rate = rate_words(guessed.reading.rate.value)
        say(f"The rate of {rate} is a guess: say --rate, or --accept-guesses where it is right.")
    layered = [one for one in timeline_of(job).used_sequences if one.is_part_guessed]
    for one in layered:
        part = plain(one.reading.part.value)
        say(f"{one.name} shows “{part}”: say --part, or --accept-guesses where it is right.")
    return guessed is not None or bool(layered)


def job_of(orders: Orders, found: Scan) -> Job:
    """A job that holds just this. Raises WrongUse where the folder leaves a choice."""
    sequences = choose_sequences(found, orders.path, quietly=orders.with_passes)
    sounds = sounds_found(found.sources, orders.sounds)
    beside = passes_beside(sequences, found) if orders.with_passes else []
    job = add_sources(Job(name=orders.out.stem), sources=[*sequences, *beside, *sounds])
    for source in job.sequences[: len(sequences)]:
        said: dict[str, object] = {"stand_in": orders.stand_in}
        if orders.rate is not None:
            said["rate"] = orders.rate
        if orders.is_reversed:
            said["order"] = Order.REVERSED
        if orders.colour is not None:
            said |= orders.colour
        if orders.taken_as is not None:
            said["referred"] = orders.taken_as
        if orders.expected is not None and source.kind == "sequence":
            expected = (orders.expected.first, orders.expected.last)
            job = set_expected(job, source=source.id, expected=expected)
            job = set_range(job, source=source.id, wanted=expected)
        if orders.part is not None:
            job = set_part(job, source=source.id, part=orders.part)
        job = put_on_reel(change_reading(job, source=source.id, **said), sources=[source.id])
    for shot in job.reel.shots:
        job = set_framing(job, shot=shot.id, framing=orders.framing)
        job = change_timing(job, of=shot.id, conversion=orders.between)
        for one in orders.looks:
            job = set_correction(job, of=shot.id, correction=one)
    job = join_all(job, join=orders.join)
    job = change_colourway(job, view=orders.view, config=orders.config, white=orders.graphics_white)
    job = set_counting(job, counting=orders.counting)
    if orders.with_passes:
        for source in job.sequences[: len(sequences)]:
            job = make_stack(job, source=source.id)
    job = lay_sounds(job, orders.sounds)
    job = set_ground(job, colour=orders.ground)
    spec = spec_book().named(orders.spec) if orders.spec else None
    shape = spec.pixel_shape if spec is not None else orders.pixel_shape
    seen = orders.size.seen_in(shape) if orders.size is not None else None
    job = set_reel_rate(set_reel_size(job, size=seen), rate=orders.reel_rate)
    if orders.range is not None:
        job = mark_range(job, orders.range)
    if orders.frames is not None:
        job = mark_frames(job, orders.frames)
    folder = str(orders.out.absolute().parent)
    job = add_delivery(job, name=file_name(orders.out.name), folder=folder)
    settings = orders.delivery
    if spec is not None:
        settings = spec.settings(timeline_of(job)) | said_sizes(orders)
    if shape != 1 and orders.size is not None:
        settings = {**settings, "size": orders.size}
    return change_delivery(job, delivery=job.deliveries[0].id, **settings)


def said_sizes(orders: Orders) -> dict[str, object]:
    """What --size and --to-rate said is the reel's: the file is that, whatever a spec prefers."""
    said: dict[str, object] = {}
    if orders.size is not None:
        said["size"] = None
    if orders.reel_rate is not None:
        said["rate"] = None
    return said


def passes_beside(sequences: list[Sequence], found: Scan) -> list[Sequence]:
    """The other passes of the shots that are taken."""
    shots = {one.belongs.shot for one in sequences if one.belongs is not None}
    return [
        one
        for one in found.sources
        if isinstance(one, Sequence)
        and one.belongs is not None
        and one.belongs.shot in shots
        and one not in sequences
    ]


def choose_sequences(found: Scan, path: Path, *, quietly: bool = False) -> list[Sequence]:
    sequences = [
        source for source in found.sources if isinstance(source, Sequence) and source.found.format
    ]
    broken = [
        source
        for source in found.sources
        if isinstance(source, Sequence) and not source.found.format
    ]
    if not sequences and broken:
        raise DeliveryRefused(
            f"None of the {counted(broken[0].files.count, 'frame')} of {broken[0].name} "
            f"can be read: {broken[0].found.findings[0].what}."
        )
    if not sequences:
        raise WrongUse(f"There are no frames in {plain(path)}: {WHAT_IS_READ}.", path=path)
    moving = [source for source in sequences if source.kind != "still"] or sequences
    passes = [one for one in moving if leading_pass(one, moving) != one]
    if passes:
        names = ", ".join(one.name for one in passes)
        if not quietly:
            say(f"Other passes of the same shots are left out: {names}.")
        moving = [one for one in moving if one not in passes]
    if len({source.shown_size for source in moving}) > 1:
        listed = ", ".join(f"{plain(one.files.pattern)} ({one.shown_size})" for one in moving)
        raise WrongUse(
            f"{plain(path)} holds sequences of different sizes: {listed}. "
            "Give one of them: the path of one of its frames will do.",
            path=path,
        )
    return moving


def mark_range(job: Job, frames: FrameRange) -> Job:
    length = timeline_of(job).length
    if frames.first < 1 or frames.last > length:
        raise WrongUse(f"The reel has frames 1 to {length}: --range {frames} is outside it.")
    return mark(job, first=frames.first, last=frames.last)


def mark_frames(job: Job, frames: FrameRange) -> Job:
    """Mark what shows a range in the files' own numbers."""
    parts = timeline_of(job).shots
    if len(parts) > 1:
        raise WrongUse("--frames is for one sequence: use --range, or give one of them.")
    there = parts[0].sequence.range
    if frames.first not in there or frames.last not in there:
        raise WrongUse(f"The files have frames {there}: --frames {frames} is outside them.")
    shown = parts[0].span_of(frames)
    if shown is None:
        raise WrongUse(f"At this rate no frame of --frames {frames} is shown: choose more.")
    return mark(job, first=shown.first, last=shown.last)


def used_frames(timeline: Timeline) -> dict[str, str]:
    """The files' own numbers that the result is made of, by their pattern."""
    marked = timeline.frames
    return {
        plain(part.sequence.files.pattern): (
            str(part.sequence.range)  # asked about first: its frames may be millions
            if part.sequence.is_sparse
            else write_frames(part.frames_asked(marked.first, marked.last))
        )
        for part in timeline.shots
        if part.first <= marked.last and part.last >= marked.first
    }


def summary(job: Job) -> str:
    """What is made of what, in a line: sources, size, length, sound."""
    timeline = timeline_of(job)
    used = used_frames(timeline)
    sources = ", ".join(
        f"{plain(source.files.pattern)} {used.get(plain(source.files.pattern), source.range)} "
        f"at {rate_words(source.reading.rate.value)}"
        for source in job.sequences
    )
    if timeline.frames.count < timeline.length:
        sources += f" (frames {timeline.frames} of the reel)"
    count, rate = timeline.frames.count, timeline.rate
    length = f"{seconds_words(count, rate)} at {rate_words(rate)}"
    joins = "".join(f", {words}" for words in joins_words(timeline.joins_in(timeline.frames)))
    made = f"{timeline.size}, {counted(count, 'frame')}, {length}{joins}{sounds_words(job)}"
    return f"{sources} → {made}"


def outcome_facts(path: Path, outcome: Outcome) -> dict[str, Any]:
    """The keys that scripts rely on; null where there is no file."""
    is_sealed = outcome.state is DeliveryState.SEALED
    record = (read_seal(path) or {}) if is_sealed else {}
    facts = {
        key: record.get(key)
        for key in ("frames", "rate", "size", "seconds", "codec", "bytes", "sha256")
    }
    return {
        "file": plain(path),
        "state": outcome.state.value,
        "reasons": list(outcome.reasons),
        "notes": list(outcome.notes),
        **facts,
        "seal": plain(seal_path(path)) if is_sealed else None,
        "segments": {"made": outcome.segments_made, "kept": outcome.segments_kept},
    }
