"""Paths and parts of names in a job, which may come from anybody."""

from __future__ import annotations

import os
from typing import Annotated

from pydantic import AfterValidator

__all__ = ["NamePart", "PathText"]

LONGEST_PATH, LONGEST_NAME = 4095, 255  # bytes, of Linux


def is_path(text: str) -> str:
    if "\0" in text:
        raise ValueError("a path has no NUL character.")
    whole = os.fsencode(text)
    if len(whole) > LONGEST_PATH or any(len(name) > LONGEST_NAME for name in whole.split(b"/")):
        raise ValueError("a path, or a name in it, is longer than one can be.")
    return text


def is_part_of_name(text: str) -> str:
    """What stands before and after a frame's number: never a way out of its folder."""
    if "/" in text or "\0" in text or len(os.fsencode(text)) > LONGEST_NAME:
        raise ValueError("a file's name has no / and no NUL character, and at most 255 bytes.")
    return text


PathText = Annotated[str, AfterValidator(is_path)]
NamePart = Annotated[str, AfterValidator(is_part_of_name)]
