"""The layouts of channels that are mixed and delivered: mono, stereo and 5.1 (L R C LFE Ls Rs)."""

from __future__ import annotations

from waxseal.core.errors import SoundError
from waxseal.core.text_format import counted

__all__ = ["LAYOUTS", "check_channels"]

LAYOUTS = {1: "mono", 2: "stereo", 6: "5.1"}


def check_channels(channels: int, name: str) -> None:
    """Raises SoundError for a number of channels that is not mixed."""
    if channels not in LAYOUTS:
        raise SoundError(
            f"{name} has {counted(channels, 'channel')}: give the sound as mono, stereo or 5.1."
        )
