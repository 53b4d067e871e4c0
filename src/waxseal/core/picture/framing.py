"""How a picture sits in a frame, in whole pixels. Only sums: the scaling is in `framing`."""

from __future__ import annotations

from dataclasses import dataclass

from waxseal.core.job.model import Framing, Placing

__all__ = ["Box", "framing_words", "placed_box", "scale_size"]


CENTRED = Placing()


@dataclass(frozen=True, slots=True)
class Box:
    """A picture's place in its frame, in whole pixels; it may reach beyond it."""

    x: int
    y: int
    width: int
    height: int


def placed_box(
    source: tuple[int, int],
    frame: tuple[int, int],
    framing: Framing,
    placing: Placing = CENTRED,
) -> Box:
    """The place of a picture of size `source` in a frame, in pixels; no thin border.

    Centred, then scaled around the centre and moved as the placing says; the
    picture is turned already. A side that comes within a pixel of the frame's
    is the frame's.
    """
    width, height = source
    if framing is Framing.STRETCH:
        width, height = frame
    elif framing is not Framing.ACTUAL:
        across, down = frame[0] / width, frame[1] / height
        scale = min(across, down) if framing is Framing.FIT else max(across, down)
        width, height = snap(width, scale, frame[0]), snap(height, scale, frame[1])
    width, height = snap(width, placing.scale, frame[0]), snap(height, placing.scale, frame[1])
    left, top = (frame[0] - width) // 2, (frame[1] - height) // 2
    return Box(left + placing.x, top + placing.y, width, height)


def snap(length: int, scale: float, side: int) -> int:
    """A length scaled to whole pixels, with as many before it as after it in the frame's side."""
    if scale == 1:
        return length
    exact = length * scale
    if abs(exact - side) < 1:
        return side
    near = max(1, round(exact))
    if (near - side) % 2 == 0:
        return near
    return near + 1 if exact > near or near == 1 else near - 1


def scale_size(box: Box, frame: tuple[int, int], to: tuple[int, int]) -> Box:
    """The same box in the same frame drawn at another size."""
    if frame == to:
        return box

    def at(value: int, axis: int) -> int:
        return round(value * to[axis] / frame[axis])

    left, top = at(box.x, 0), at(box.y, 1)
    right, bottom = at(box.x + box.width, 0), at(box.y + box.height, 1)
    return Box(left, top, max(1, right - left), max(1, bottom - top))


def framing_words(
    source: tuple[int, int],
    frame: tuple[int, int],
    framing: Framing,
    placing: Placing = CENTRED,
) -> str:
    """What the framing does, in pixels: `fits: 240 px of ground each left and right`."""
    box = placed_box(source, frame, framing, placing)
    parts = []
    for start, length, side, names in (
        (box.x, box.width, frame[0], ("left", "right")),
        (box.y, box.height, frame[1], ("above", "below")),
    ):
        parts += side_words(start, side - start - length, names)
    verb = {
        Framing.FIT: "fits",
        Framing.FILL: "fills",
        Framing.STRETCH: "stretched",
        Framing.ACTUAL: "actual pixels",
    }[framing]
    if parts:
        return f"{verb}: {', '.join(parts)}"
    is_even = framing is not Framing.STRETCH and box.width != source[0]
    return f"{verb}, at {100 * box.width / source[0]:.4g} %" if is_even else verb


def is_framed_whole(
    source: tuple[int, int],
    frame: tuple[int, int],
    framing: Framing,
    placing: Placing = CENTRED,
) -> bool:
    """Whether nothing is cut off, nothing is stretched, and no ground shows."""
    box = placed_box(source, frame, framing, placing)
    is_stretched = framing is Framing.STRETCH and source[0] * frame[1] != source[1] * frame[0]
    return not is_stretched and box == Box(0, 0, *frame)


def side_words(before: int, after: int, names: tuple[str, str]) -> list[str]:
    """Pixels of ground (or lost, where negative) at two sides that face each other."""
    if before == after:
        if before == 0:
            return []
        words = f"each {names[0]} and {names[1]}"
        return [f"{before} px of ground {words}" if before > 0 else f"{-before} px cropped {words}"]
    return [
        f"{space} px of ground {name}" if space > 0 else f"{-space} px cropped {name}"
        for space, name in ((before, names[0]), (after, names[1]))
        if space
    ]
