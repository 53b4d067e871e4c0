"""Where Wax Seal keeps what is its own: the demo, autosaves."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_data_path, user_state_path

__all__ = ["autosave_folder", "demo_folder"]


def demo_folder() -> Path:
    return user_data_path("waxseal") / "demo"


def autosave_folder() -> Path:
    return user_state_path("waxseal") / "autosave"
