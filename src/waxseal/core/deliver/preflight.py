"""What is looked at before a delivery starts: better refused now than in an hour."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from os.path import realpath  # Path.resolve falls over a circle of links
from pathlib import Path

from waxseal.core.deliver.codecs import Codec, codec_named
from waxseal.core.deliver.containers import CONTAINERS, Container
from waxseal.core.deliver.form import Form
from waxseal.core.deliver.handover import name_trouble
from waxseal.core.deliver.naming import container_of, path_of
from waxseal.core.deliver.settings import bytes_of, form_of, frames_of
from waxseal.core.deliver.specs.book import spec_book
from waxseal.core.deliver.specs.ordering import spec_troubles
from waxseal.core.errors import (
    DeliveryRefused,
    JobError,
    SoundError,
    UnreadableInput,
    WrongUse,
)
from waxseal.core.filenames import MOVIE_SUFFIXES
from waxseal.core.job.misfits import Misfit, misfits
from waxseal.core.job.model import Delivery, Job, Sequence
from waxseal.core.plan.programme import Programme, programme
from waxseal.core.plan.timeline import Timeline
from waxseal.core.seal.flashes import is_judged
from waxseal.core.seal.signing import load_signer
from waxseal.core.timing.entry import parse_frames
from waxseal.core.timing.ranges import FrameRange, write_frames
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import Counting, to_timecode
from waxseal.core.words import bytes_words, counted, plain

__all__ = ["flash_trouble", "missing_sentence", "preflight"]


def preflight(job: Job, delivery: Delivery, *, may_replace: bool = False) -> Programme:
    """Check what can be checked before. Raises DeliveryRefused with every reason at once.

    may_replace: whether what has the delivery's name already may go.
    """
    try:
        planned = programme(job)
        codec, path = codec_named(delivery.codec), path_of(delivery)
        container = container_of(delivery)
    except JobError as error:
        raise DeliveryRefused(str(error)) from None
    timeline = planned.timeline
    try:
        frames = frames_of(timeline, delivery)
    except JobError as error:
        raise DeliveryRefused(str(error)) from None
    form, sound_reason = form_or_reason(timeline, delivery)
    reasons = [
        *folder_reasons(path.parent),
        *missing_reasons(planned, frames),
        *coding_reasons(timeline, delivery, codec, container),
        *colour_reasons(timeline, delivery, codec),
        *sound_reason,
        *spec_reasons(timeline, delivery),
        *key_reasons(),
    ]
    if form is not None and path.parent.is_dir():
        reasons += name_reasons(job, delivery, form, may_replace=may_replace)
        reasons += sound_reasons(form)
    if not reasons:
        reasons += space_reasons(timeline, delivery)
    if reasons:
        raise DeliveryRefused(*reasons, path=path)
    return planned


def spec_reasons(timeline: Timeline, delivery: Delivery) -> list[str]:
    """What the destination does not take. A spec that is not there any more cannot be kept to."""
    if not delivery.spec:
        return []
    try:
        return list(spec_troubles(spec_book().named(delivery.spec), timeline, delivery))
    except JobError as error:
        return [str(error)]


def coding_reasons(
    timeline: Timeline, delivery: Delivery, codec: Codec, container: Container
) -> list[str]:
    """Why the codec or the container cannot take what it would be given."""
    troubles = (
        codec.size_trouble(delivery.size or timeline.size),
        codec.quality_trouble(delivery.quality),
        codec.alpha_trouble(delivery.alpha, container.name),
        container.rate_trouble(delivery.rate or timeline.rate),
        container.mastering_trouble(delivery.mastering, delivery.space),
        timecode_trouble(timeline, delivery, container),
        flash_trouble(delivery),
    )
    return [one for one in troubles if one]


def flash_trouble(delivery: Delivery) -> str:
    """Why flashes cannot be refused in a delivery; empty where they can, or need not."""
    if not delivery.no_flashes or is_judged(delivery.space):
        return ""
    return (
        f"Flashes cannot be judged in {delivery.space}: the limits are for a standard range. "
        "Choose another colour, or do not have flashes refused."
    )


def timecode_trouble(timeline: Timeline, delivery: Delivery, container: Container) -> str:
    """Why a file cannot begin with a timecode; empty where it can, or need not."""
    text = delivery.timecode
    if not text:
        return ""
    if not container.has_timecode:
        return f"{container.name} carries no timecode: leave it out."
    rate = delivery.rate or timeline.rate
    try:
        frame = parse_frames(text, rate)
    except WrongUse as error:
        return str(error)
    counting = Counting.DROP if ";" in text else Counting.NON_DROP
    if to_timecode(frame, rate, counting) != text:
        return f"There is no timecode {text} at {rate_words(rate)} fps: choose another."
    return ""


def form_or_reason(timeline: Timeline, delivery: Delivery) -> tuple[Form | None, list[str]]:
    try:
        return form_of(timeline, delivery), []
    except (JobError, SoundError) as error:
        return None, [str(error)]


def key_reasons() -> list[str]:
    """Why the finished file could not be signed, where it would have to be."""
    try:
        load_signer()
    except UnreadableInput as error:
        return [str(error)]
    return []


def folder_reasons(folder: Path) -> list[str]:
    if not folder.is_dir():
        return [f"The folder {plain(folder)} does not exist: make it, or choose another."]
    if not os.access(folder, os.W_OK | os.X_OK):
        return [f"Nothing can be written into {plain(folder)}: choose another folder."]
    return []


def name_reasons(job: Job, delivery: Delivery, form: Form, *, may_replace: bool) -> list[str]:
    """Why the finished file could not get its name."""
    path = form.path
    container = CONTAINERS[form.container]
    too_much = name_trouble(path) or suffix_trouble(delivery.name, container)
    if too_much:
        return [too_much]
    if container.is_folder:
        if realpath(path) in {realpath(one.files.folder) for one in job.sequences}:
            return [f"{plain(path.name)} holds frames of a source, which are never written to."]
    elif not path.is_dir() and is_source(job, path):
        return [f"{plain(path.name)} is one of the sources, which are never written to."]
    trouble = container.path_trouble(path, form, overwrite=may_replace)
    return [trouble] if trouble else []


def suffix_trouble(name: str, container: Container) -> str:
    """A name that asks for a container that this is not; empty where it does not."""
    stem, dot, asked = name.rpartition(".")
    suffix = f"{dot}{asked.lower()}"
    if not stem or suffix not in MOVIE_SUFFIXES or suffix == container.suffix:
        return ""
    return (
        f"{plain(name)}: this delivery goes into {container.name}, not {asked.upper()}. "
        f"Call it {plain(stem)}{container.suffix}."
    )


def is_source(job: Job, path: Path) -> bool:
    """Whether a source is (or is hidden behind a link to) this very file."""
    target = realpath(path)
    folder, name = os.path.split(target)
    return any(realpath(sound.path) == target for sound in job.sounds) or any(
        realpath(sequence.files.folder) == folder
        and any(
            sequence.files.name_of(frame) == name
            for first, last in sequence.files.runs
            for frame in range(first, last + 1)
        )
        for sequence in job.sequences
    )


def missing_reasons(planned: Programme, frames: FrameRange) -> list[str]:
    """One sentence for each source with frames that are not there and may not be stood in for."""
    odd = misfits(planned.timeline.job)
    return [
        missing_sentence(missing.sequence, missing.frames, odd.get(missing.sequence.id))
        for missing in planned.missing(frames)
        if not missing.is_stood_in
    ]


def missing_sentence(
    sequence: Sequence, frames: frozenset[int], misfit: Misfit | None = None
) -> str:
    """misfit: those of its frames that do not fit the stack that they are a pass of."""
    if sequence.is_moved:
        return (
            f"{sequence.name} is not where it was, {plain(sequence.files.folder)}: "
            "find its files elsewhere, or bring them back."
        )
    damaged = frames & sequence.unreadable
    odd = frames & misfit.frames - damaged if misfit is not None else frozenset[int]()
    gone = frames - damaged - odd
    parts = []
    if gone:
        parts.append(f"{write_frames(gone)} {'is' if len(gone) == 1 else 'are'} missing")
    if damaged:
        parts.append(f"{write_frames(damaged)} {'is' if len(damaged) == 1 else 'are'} damaged")
    if odd and misfit is not None:
        parts.append(f"{write_frames(odd)} {'is' if len(odd) == 1 else 'are'} {misfit.why}")
    return (
        f"{counted(len(frames), 'frame')} of {sequence.name} cannot be used "
        f"({', '.join(parts)}): render {'it' if len(frames) == 1 else 'them'} again, "
        "or choose a stand-in."
    )


def colour_reasons(timeline: Timeline, delivery: Delivery, codec: Codec) -> list[str]:
    if delivery.space not in codec.spaces:
        names = ", ".join(one.value for one in codec.spaces)
        return [f"{codec.name} cannot carry {delivery.space}: choose one of {names}."]
    reasons = []
    for file in dict.fromkeys(files_beside(timeline, delivery)):
        if not Path(file).is_file():
            reasons.append(f"{plain(Path(file).name)} is not there any more: choose it again.")
    return reasons


def files_beside(timeline: Timeline, delivery: Delivery) -> Iterator[str]:
    """LUTs, fonts and the config that the pictures need besides their frames."""
    reel = timeline.job.reel
    for finish in (reel.finish, *(one.finish for one in (*reel.shots, *reel.overlays))):
        yield from finish.files
    yield from (
        source.reading.lut.value
        for source in timeline.job.sequences
        if source.id in timeline.used and source.reading.lut.value
    )
    config = reel.colour.config
    yield from (file for file in (delivery.lut, config) if file and not file.startswith("ocio:"))


def sound_reasons(form: Form) -> list[str]:
    return [
        f"The sound {placed.sound.name} is not there any more."
        for placed in (form.sound.placed if form.sound is not None else ())
        if not Path(placed.sound.path).is_file()
    ]


def space_reasons(timeline: Timeline, delivery: Delivery) -> list[str]:
    needed = bytes_of(timeline, delivery)
    try:
        free = shutil.disk_usage(delivery.folder).free
    except OSError as error:
        return [f"The free space in {plain(delivery.folder)} is unknown: {error.strerror}."]
    if free >= needed:
        return []
    if not free:
        return [f"Nothing can be kept in {plain(delivery.folder)}: choose another folder."]
    return [
        f"About {bytes_words(needed)} are needed and {bytes_words(free)} are free in "
        f"{plain(delivery.folder)}: make room, or choose another folder."
    ]
