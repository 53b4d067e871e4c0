"""The names of delivered files, and why a finished one cannot get its own."""

from __future__ import annotations

from pathlib import Path
from typing import cast

from waxseal.core.deliver.codecs import FrameFile
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.text_format import names_words, plain

__all__ = ["frame_name", "is_frame_of", "name_taken", "sound_name"]


def frame_name(name: str, frame: int, suffix: str) -> str:
    return f"{name}.{frame:04d}{suffix}"


def sound_name(name: str) -> str:
    return f"{name}.wav"


def is_frame_of(name: str, file: str, suffix: str) -> bool:
    """Whether a file has the name of a frame of the delivery `name`."""
    number = file.removeprefix(f"{name}.").removesuffix(suffix)
    return number.isdecimal() and file == frame_name(name, int(number), suffix)


def name_taken(path: Path, form: ResolvedFormat, *, overwrite: bool) -> str:
    """Why a finished file cannot get the name; empty where it can. form: of what will be there.

    A folder of frames takes the place of one that was delivered, and of nothing else.
    """
    is_folder = CONTAINERS[form.container].is_folder
    name = plain(path.name)
    if path.is_dir() and not is_folder:
        return f"{name} is a folder: choose another name."
    if not path.exists():
        return ""
    if is_folder and not path.is_dir():
        return f"{name} is there already and is no folder: choose another name."
    if not overwrite:
        return f"{name} is there already: choose another name, or overwrite it."
    others = strangers_in(path, form) if is_folder else []
    if others:
        return (
            f"{name} holds more than delivered frames ({names_words(others)}): choose another name."
        )
    return ""


def strangers_in(folder: Path, form: ResolvedFormat) -> list[str]:
    """What is in a folder besides frames of a delivery, and their sound."""
    name, suffix = form.path.name, cast(FrameFile, form.codec.coding).suffix
    return [
        one.name
        for one in folder.iterdir()
        if not is_frame_of(name, one.name, suffix) and one.name != sound_name(name)
    ]
