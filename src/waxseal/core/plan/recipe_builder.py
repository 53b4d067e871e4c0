"""Composing: from the parts that make a frame to its recipe.

What is the same at every frame of a part (how its source is read, where it goes,
a finish that does not change) is worked out once and shared, so that a recipe
costs little and its key less.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

from waxseal.core.job.corrections import WHOLE, Correction, Cover, Helper, Moment, Values
from waxseal.core.job.finish_settings import Finish
from waxseal.core.job.model import (
    Blend,
    Conversion,
    Framing,
    Overlay,
    Sequence,
    Shot,
    Subject,
)
from waxseal.core.plan.filestates import state_of
from waxseal.core.plan.frame_picks import pick_of, pick_passes, read_as
from waxseal.core.plan.needed_frames import frame_behind
from waxseal.core.plan.pass_frames import helper_number, picture_number
from waxseal.core.plan.recipe import (
    BARE,
    MIDDLE,
    Beside,
    Between,
    Finished,
    Layer,
    Masked,
    Pick,
    Placement,
    Programmed,
    Read,
    Recipe,
    Shown,
)
from waxseal.core.plan.stand_ins import StandIns
from waxseal.core.plan.timeline import FrameParts, FrameRequest, Part, Timeline

__all__ = ["Composer", "finish_at"]


class Composer:
    """Makes the recipes of one state of the job."""

    def __init__(
        self, timeline: Timeline, stand_ins: StandIns, *, has_subjects: bool = False
    ) -> None:
        """has_subjects: whether the recipes say what stays in the middle of another shape."""
        self._timeline, self._stand_ins = timeline, stand_ins
        self._has_subjects = has_subjects
        self._reads: dict[tuple[str, str], Read] = {}
        self._placements: dict[str, Placement] = {}

    def recipe(self, reel_frame: int) -> Recipe:
        """What frame `reel_frame` (from 1) of the reel is made from. Raises JobError outside it."""
        timeline, reel = self._timeline, self._timeline.job.reel
        together = timeline.parts_at(reel_frame)
        overlays = [self._layer(part, reel_frame) for part in together.overlays]
        return Recipe(
            timeline.size.width,
            timeline.size.height,
            reel.ground,
            self._layer_behind(reel_frame) if reel.behind else None,
            self._programme(together, reel_frame),
            tuple(layer for layer in overlays if layer is not None),
            self._reel_finish(reel_frame),
            reel.colour,
            self._subject(together) if self._has_subjects else MIDDLE,
        )

    def _programme(self, together: FrameParts, reel_frame: int) -> Programmed | None:
        shots = [self._layer(part, reel_frame) for part in together.shots]
        if together.join is None:
            return shots[0]
        return together.join.style.mixed(together.join.join, shots, together.share)

    def _subject(self, together: FrameParts) -> Subject:
        """Of two shots that dissolve, on the way from one's to the other's."""
        subjects = [part.laid.subject for part in together.shots if isinstance(part.laid, Shot)]
        first, last, share = subjects[0], subjects[-1], float(together.share)
        if first == last:
            return first
        x, y = first.x + (last.x - first.x) * share, first.y + (last.y - first.y) * share
        return Subject(x=x, y=y)

    def beauty(self, reel_frame: int) -> Pick | None:
        """What the passes of the shot at a frame should equal; None if there is none."""
        part = self._timeline.shot_at(reel_frame)
        stack = part.sequence.stack
        if stack is None or not stack.on or not stack.beauty:
            return None
        beauty = self._timeline.sources[stack.beauty]
        frame = self._stand_ins.shown(beauty, part.ask(reel_frame).frame)
        return self._pick(beauty, frame) if frame is not None else None

    # ---- layers ----------------------------------------------------------------------------

    def _layer(self, part: Part, reel_frame: int) -> Layer | None:
        laid, sequence, asked = part.laid, part.sequence, part.ask(reel_frame)
        shown = self._picture(sequence, asked.frame)
        if shown is None:
            return None
        between = self._between(part, asked)
        finish = self._finish_of(part, asked, reel_frame, shown, between)
        if finish.cover.opacity == 0:
            return None
        blend, values = Blend.OVER, Values.LINEAR
        if isinstance(laid, Overlay):
            blend, values = laid.blend, laid.values
        return Layer(
            shown,
            self._placement(part),
            between,
            finish,
            blend,
            values,
            sequence.reading.is_graphics,
        )

    def _between(self, part: Part, asked: FrameRequest) -> Between | None:
        if asked.following is None:
            return None
        following = self._picture(part.sequence, asked.following)
        if following is None:
            return None
        is_moved = part.laid.timing.conversion is Conversion.MOTION
        return Between(following, asked.share, is_moved)

    def _placement(self, part: Part) -> Placement:
        known = self._placements.get(part.laid.id)
        if known is None:
            shape: Fraction = part.sequence.reading.pixel_shape.value
            known = Placement(part.laid.framing, part.laid.placing, shape)
            self._placements[part.laid.id] = known
        return known

    def _layer_behind(self, reel_frame: int) -> Layer | None:
        behind = self._timeline.sources[self._timeline.job.reel.behind]
        shown = self._picture(behind, frame_behind(behind, reel_frame, self._timeline))
        if shown is None:
            return None
        shape = behind.reading.pixel_shape.value
        placement = Placement(Framing.FILL, pixel_shape=shape)
        return Layer(shown, placement, is_graphics=behind.reading.is_graphics)

    def _picture(self, sequence: Sequence, frame: int) -> Shown | None:
        """What is shown for a frame of a source, or the passes of it; None for nothing."""
        stack = sequence.stack
        if stack is not None and stack.on:  # each pass has its own frames, and stand-ins
            sources = self._timeline.sources
            return pick_passes(stack, frame, sources, self._stand_ins.shown) or None
        shown = self._stand_ins.shown(sequence, frame)
        return None if shown is None else self._pick(sequence, shown)

    def _pick(self, sequence: Sequence, frame: int, part: str = "") -> Pick:
        name = (sequence.id, part)
        read = self._reads.get(name)
        if read is None or (read.lut is not None and read.lut != state_of(read.lut.path)):
            read = self._reads[name] = read_as(sequence.reading, part)
        return pick_of(sequence, frame, read=read)

    # ---- finishes --------------------------------------------------------------------------

    def _finish_of(
        self,
        part: Part,
        asked: FrameRequest,
        reel_frame: int,
        shown: Shown,
        between: Between | None,
    ) -> Finished:
        finish = part.laid.finish
        if not finish.corrections:
            return BARE
        sequence = part.sequence
        moment = Moment(
            at=asked.at,
            length=part.count,
            reel_frame=reel_frame,
            rate=self._timeline.rate,
            number=asked.frame,
            count=sequence.range.count,
            name=sequence.name,
            counting=self._timeline.counting,
        )

        def beside(helper: Helper) -> Beside | None:
            return self._beside(helper, sequence, asked, shown, between)

        return self._finish(finish, moment, beside)

    def _reel_finish(self, reel_frame: int) -> Finished:
        timeline = self._timeline
        if not timeline.job.reel.finish.corrections:
            return BARE
        moment = Moment(
            at=reel_frame - 1,
            length=timeline.length,
            reel_frame=reel_frame,
            rate=timeline.rate,
            number=reel_frame,
            count=timeline.length,
            name=timeline.job.name,
            counting=timeline.counting,
        )

        def beside(helper: Helper) -> Beside | None:
            pick = self._helper(helper, None, reel_frame)
            return None if pick is None else Beside(pick)

        return self._finish(timeline.job.reel.finish, moment, beside)

    def _finish(
        self, finish: Finish, moment: Moment, beside: Callable[[Helper], Beside | None]
    ) -> Finished:
        """beside: the frame of a helper that belongs to the picture."""
        corrections, cover = finish_at(finish, moment)
        files = tuple(state_of(path) for one in corrections for path in one.files)
        helpers = []
        for helper in (helper for one in corrections for helper in one.helpers):
            found = beside(helper)
            if found is not None:
                helpers.append((helper.source, found))
        masked, inside = None, finish.inside
        if inside is not None and corrections:
            matte = beside(Helper(inside.source, inside.part))
            masked = None if matte is None else Masked(matte, inside.inverted, inside.soften)
        return Finished(corrections, masked, tuple(helpers), files, cover)

    def _beside(
        self,
        helper: Helper,
        of: Sequence,
        asked: FrameRequest,
        shown: Shown,
        between: Between | None,
    ) -> Beside | None:
        """What belongs to a picture, which is between two frames where the picture is."""
        pick = self._helper_of(helper, of, asked.frame)
        if pick is None or between is None or asked.following is None:
            return None if pick is None else Beside(pick)
        following = self._helper_of(helper, of, asked.following)
        if following is None or following == pick:
            return Beside(pick)
        along = (shown, between.following) if between.by_motion else None
        return Beside(pick, following, asked.share, along)

    def _helper_of(self, helper: Helper, of: Sequence, frame: int) -> Pick | None:
        number = picture_number(of, frame, self._timeline.sources, self._stand_ins.shown)
        return None if number is None else self._helper(helper, of, number)

    def _helper(self, helper: Helper, of: Sequence | None, number: int) -> Pick | None:
        sequence = self._timeline.sources[helper.source]
        shown = self._stand_ins.shown(sequence, helper_number(sequence, of, number))
        return None if shown is None else self._pick(sequence, shown, helper.part)


def finish_at(finish: Finish, moment: Moment) -> tuple[tuple[Correction, ...], Cover]:
    """The corrections that work at one moment, and how much of the picture is there."""
    corrections: list[Correction] = []
    cover = WHOLE
    for one in finish.working:
        now = one.at(moment)
        if now is not None:
            corrections.append(now)
        covered = one.cover_at(moment)
        if covered != WHOLE:
            cover = cover.under(covered)
    return tuple(corrections), cover
