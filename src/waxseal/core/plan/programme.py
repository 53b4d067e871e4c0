"""The programme: one state of the job, planned. Its timeline, its stand-ins, its recipes."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

from waxseal.core.job.model import Files, Job, Sequence, change
from waxseal.core.job.pass_mismatches import misfits
from waxseal.core.plan.needed_frames import Missing, missing_frames
from waxseal.core.plan.recipe import Recipe
from waxseal.core.plan.recipe_builder import Composer
from waxseal.core.plan.recipe_keys import digest
from waxseal.core.plan.recipe_range import Film
from waxseal.core.plan.stand_ins import StandIns
from waxseal.core.plan.timeline import Timeline, timeline_of
from waxseal.core.timing.ranges import FrameRange

__all__ = ["Place", "Programme", "programme", "recipe"]


@dataclass(frozen=True, slots=True)
class Place:
    """The frame of a shot that is asked for at one frame of the reel.

    frame: the source's own number. shown: the number that is shown in its place;
        None for nothing (black, or a delivery that is refused).
    """

    sequence: Sequence
    frame: int
    shown: int | None

    @property
    def is_whole(self) -> bool:
        return self.frame == self.shown


@dataclass(frozen=True)
class Programme:
    """See the modules of its parts."""

    timeline: Timeline
    stand_ins: StandIns

    @cached_property
    def composer(self) -> Composer:
        return Composer(self.timeline, self.stand_ins)

    def place(self, reel_frame: int) -> Place:
        """The shot's frame at a frame of the reel. Raises JobError outside it."""
        part = self.timeline.shot_at(reel_frame)
        frame = part.ask(reel_frame).frame
        return Place(part.sequence, frame, self.stand_ins.shown(part.sequence, frame))

    def recipe(self, reel_frame: int) -> Recipe:
        """The recipe of a frame, with files as they are now. Raises JobError outside the reel."""
        return self.composer.recipe(reel_frame)

    def film(
        self,
        frames: FrameRange | None = None,
        rate: Fraction | None = None,
        *,
        has_subjects: bool = False,
    ) -> Film:
        """The recipes of a range, of the marked one if none is named; files as they are now.

        rate: another than the reel's, that they are shown at. has_subjects: see Composer.
        """
        composer = Composer(self.timeline, self.stand_ins, has_subjects=has_subjects)
        return Film(self.timeline, composer, frames or self.timeline.frames, rate)

    def missing(self, frames: FrameRange | None = None) -> tuple[Missing, ...]:
        """The frames that a range needs and that are missing. Kept: this is asked often."""
        asked = frames or self.timeline.frames
        if asked not in self._missing:
            self._missing[asked] = missing_frames(self.timeline, self.stand_ins, asked)
        return self._missing[asked]

    @cached_property
    def _missing(self) -> dict[FrameRange, tuple[Missing, ...]]:
        return {}

    def without(self, gone: Iterable[tuple[str, int]]) -> Programme:
        """The same once frames, each of a source, turned out unreadable."""
        return Programme(self.timeline, self.stand_ins.without(gone))

    @cached_property
    def key(self) -> str:
        """What pictures and sound depend on, as one text: files' names, not their contents.

        Marks in and out are no part of it: what follows them adds them, see `reel_key_of`.
        """
        job = self.timeline.job
        reel = change(job.reel, marked=None)
        sources = tuple(
            (own_files(source), sorted(source.unreadable), source.reading, source.stack)
            for source in job.sequences
            if source.id in self.timeline.used
        )
        sounds = tuple(job.sound(laid.source) for laid in job.reel.sounds)
        return digest(self.timeline.size, self.timeline.rate, reel, sources, sounds)


def own_files(source: Sequence) -> Files:
    """A source's files without others that are merely beside them."""
    return change(source.files, others=(), strays=())


def programme(job: Job) -> Programme:
    """Plan a job. Raises JobError for an empty reel."""
    timeline = timeline_of(job)
    used = (one for one in job.sequences if one.id in timeline.used)
    odd = ((source, frame) for source, one in misfits(job).items() for frame in one.frames)
    return Programme(timeline, StandIns(used, frozenset(odd)))


def recipe(job: Job, reel_frame: int) -> Recipe:
    """What frame `reel_frame` (from 1) of the reel is made from. Raises JobError."""
    return programme(job).recipe(reel_frame)
