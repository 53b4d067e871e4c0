"""What Wax Seal finds around it: where its own files go, and whether there is a screen."""

from __future__ import annotations

import os
from pathlib import Path

from platformdirs import user_data_path, user_state_path

__all__ = ["autosave_folder", "demo_folder", "has_screen"]


def demo_folder() -> Path:
    return user_data_path("waxseal") / "demo"


def autosave_folder() -> Path:
    return user_state_path("waxseal") / "autosave"


def has_screen() -> bool:
    """Whether a window can be shown: a display, or a platform of Qt that was asked for."""
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))
