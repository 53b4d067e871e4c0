"""Sound as it comes, faster or slower with its pitch kept: for listening."""

from __future__ import annotations

from fractions import Fraction

import av
import numpy as np
from av.error import BlockingIOError as NotYet

from waxseal.core.sound.layouts import LAYOUTS
from waxseal.core.sound.mix_plan import SoundPlan
from waxseal.core.sound.sample_types import Samples

__all__ = ["Stretching"]


class Stretching:
    """Part by part, by libavfilter's atempo. speed: 1/2 to 100."""

    def __init__(self, plan: SoundPlan, speed: Fraction) -> None:
        self._plan = plan
        self._at = 0
        self._graph = av.filter.Graph()
        self._source = self._graph.add_abuffer(
            sample_rate=plan.sample_rate,
            format="flt",
            layout=LAYOUTS[plan.channels],
            time_base=Fraction(1, plan.sample_rate),
        )
        tempo = self._graph.add("atempo", f"{float(speed):.9f}")
        self._sink = self._graph.add("abuffersink")
        self._source.link_to(tempo)
        tempo.link_to(self._sink)
        self._graph.configure()

    def take(self, part: Samples, *, is_last: bool) -> Samples:
        """What the next samples become: as many as there are by now."""
        rate = self._plan.sample_rate
        frame = av.AudioFrame.from_ndarray(
            np.ascontiguousarray(part).reshape(1, -1),
            format="flt",
            layout=LAYOUTS[self._plan.channels],
        )
        frame.sample_rate, frame.pts, frame.time_base = rate, self._at, Fraction(1, rate)
        self._at += len(part)
        self._source.push(frame)
        if is_last:
            self._source.push(None)
        parts = [np.zeros((0, self._plan.channels), np.float32)]
        while True:
            try:
                made = self._sink.pull()
            except (NotYet, EOFError):
                return np.concatenate(parts)
            if isinstance(made, av.AudioFrame):
                values = made.to_ndarray().reshape(-1, self._plan.channels)
                parts.append(values.astype(np.float32, copy=False))
