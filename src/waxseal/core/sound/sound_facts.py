"""A sound as a value of the job, from what a reader found in its file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from pydantic import ValidationError

from waxseal.core.errors import SoundError
from waxseal.core.job.model import Sound, sentence_of
from waxseal.core.text_format import plain

__all__ = ["sound_of"]


def sound_of(path: Path, **facts: Any) -> Sound:
    """Raises SoundError for a file that claims what no sound has."""
    try:
        return Sound(id="s0", name=plain(path.name), path=str(path), **facts)
    except ValidationError as error:
        raise SoundError(
            f"{plain(path.name)} is damaged: it claims what no sound has ({sentence_of(error)}).",
            path=path,
        ) from None
