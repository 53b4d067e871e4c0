"""How a picture sits in a frame, in whole pixels. Only sums: the scaling is in `framing`."""

from __future__ import annotations

from dataclasses import dataclass

from waxseal.core.job.model import Framing

__all__ = ["Box", "framing_words", "place", "scaled"]


@dataclass(frozen=True, slots=True)
class Box:
    """Where a picture lies in its frame, in whole pixels; may reach beyond it."""

    x: int
    y: int
    width: int
    height: int


def place(source: tuple[int, int], frame: tuple[int, int], framing: Framing) -> Box:
    """Where a picture of size `source` lies in a frame, in pixels; centred, no thin border.

    A side that comes within a pixel of the frame's is the frame's.
    """
    width, height = source
    if framing is Framing.STRETCH:
        width, height = frame
    elif framing is not Framing.ACTUAL:
        across, down = frame[0] / width, frame[1] / height
        scale = min(across, down) if framing is Framing.FIT else max(across, down)
        width, height = snapped(width * scale, frame[0]), snapped(height * scale, frame[1])
    return Box((frame[0] - width) // 2, (frame[1] - height) // 2, width, height)


def snapped(exact: float, side: int) -> int:
    return side if abs(exact - side) < 1 else max(1, round(exact))


def scaled(box: Box, frame: tuple[int, int], to: tuple[int, int]) -> Box:
    """The same box in the same frame drawn at another size."""
    if frame == to:
        return box

    def at(value: int, axis: int) -> int:
        return round(value * to[axis] / frame[axis])

    left, top = at(box.x, 0), at(box.y, 1)
    right, bottom = at(box.x + box.width, 0), at(box.y + box.height, 1)
    return Box(left, top, max(1, right - left), max(1, bottom - top))


def framing_words(source: tuple[int, int], frame: tuple[int, int], framing: Framing) -> str:
    """What the framing does, in pixels: `fits: 240 px of ground left and right`."""
    box = place(source, frame, framing)
    parts = []
    for left, length, side, words in (
        (box.x, box.width, frame[0], "left and right"),
        (box.y, box.height, frame[1], "above and below"),
    ):
        if length < side:
            parts.append(f"{side - length} px of ground {words}")
        elif length > side and left < 0:
            parts.append(f"{length - side} px lost {words}")
    verb = {
        Framing.FIT: "fits",
        Framing.FILL: "fills",
        Framing.STRETCH: "stretched",
        Framing.ACTUAL: "actual pixels",
    }[framing]
    return f"{verb}: {', '.join(parts)}" if parts else verb
