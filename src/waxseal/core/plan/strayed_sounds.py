"""Free sounds that are not in step with the frames that they came with."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from waxseal.core.job.model import LaidSound, Sequence
from waxseal.core.job.soundtracks import own_sounds
from waxseal.core.plan.sound_spans import heard_between, runs_heard, sound_at
from waxseal.core.plan.timeline import Part, Timeline

__all__ = ["StrayedSound", "strayed_sounds"]


@dataclass(frozen=True, slots=True)
class StrayedSound:
    """late: how many frames of the reel the sound is behind its picture, less than 0 where it is
    ahead; None where its frames are shown at another speed, backwards, or not at all.
    """

    laid: LaidSound
    frames: Sequence
    late: Fraction | None

    @property
    def words(self) -> str:
        """A sentence, and what to do."""
        frames = self.frames.name
        if self.late is None:
            what = f"does not run as {frames} does"
        else:
            count = f"{float(abs(self.late)):.2f}".rstrip("0").rstrip(".")
            side = "after" if self.late > 0 else "before"
            unit = "frame" if count == "1" else "frames"
            what = f"is heard {count} {unit} {side} its picture, {frames}"
        return f"{what}: bind it to its shot, or say that it lies where it should."


def strayed_sounds(timeline: Timeline) -> Iterator[StrayedSound]:
    """Those that nobody has said are right where they are."""
    job = timeline.job
    loose = {one.source: one for one in job.reel.sounds if one.is_free and not one.placed}
    if not loose:
        return
    for source, sound in own_sounds(job).items():
        laid = loose.get(sound.id)
        if laid is None:
            continue
        parts = [part for part in timeline.shots if part.laid.source == source]
        late = [late_of(part, laid) for part in parts]
        odd = next((one for one in late if one != 0), Fraction(0))
        if odd != 0:
            yield StrayedSound(laid, job.sequence(source), odd)


def late_of(part: Part, laid: LaidSound) -> Fraction | None:
    """How many frames a free sound is behind a shot of the frames that it came with."""
    runs = list(runs_heard(part))
    run, speed = runs[0]
    if len(runs) > 1 or run.step != 1 or speed != 1:
        return None
    belongs = sound_at(part.sequence, LaidSound(source=laid.source), run.lowest)
    start, _ = heard_between(part)
    heard = start - (laid.at - 1) / part.rate + laid.head  # of the sound, when the shot begins
    return (belongs - heard) * part.rate
