"""What Wax Seal finds around it: where its own files go, a config, whether there is a screen.

Nothing is made or looked at here: `private_folder` makes these folders and says whether they may
be used.
"""

from __future__ import annotations

import os
from pathlib import Path

from platformdirs import user_cache_path, user_config_path, user_data_path, user_state_path

__all__ = [
    "PROGRAM",
    "autosave_folder",
    "chimes_folder",
    "config_around",
    "demo_folder",
    "has_screen",
    "kernels_folder",
    "light_folder",
    "made_folder",
    "measures_folder",
    "proofs_folder",
    "running_folder",
    "segments_folder",
    "settings_folder",
    "specs_folder",
    "targets_folder",
    "tops",
]


PROGRAM = "waxseal"


def tops() -> tuple[Path, ...]:
    """The folders that hold all others of the program."""
    kinds = (user_cache_path, user_state_path, user_config_path, user_data_path)
    return tuple(kind(PROGRAM) for kind in kinds)


def demo_folder() -> Path:
    return user_data_path(PROGRAM) / "demo"


def autosave_folder() -> Path:
    return user_state_path(PROGRAM) / "autosave"


def settings_folder() -> Path:
    return user_config_path(PROGRAM)


def proofs_folder() -> Path:
    """Proofs of deliveries, to be looked at; may be deleted at any time."""
    return user_cache_path(PROGRAM) / "proofs"


def chimes_folder() -> Path:
    """Our own sounds; may be deleted at any time."""
    return user_cache_path(PROGRAM) / "chimes"


def running_folder() -> Path:
    """What is being delivered, a file a process; gone after an orderly end."""
    return user_state_path(PROGRAM) / "running"


def segments_folder() -> Path:
    """What was encoded of deliveries, piece by piece; may be deleted at any time."""
    return user_cache_path(PROGRAM) / "segments"


def kernels_folder() -> Path:
    """Where compiled kernels are kept; it may be deleted at any time."""
    return user_cache_path(PROGRAM) / "kernels"


def specs_folder() -> Path:
    """The user's own specs."""
    return settings_folder() / "specs"


def made_folder() -> Path:
    """Bars, tones and slates of jobs that have no place of their own yet."""
    return user_data_path(PROGRAM) / "made"


def measures_folder() -> Path:
    """What was measured of frames that were looked at closely; may be deleted at any time."""
    return user_cache_path(PROGRAM) / "measures"


def targets_folder() -> Path:
    """What is kept of each file that was ever delivered to: see `deliver.publish.target_record`."""
    return user_state_path(PROGRAM) / "targets"


def light_folder() -> Path:
    """Light copies for playing; may be deleted at any time."""
    return user_cache_path(PROGRAM) / "light"


def config_around() -> str:
    """The OCIO config's file that the environment names; empty where it names none."""
    return os.environ.get("OCIO", "")


def has_screen() -> bool:
    """Whether a window can be shown: a display, or a platform of Qt that was asked for."""
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))
