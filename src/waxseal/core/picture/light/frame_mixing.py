"""A picture between two frames: mix in linear light, or move to where things should be."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture.arrays import Light

__all__ = ["Motion", "mix", "move", "move_along", "unsure_share"]

UNSURE = 1.5  # pixels by which the way there and back may differ


def mix(before: Light, after: Light, share: float) -> Light:
    """Both at once, in linear light; share: 0 is before, 1 after."""
    part = np.float32(share)
    return before * (np.float32(1) - part) + after * part


class Motion:
    """What goes where between two frames: dense optical flow, both ways.

    Source: Kroeger et al. 2016, Fast Optical Flow using Dense Inverse Search,
    as OpenCV has it. Looked for in the brightness as it is seen.
    """

    def __init__(self, before: Light, after: Light) -> None:
        search = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
        one, other = as_shown(before), as_shown(after)
        nowhere = np.zeros((*one.shape, 2), np.float32)
        self.there = np.asarray(search.calc(one, other, nowhere.copy()), np.float32)
        self.back = np.asarray(search.calc(other, one, nowhere), np.float32)
        height, width = one.shape
        self._columns, self._rows = np.meshgrid(
            np.arange(width, dtype=np.float32), np.arange(height, dtype=np.float32)
        )

    def unsure(self, flow: Light, other: Light) -> NDArray[np.float32]:
        """How far each pixel is from where it started after there and back, in pixels."""
        returned = self._pulled(other, flow)
        return np.asarray(np.hypot(*np.moveaxis(flow + returned, -1, 0)), np.float32)

    def _pulled(self, picture: Light, flow: Light) -> Light:
        """A picture read where the flow points to."""
        pulled = cv2.remap(
            picture,
            self._columns + flow[..., 0],
            self._rows + flow[..., 1],
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )
        return np.asarray(pulled, np.float32).reshape(picture.shape)

    def at(self, before: Light, after: Light, share: float) -> Light:
        """The picture at a share of the way; where it is unsure, the two are mix."""
        part = np.float32(share)
        rest = np.float32(1) - part
        early = self._pulled(before, self.there * -part)
        late = self._pulled(after, self.back * -rest)
        known = mix(early, late, share)
        doubt = self.doubt()[..., None]
        return np.asarray(known + (mix(before, after, share) - known) * doubt)

    def doubt(self) -> NDArray[np.float32]:
        """(h, w), 0 where the movement is known, 1 where it is not; soft at its edges."""
        apart = np.maximum(self.unsure(self.there, self.back), self.unsure(self.back, self.there))
        return np.asarray(
            cv2.GaussianBlur(np.clip(apart / np.float32(UNSURE) - 1, 0, 1), (0, 0), 2.0), np.float32
        )


def move(before: Light, after: Light, share: float) -> Light:
    """See Motion; two frames that are the same cost nothing more than looking."""
    if before.shape != after.shape:
        return nearer(before, after, share)
    if np.array_equal(before, after):
        return before
    return Motion(before, after).at(before, after, share)


def move_along(first: Light, last: Light, before: Light, after: Light, share: float) -> Light:
    """What belongs to two pictures, `before` and `after`, moved as the pictures are.

    In the pictures' size, which theirs may differ from.
    """
    if first.shape != last.shape:
        return before  # the picture stays, too
    size = (first.shape[1], first.shape[0])
    one, other = (in_size(values, size) for values in (before, after))
    return Motion(first, last).at(one, other, share)


def in_size(values: Light, size: tuple[int, int]) -> Light:
    if (values.shape[1], values.shape[0]) == size:
        return values
    scaled = cv2.resize(values, size, interpolation=cv2.INTER_AREA)
    return np.asarray(scaled, np.float32).reshape(size[1], size[0], values.shape[2])


def nearer(before: Light, after: Light, share: float) -> Light:
    return before if share < 0.5 else after


def unsure_share(before: Light, after: Light) -> float:
    """The part of the picture, 0..1, where the movement is not known."""
    flows = Motion(before, after)
    return float(np.mean(flows.unsure(flows.there, flows.back) > UNSURE))


def as_shown(light: Light) -> NDArray[np.uint8]:
    """Brightness as it is seen, 8-bit."""
    luma = light[..., :3] @ np.array((0.2126, 0.7152, 0.0722), np.float32)
    return (np.clip(luma, 0, 1) ** np.float32(1 / 2.2) * np.float32(255)).astype(np.uint8)
