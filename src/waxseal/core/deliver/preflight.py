"""What is looked at before a delivery starts: better refused now than in an hour."""

from __future__ import annotations

import os
import shutil
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path

from waxseal.core.deliver.forms import FORMS, size_sentence
from waxseal.core.deliver.frames import strangers_in
from waxseal.core.deliver.settings import estimated_bytes, stored_size
from waxseal.core.errors import DeliveryRefused, JobError, SoundError
from waxseal.core.job.finish import Lut, Text
from waxseal.core.job.model import Codec, Delivery, Health, Job, Origin, Sequence, StandIn
from waxseal.core.picture.geometry import framing_words
from waxseal.core.plan.programme import Place, Programme, programme
from waxseal.core.sound.mix import sound_plan
from waxseal.core.timing.ranges import FrameRange, write_frames
from waxseal.core.timing.rates import rate_words
from waxseal.core.words import bytes_words, counted, names_words, plain

__all__ = ["missing_sentence", "notes_on", "preflight", "stand_in_notes"]


def preflight(job: Job, delivery: Delivery) -> Programme:
    """Check what can be checked before. Raises DeliveryRefused with every reason at once."""
    try:
        reel = programme(job)
    except JobError as error:
        raise DeliveryRefused(str(error)) from None
    reasons = [
        *file_reasons(job, delivery),
        *frame_reasons(reel),
        *filter(None, (size_sentence(delivery.codec, reel.size, stored_in(reel, delivery)),)),
        *colour_reasons(reel, delivery),
        *sound_reasons(reel),
    ]
    if not reasons:
        reasons += space_reasons(reel, delivery)
    if reasons:
        raise DeliveryRefused(*reasons, path=delivery.path)
    return reel


def file_reasons(job: Job, delivery: Delivery) -> list[str]:
    path = delivery.path
    folder = path.parent
    if not folder.is_dir():
        return [f"The folder {plain(folder)} does not exist: make it, or choose another."]
    if not os.access(folder, os.W_OK | os.X_OK):
        return [f"Nothing can be written into {plain(folder)}: choose another folder."]
    if delivery.codec is Codec.EXR:
        return folder_reasons(job, delivery)
    if path.is_dir():
        return [f"{plain(path.name)} is a folder: choose another name."]
    if is_source(job, path):
        return [f"{plain(path.name)} is one of the sources, which are never written to."]
    if path.exists() and not delivery.overwrite:
        return [f"{plain(path.name)} is there already: choose another name, or overwrite it."]
    return []


def folder_reasons(job: Job, delivery: Delivery) -> list[str]:
    """A folder of frames takes the place of one that was delivered, and of nothing else."""
    path = delivery.path
    lying = {Path(one.files.folder).resolve() for one in job.sequences}
    if path.resolve() in lying:
        return [f"In {plain(path.name)} lie frames of a source, which are never written to."]
    if not path.exists():
        return []
    if not path.is_dir():
        return [f"{plain(path.name)} is there already and no folder: choose another name."]
    if not delivery.overwrite:
        return [f"{plain(path.name)} is there already: choose another name, or overwrite it."]
    others = strangers_in(path, delivery)
    if others:
        return [
            f"{plain(path.name)} holds more than delivered frames ({names_words(others)}): "
            "choose another name."
        ]
    return []


def is_source(job: Job, path: Path) -> bool:
    """Whether a source is (or is hidden behind a link to) this very file."""
    try:
        target = path.resolve()
    except OSError:
        return False
    for sound in job.sounds:
        if Path(sound.path).resolve() == target:
            return True
    for sequence in job.sequences:
        folder = Path(sequence.files.folder)
        if folder.resolve() == target.parent and any(
            sequence.files.name_of(frame) == target.name
            for first, last in sequence.files.runs
            for frame in range(first, last + 1)
        ):
            return True
    return False


def frame_reasons(reel: Programme) -> list[str]:
    """One sentence for each source with frames that are not there."""
    by_source: dict[str, list[Place]] = defaultdict(list)
    for place in reel.refusals(reel.frames):
        by_source[place.sequence.id].append(place)
    return [
        missing_sentence(places[0].sequence, {place.frame for place in places})
        for places in by_source.values()
    ]


def missing_sentence(sequence: Sequence, frames: set[int]) -> str:
    if sequence.is_moved:
        return (
            f"{sequence.name} is not where it was, {plain(sequence.files.folder)}: "
            "find its files elsewhere, or bring them back."
        )
    damaged = frames & sequence.unreadable
    gone = frames - damaged
    parts = []
    if gone:
        parts.append(f"{write_frames(gone)} {'is' if len(gone) == 1 else 'are'} not there")
    if damaged:
        parts.append(f"{write_frames(damaged)} {'is' if len(damaged) == 1 else 'are'} damaged")
    return (
        f"{counted(len(frames), 'frame')} of {sequence.name} "
        f"{'has' if len(frames) == 1 else 'have'} to come again ({', '.join(parts)}): "
        "render them, or choose a stand-in."
    )


def colour_reasons(reel: Programme, delivery: Delivery) -> list[str]:
    carried = FORMS[delivery.codec].colours
    if delivery.space not in carried:
        names = ", ".join(one.value for one in carried)
        return [f"{delivery.codec} carries no {delivery.space}: choose one of {names}."]
    reasons = []
    for file in dict.fromkeys(files_beside(reel, delivery)):
        if not Path(file).is_file():
            reasons.append(f"{plain(Path(file).name)} is not there any more: choose it again.")
    return reasons


def files_beside(reel: Programme, delivery: Delivery) -> Iterator[str]:
    """LUTs, fonts and the config that the pictures need besides their frames."""
    job = reel.job
    finishes = (job.reel.finish, *(one.finish for one in (*job.reel.shots, *job.reel.overlays)))
    for one in (one for finish in finishes for one in finish.working):
        if isinstance(one, Lut):
            yield one.path
        elif isinstance(one, Text) and one.font:
            yield one.font
    yield from (
        source.reading.lut.value
        for source in job.sequences
        if source.id in reel.used and source.reading.lut.value
    )
    config = job.reel.colour.config
    yield from (file for file in (delivery.lut, config) if file and not file.startswith("ocio:"))


def sound_reasons(reel: Programme) -> list[str]:
    try:
        plan = sound_plan(reel.job, reel.frames, reel.rate)
    except SoundError as error:
        return [str(error)]
    if plan is not None and not Path(plan.sound.path).is_file():
        return [f"The sound {plan.sound.name} is not there any more."]
    return []


def space_reasons(reel: Programme, delivery: Delivery) -> list[str]:
    needed = estimated_bytes(delivery, reel.size, reel.frames.count, reel.rate)
    try:
        free = shutil.disk_usage(delivery.path.parent).free
    except OSError as error:
        return [f"{plain(delivery.folder)} cannot be looked at: {error.strerror}."]
    if free >= needed:
        return []
    return [
        f"About {bytes_words(needed)} are needed and {bytes_words(free)} are free in "
        f"{plain(delivery.folder)}: make room, or choose another folder."
    ]


def stored_in(reel: Programme, delivery: Delivery) -> tuple[int, int]:
    """Frames have any size; a codec of a quarter of the colour takes even sides."""
    is_any = delivery.codec is Codec.EXR
    return (reel.size.width, reel.size.height) if is_any else stored_size(reel.size)


def notes_on(reel: Programme, delivery: Delivery) -> tuple[str, ...]:
    """What is done on the way that somebody should know, in sentences."""
    notes = []
    if delivery.codec is Codec.EXR and delivery.lut:
        notes.append(f"Frames carry light: {plain(Path(delivery.lut).name)} is left out.")
    for source in reel.job.sequences:
        if source.id not in reel.used:
            continue
        rate = source.reading.rate
        if rate.origin is Origin.GUESS and source.kind != "still":
            notes.append(f"The rate of {source.name} is a guess: {rate_words(rate.value)}.")
        if source.health is Health.MIXED:
            notes.append(f"{source.name} is mixed: {source.findings[0].what}.")
    for shot in reel.job.reel.shots:
        size = reel.job.sequence(shot.source).shown_size
        if size != reel.size:
            words = framing_words(
                (size.width, size.height),
                (reel.size.width, reel.size.height),
                shot.framing,
                shot.placing,
            )
            notes.append(f"{reel.job.sequence(shot.source).name}, {size}: {words}.")
    width, height = stored_in(reel, delivery)
    if (width, height) != (reel.size.width, reel.size.height):
        notes.append(
            f"{reel.size} becomes {width} × {height}: the codec takes even sides, "
            "the last column or row is repeated."
        )
    plan = sound_plan(reel.job, reel.frames, reel.rate)
    if plan is not None and delivery.codec is Codec.EXR:
        return (*notes, f"Frames carry no sound: {plan.sound.name} is left out.")
    return (*notes, *(plan.notes if plan else ()))


def stand_in_notes(reel: Programme, frames: FrameRange) -> tuple[str, ...]:
    """Which frames something else stood in for, a sentence for each source."""
    stood: dict[str, set[int]] = defaultdict(set)
    for reel_frame in range(frames.first, frames.last + 1):
        for place in reel.needs(reel_frame):
            if not place.is_whole:
                stood[place.sequence.id].add(place.frame)
    words = {
        StandIn.HOLD: "the frame before stands in",
        StandIn.NEAREST: "the nearest frame stands in",
        StandIn.BLACK: "black stands in",
        StandIn.STOP: "nothing stands in",
    }
    notes = []
    for source, missing in stood.items():
        sequence = reel.job.sequence(source)
        said = words[sequence.reading.stand_in.value]
        notes.append(f"{sequence.name}: {said} for {write_frames(missing)}.")
    return tuple(notes)
