"""What a delivery wrote, opened again and compared with what was made."""

from __future__ import annotations

from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np

from waxseal.core.deliver.encode.encode_film import Encoded
from waxseal.core.deliver.encode.writers import measure_film
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.picture.arrays import Plane, Planes
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout
from waxseal.core.plan.recipe_range import Film, replaced_in
from waxseal.core.progress import CancelToken, Report
from waxseal.core.seal.flashes import FlashMeter, Passage, SketchCoding
from waxseal.core.seal.frame_sketches import Sketch, sketch, sketch_of_rgb
from waxseal.core.seal.likeness import Likeness, fine_detail, psnr, ssim
from waxseal.core.seal.measure.file_facts import Measured

__all__ = ["CheckOfWritten", "flash_facts"]

FLAT_MARGIN_DB = 2.2  # another picture of as much contrast is 3 dB below a flat one
LOOKED_AT_WHOLE = 12  # frames compared pixel by pixel, from the first to the last


@dataclass(frozen=True, slots=True)
class WholeFrame:
    """A decoded frame beside its picture.

    flat: the PSNR that one even grey would have. detail: how much fine detail the picture has.
    """

    psnr: float
    ssim: float
    flat: float
    detail: float


class CheckOfWritten:
    """What was written, opened again and compared with what was made.

    A few frames are made again and compared whole, beside the decoding.
    """

    def __init__(self, film: Film, form: ResolvedFormat, encoded: Encoded) -> None:
        self.film, self.form = film, form
        self._made = encoded.marks
        self._comparison = form.comparison
        self._decoded: dict[int, Any] = {}
        self._flashes = meter_for(form)
        self._wanted = set() if form.codec.is_lossless else evenly_spread(film.frames.count)
        self._pool = ThreadPoolExecutor(2, "whole")
        self._comparing: list[Future[WholeFrame | None]] = []
        self.psnr, self.ssim, self.whole = float("inf"), 1.0, 0
        self.judged_psnr, self._detail = float("inf"), 0.0

    def run(self, partial: Path, report: Report, token: CancelToken) -> Measured:
        """Decode all of it. Raises UnreadableInput, FrameError, Cancelled."""
        try:
            measured = measure_film(
                partial,
                self.form,
                look=self._look,
                expected_frames=self.film.frames.count,
                report=report,
                token=token,
            )
            compared = [one for one in (ask.result() for ask in self._comparing) if one]
        finally:
            self._pool.shutdown(cancel_futures=True)
        self.whole = len(compared)
        self.psnr = min((one.psnr for one in compared), default=self.psnr)
        self.ssim = min((one.ssim for one in compared), default=self.ssim)
        self._detail = max((one.detail for one in compared), default=0.0)
        # What is hardly nearer than a flat picture may be fine noise that the codec left out.
        self.judged_psnr = min(
            (one.psnr for one in compared if one.psnr < one.flat - FLAT_MARGIN_DB),
            default=float("inf"),
        )
        return measured

    def _look(self, index: int, planes: Planes) -> None:
        if not planes or index >= len(self._made):
            return
        mark = self._decoded[index] = self._comparison.mark(planes)
        if self._flashes is not None:
            is_sketch = not self.form.codec.is_lossless
            self._flashes.look(
                mark if is_sketch else coarse_sketch(planes, self.form.target.layout)
            )
        if index in self._wanted:
            # A copy: the decoder uses its planes again.
            asked = self._pool.submit(self._compare_whole, index, planes[0].copy())
            self._comparing.append(asked)

    def _compare_whole(self, index: int, luma: Plane) -> WholeFrame | None:
        """None where what the frame was made from is not there any more."""
        recipe = self.film.recipe(self.film.frames.first + index)
        if replaced_in(recipe):
            return None
        made = make(recipe, self.form.target).planes[0]
        flat = np.full_like(made, round(float(made.mean())))
        return WholeFrame(psnr(made, luma), ssim(made, luma), psnr(made, flat), fine_detail(made))

    @property
    def flashes(self) -> tuple[Passage, ...]:
        return self._flashes.passages if self._flashes is not None else ()

    @cached_property
    def likeness(self) -> Likeness:
        """How like the decoded frames are to those that were made; ask once all are decoded."""
        return self._comparison.compare(self._made, self._decoded, self._detail)

    def facts(self) -> dict[str, object]:
        """How like it is, for the seal."""
        if self.form.codec.is_lossless:
            return {"farthest_codes": 0.0, "compared_whole": self.likeness.compared}
        likeness = self.likeness
        return {
            "farthest_codes": round(likeness.farthest, 3),
            "farthest_frame": likeness.farthest_frame,
            "poorest_psnr_db": None if self.psnr == float("inf") else round(self.psnr, 2),
            "poorest_ssim": round(self.ssim, 4),
            "compared_whole": self.whole,
            "figure": self.form.codec.figure_for(self.form.quality),
        }


BT601 = 5  # by its number in ITU-T H.273


def meter_for(form: ResolvedFormat) -> FlashMeter | None:
    """What looks for flashes; None where the limits are not for what the file holds."""
    _, _, matrix, is_full = form.tags
    layout = form.target.layout
    if layout is Layout.FULL_422:
        matrix, is_full = BT601, True
    coding = SketchCoding(form.space, layout.is_rgb, matrix, is_full)
    return FlashMeter(form.rate, coding) if form.space.is_standard_range else None


def coarse_sketch(planes: Planes, layout: Layout) -> Sketch:
    """Of planes that lose nothing, whatever their depth."""
    return sketch_of_rgb(planes) if layout.is_rgb else sketch(planes)


def flash_facts(flashes: tuple[Passage, ...]) -> list[dict[str, object]]:
    return [
        {
            "frames": f"{one.first}-{one.last}",
            "red": one.is_red,
            "in_a_second": one.flashes,
            "area": round(one.area, 2),
            **({"seconds": round(one.seconds, 2)} if one.seconds else {}),
        }
        for one in flashes
    ]


def evenly_spread(count: int) -> set[int]:
    """A few frames of a film, counted from 0, from the first to the last."""
    steps = min(LOOKED_AT_WHOLE, count)
    return {round(step * (count - 1) / max(1, steps - 1)) for step in range(steps)}
