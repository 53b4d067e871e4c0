"""What is looked at before a delivery starts: better refused now than in an hour."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from os.path import realpath  # Path.resolve falls over a circle of links
from pathlib import Path

from waxseal.core.deliver.containers import CONTAINERS, Container
from waxseal.core.deliver.format.delivered_names import name_taken
from waxseal.core.deliver.format.delivery_settings import bytes_of, silent_form_of
from waxseal.core.deliver.format.output_path import container_of, path_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.deliver.match import match, reasons_in
from waxseal.core.deliver.publish.publish_file import name_trouble
from waxseal.core.deliver.specs.apply_spec import spec_troubles
from waxseal.core.deliver.specs.spec_book import spec_book
from waxseal.core.errors import (
    DeliveryRefused,
    JobError,
    SoundError,
    UnreadableInput,
)
from waxseal.core.filenames import MOVIE_SUFFIXES
from waxseal.core.job.model import Delivery, Job, Sound
from waxseal.core.plan.programme import Programme, programme
from waxseal.core.plan.timeline import Timeline
from waxseal.core.seal.signing import load_signer
from waxseal.core.sound.sound_files import change_since, damage_now, not_whole
from waxseal.core.text_format import bytes_words, plain

__all__ = ["preflight"]


def preflight(job: Job, delivery: Delivery, *, may_replace: bool = False) -> Programme:
    """Check what can be checked before. Raises DeliveryRefused with every reason at once.

    may_replace: whether what has the delivery's name already may go.
    """
    try:
        planned = programme(job)
        path = path_of(delivery)
        rows = match(planned, delivery)
    except JobError as error:
        raise DeliveryRefused(str(error)) from None
    timeline = planned.timeline
    reasons = [
        *folder_reasons(path.parent),
        *reasons_in(rows),
        *gone_files(timeline, delivery),
        *spec_reasons(timeline, delivery),
        *key_reasons(),
    ]
    if path.parent.is_dir():
        form = silent_form_of(timeline, delivery)
        reasons += name_reasons(job, delivery, form, may_replace=may_replace)
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


def gone_files(timeline: Timeline, delivery: Delivery) -> Iterator[str]:
    """What pictures and sound need besides the frames, and is not there any more."""
    for file in dict.fromkeys(files_beside(timeline, delivery)):
        if not Path(file).is_file():
            yield f"{plain(Path(file).name)} is not there any more: choose it again."
    job = timeline.job
    for sound in dict.fromkeys(job.sound(laid.source) for laid in job.reel.sounds):
        if not container_of(delivery).sounds:
            continue
        if not Path(sound.path).is_file():
            yield f"The sound {sound.name} is not there any more."
        elif not sound.damage:  # else the match table says so
            yield from sound_troubles(sound)


def sound_troubles(sound: Sound) -> Iterator[str]:
    """Whether a sound is what it was when it was looked at: whole, and the same."""
    try:
        if not (sound.accepted or sound.of_movie):
            damage = damage_now(Path(sound.path), sound.format)
            if damage:
                yield not_whole(sound.name, damage)
                return
        changed = change_since(sound)
        if changed:
            yield changed
    except SoundError as error:
        yield str(error)


def files_beside(timeline: Timeline, delivery: Delivery) -> Iterator[str]:
    """LUTs, fonts and the config."""
    reel = timeline.job.reel
    for finish in (reel.finish, *(one.finish for one in (*reel.shots, *reel.overlays))):
        yield from finish.files
    for source in timeline.used_sequences:
        if source.reading.lut.value:
            yield source.reading.lut.value
    for file in (delivery.lut, reel.colour.config):
        if file and not file.startswith("ocio:"):
            yield file


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


def name_reasons(
    job: Job, delivery: Delivery, form: ResolvedFormat, *, may_replace: bool
) -> list[str]:
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
    trouble = name_taken(path, form, overwrite=may_replace)
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
