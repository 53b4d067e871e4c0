"""What a delivery's codec makes of its film: how far an honest file may be from the reel."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Self

from waxseal.core.deliver.encode.encode_state import EncodeOptions
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.deliver.limits.size_limit import encode_fitted
from waxseal.core.deliver.preview.delivery_pixels import Codes, frames_in, read_codes
from waxseal.core.plan.recipe_range import Film
from waxseal.core.progress import CancelToken, silent

__all__ = ["Reference"]


class Reference:
    """What the delivery makes of its film: in its codec, at its quality, under its limit.

    Encoded when it is first asked for, and all of it: what is left of a frame depends on the
    frames around it. (Segments of a file that was made here are still kept, as a rule.)
    """

    def __init__(self, film: Film, form: ResolvedFormat, token: CancelToken) -> None:
        self._film, self._form, self._token = film, form, token
        self._folder = TemporaryDirectory(prefix="waxseal-compare-")
        self._path = Path(self._folder.name) / f"reference{Path(form.path).suffix}"
        self._count = 0

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_error: object) -> None:
        self._folder.cleanup()

    def codes(self, frame: int) -> Codes | None:
        """Of one of the film's frames; None where the file shows fewer. Raises as `encode`."""
        if not self._count:
            how = (self._film, self._form, self._path, silent, self._token)
            encode_fitted(*how, who=EncodeOptions(keeps=False))
            self._count = len(frames_in(self._path)) or self._film.frames.count
        number = frame - self._film.frames.first + 1
        if number > self._count:
            return None
        return read_codes(self._path, number, untagged=self._form.tags[2])
