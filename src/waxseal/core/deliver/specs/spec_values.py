"""The values of a spec that are words: what it is for, whether it wants sound."""

from __future__ import annotations

from enum import StrEnum

__all__ = ["Purpose", "SoundWish"]


class Purpose(StrEnum):
    """What a destination is for."""

    LOOKED_AT = "to be looked at"
    UNDER_A_SIZE = "under a size"
    EDITED = "to be edited on"
    FRAMES = "frames"
    KEPT = "to be kept"

    @property
    def label(self) -> str:
        """As it is shown; the value is what spec files hold."""
        return PURPOSE_LABELS[self]


PURPOSE_LABELS = {
    Purpose.LOOKED_AT: "Viewing",
    Purpose.UNDER_A_SIZE: "Size-limited",
    Purpose.EDITED: "Editing",
    Purpose.FRAMES: "Frames",
    Purpose.KEPT: "Archive",
}


class SoundWish(StrEnum):
    ALLOWED = "allowed"
    NEEDED = "needed"
    NONE = "none"

    @property
    def is_needed(self) -> bool:
        return self is SoundWish.NEEDED

    @property
    def is_refused(self) -> bool:
        return self is SoundWish.NONE
