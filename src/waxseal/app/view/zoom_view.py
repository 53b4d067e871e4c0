"""How large the picture is shown, and which part of it: fitted, or at a size that was chosen."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize

from waxseal.app.look.widgets import fit_inside

__all__ = ["FIT", "STEP", "Room", "Zoom"]

SMALLEST, LARGEST = 0.05, 16.0
STEP = 1.25  # of one notch of a wheel


@dataclass(frozen=True, slots=True)
class Room:
    """Where the reel's frame may be drawn. ratio: screen pixels for a pixel of the room."""

    reel: QSize
    inside: QRectF
    ratio: float = 1.0


@dataclass(frozen=True, slots=True)
class Zoom:
    """scale: screen pixels for a reel pixel; 0 is as large as there is room.

    x, y: the place of the reel's frame, 0..1, that is in the middle of the room.
    """

    scale: float = 0.0
    x: float = 0.5
    y: float = 0.5

    @property
    def is_fitted(self) -> bool:
        return not self.scale

    def place(self, room: Room) -> QRectF:
        """Where the frame is drawn."""
        if self.is_fitted:
            return fit_inside(room.reel, room.inside)
        inside, by = room.inside, self.scale / room.ratio
        wide, tall = room.reel.width() * by, room.reel.height() * by
        left = clamped(inside.center().x() - self.x * wide, wide, inside.left(), inside.right())
        top = clamped(inside.center().y() - self.y * tall, tall, inside.top(), inside.bottom())
        return QRectF(left, top, wide, tall)

    def scaled(self, scale: float, at: QPointF, room: Room) -> Zoom:
        """Another scale; what is at a point of the room stays there."""
        shown = self.place(room)
        scale = min(max(scale, SMALLEST), LARGEST)
        x, y = (at.x() - shown.x()) / shown.width(), (at.y() - shown.y()) / shown.height()
        away, by = at - room.inside.center(), scale / room.ratio
        x -= away.x() / (room.reel.width() * by)
        y -= away.y() / (room.reel.height() * by)
        return Zoom(scale, x, y).settled(room)

    def scale_in(self, room: Room) -> float:
        """The scale that it is drawn at, fitted or not."""
        return self.place(room).width() * room.ratio / room.reel.width()

    def moved(self, by: QPointF, room: Room) -> Zoom:
        """Dragged along with the pointer."""
        if self.is_fitted:
            return self
        shown = self.place(room)
        x, y = self.x - by.x() / shown.width(), self.y - by.y() / shown.height()
        return Zoom(self.scale, x, y).settled(room)

    def settled(self, room: Room) -> Zoom:
        """The same with the middle where it is drawn: nothing is dragged beyond an edge."""
        shown, centre = self.place(room), room.inside.center()
        x, y = (centre.x() - shown.x()) / shown.width(), (centre.y() - shown.y()) / shown.height()
        return Zoom(self.scale, x, y)


def clamped(start: float, size: float, least: float, most: float) -> float:
    """Where a side begins, so that no room is left empty beside it; centred where it is smaller."""
    if size <= most - least:
        return (least + most - size) / 2
    return min(max(start, most - size), least)


FIT = Zoom()
