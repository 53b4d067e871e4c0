"""How large pictures are on their way: in their own frame, in the reel's, in the file's."""

from __future__ import annotations

from dataclasses import dataclass

from waxseal.core.deliver.format.delivery_settings import frame_of
from waxseal.core.deliver.match.match_row import Matched
from waxseal.core.picture.framing import Box, placed_box
from waxseal.core.plan.timeline import Part

__all__ = ["Placed", "most_enlarged", "sizes_of"]


@dataclass(frozen=True, slots=True)
class Placed:
    """A picture in a frame, in the frame's pixels. factor: by how much it is enlarged."""

    frame: tuple[int, int]
    box: Box
    factor: float = 1.0

    @property
    def cropped(self) -> float:
        """The share of the picture that lies outside of its frame."""
        box = self.box
        wide = max(0, min(box.x + box.width, self.frame[0]) - max(box.x, 0))
        tall = max(0, min(box.y + box.height, self.frame[1]) - max(box.y, 0))
        return 1 - wide * tall / max(1, box.width * box.height)


def sizes_of(m: Matched) -> tuple[Placed, Placed, Placed] | None:
    """The picture that is enlarged most, in its own frame and in the reel's; the reel's in the
    file's.

    None where no shot is shown.
    """
    if not m.parts:
        return None
    reel = (m.timeline.size.width, m.timeline.size.height)
    frame = frame_of(m.timeline.size, m.delivery)
    in_file = placed(reel, (frame.width, frame.height), m)
    own = m.parts[most_enlarged(m)]
    size = (own.sequence.shown_size.width, own.sequence.shown_size.height)
    return Placed(size, Box(0, 0, *size)), placed_shot(own, reel), in_file


def most_enlarged(m: Matched) -> int:
    """The index of the shot that is enlarged most; of equal ones, of the one cropped most."""
    reel = (m.timeline.size.width, m.timeline.size.height)
    shots = [placed_shot(part, reel) for part in m.parts]
    return max(range(len(shots)), key=lambda at: (shots[at].factor, shots[at].cropped))


def placed_shot(part: Part, reel: tuple[int, int]) -> Placed:
    size = (part.sequence.shown_size.width, part.sequence.shown_size.height)
    box = placed_box(size, reel, part.laid.framing, part.laid.placing)
    return Placed(reel, box, box.width / size[0])


def placed(reel: tuple[int, int], frame: tuple[int, int], m: Matched) -> Placed:
    box = placed_box(reel, frame, m.delivery.framing)
    return Placed(frame, box, max(box.width / reel[0], box.height / reel[1]))
