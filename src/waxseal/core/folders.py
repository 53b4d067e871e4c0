"""What Wax Seal finds around it: where its own files go, a config, whether there is a screen."""

from __future__ import annotations

import os
from pathlib import Path

from platformdirs import user_cache_path, user_config_path, user_data_path, user_state_path

__all__ = [
    "autosave_folder",
    "chimes_folder",
    "config_around",
    "demo_folder",
    "has_screen",
    "kernels_folder",
    "light_folder",
    "locks_folder",
    "made_folder",
    "measures_folder",
    "proofs_folder",
    "running_folder",
    "segments_folder",
    "settings_folder",
    "specs_folder",
]


def demo_folder() -> Path:
    return user_data_path("waxseal") / "demo"


def autosave_folder() -> Path:
    return user_state_path("waxseal") / "autosave"


def settings_folder() -> Path:
    return user_config_path("waxseal")


def proofs_folder() -> Path:
    """Proofs of deliveries, to be looked at; may be deleted at any time."""
    return user_cache_path("waxseal") / "proofs"


def chimes_folder() -> Path:
    """Our own sounds; may be deleted at any time."""
    return user_cache_path("waxseal") / "chimes"


def running_folder() -> Path:
    """What is being delivered, a file a process; gone after an orderly end."""
    return user_state_path("waxseal") / "running"


def segments_folder() -> Path:
    """What was encoded of deliveries, piece by piece; may be deleted at any time."""
    return user_cache_path("waxseal") / "segments"


def kernels_folder() -> Path:
    """Where compiled kernels are kept; it may be deleted at any time."""
    return user_cache_path("waxseal") / "kernels"


def specs_folder() -> Path:
    """The user's own specs."""
    return settings_folder() / "specs"


def made_folder() -> Path:
    """Bars, tones and slates of jobs that have no place of their own yet."""
    return user_data_path("waxseal") / "made"


def measures_folder() -> Path:
    """What was measured of frames that were looked at closely; may be deleted at any time."""
    return user_cache_path("waxseal") / "measures"


def locks_folder() -> Path:
    """One empty file for each name that was ever delivered to; may be deleted at any time."""
    return user_state_path("waxseal") / "locks"


def light_folder() -> Path:
    """Light copies for playing; may be deleted at any time."""
    return user_cache_path("waxseal") / "light"


def config_around() -> str:
    """The OCIO config's file that the environment names; empty where it names none."""
    return os.environ.get("OCIO", "")


def has_screen() -> bool:
    """Whether a window can be shown: a display, or a platform of Qt that was asked for."""
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))
