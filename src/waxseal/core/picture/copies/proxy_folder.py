"""Light copies: small frames in a folder, for playing what is too heavy to be decoded in time.

A copy holds the light of a source's frame as it is read, or of the passes that
it is put together from, at a size for the screen. It is named after all of
that: a file that was written again, or is read another way, has no copy any
more. Nothing is delivered from a copy. Losing the folder costs time alone.
"""

from __future__ import annotations

import errno
import os
import re
import shutil
import threading
from collections import OrderedDict
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from waxseal.core.atomic_write import partial_name, partials_in
from waxseal.core.frames.frame_reader import read_ordinary_exr
from waxseal.core.frames.frame_writer import write_light
from waxseal.core.job.model import Colourway, Space
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.colour.colour_file_states import config_states
from waxseal.core.picture.light.light_reader import Means
from waxseal.core.plan.recipe import Recipe, Shown
from waxseal.core.plan.recipe_keys import store_key
from waxseal.core.private_folder import is_private, private_folder
from waxseal.core.text_format import bytes_words

__all__ = ["MOST_BYTES", "LightCopies"]

MOST_BYTES = 8_000_000_000
LEAST_FREE = 5_000_000_000  # bytes that are left to deliveries and renderers
WIDEST = 1280  # pixels of a copy
BRIGHTEST = 32768.0  # of half the range of a half: the compression may round up
NAME = re.compile(r"([0-9a-f]{32})-(\d+)x(\d+)\.exr")

Size = tuple[int, int]


@dataclass(frozen=True, slots=True)
class Copy:
    """size: of the source's frame, in pixels, whose light it holds."""

    path: Path
    size: Size
    size_bytes: int


class LightCopies:
    """A folder of light copies, bounded in bytes: the oldest go first. Asked from any thread."""

    def __init__(self, folder: Path, most_bytes: int = MOST_BYTES) -> None:
        self._folder, self._most = folder, most_bytes
        self._lock = threading.Lock()
        self._kept: OrderedDict[str, Copy] | None = None
        self._bytes = 0

    def has(self, shown: Shown, colourway: Colourway) -> bool:
        with self._lock:
            return name_of(shown, colourway) in self._known()

    def serve(self, recipe: Recipe) -> bool:
        """Whether any layer of a recipe has a copy."""
        means = Means(recipe.colour, Space.SRGB)
        return any(self.has(one.shown, means.of(one).colourway) for one in recipe.layers())

    def find(self, shown: Shown, colourway: Colourway) -> tuple[Light, Size] | None:
        """The light of a copy, premultiplied, and the size of its frame."""
        with self._lock:
            copy = self._known().get(name_of(shown, colourway))
        if copy is None:
            return None
        try:
            return read_ordinary_exr(copy.path).astype(np.float32), copy.size
        except (OSError, RuntimeError, ValueError):
            return None  # the folder was tidied up

    def keep(self, shown: Shown, colourway: Colourway, light: Light) -> None:
        """Write a copy of light at its source's size.

        Raises OSError, also where so little room is left that others need it more.
        """
        height, width = light.shape[:2]
        name = name_of(shown, colourway)
        path = self._folder / f"{name}-{width}x{height}.exr"
        partial = partial_name(path)
        private_folder(self._folder)
        if shutil.disk_usage(self._folder).free < LEAST_FREE:
            raise OSError(errno.ENOSPC, f"less than {bytes_words(LEAST_FREE)} are free")
        try:
            # A fixed rate, quick to read, off by less than a percent (OpenEXR, technical notes).
            write_light(partial, shrunk(light), compression="B44")
            partial.replace(path)
        finally:
            partial.unlink(missing_ok=True)
        copy = Copy(path, (width, height), path.stat().st_size)
        with self._lock:
            known = self._known()
            before = known.pop(name, None)
            known[name] = copy
            self._bytes += copy.size_bytes - (before.size_bytes if before is not None else 0)
        self._forget_oldest()

    @property
    def size_bytes(self) -> int:
        with self._lock:
            self._known()
            return self._bytes

    def _known(self) -> OrderedDict[str, Copy]:
        """The copies by name, the oldest first; the folder is looked through once."""
        if self._kept is None:
            self._kept = OrderedDict()
            if not is_private(self._folder):
                return self._kept
            with suppress(OSError):
                for left in partials_in(self._folder):
                    left.unlink(missing_ok=True)
            for copy, name in sorted(
                list_copies(self._folder), key=lambda one: age_of(one[0].path)
            ):
                self._kept[name] = copy
                self._bytes += copy.size_bytes
        return self._kept

    def _forget_oldest(self) -> None:
        while True:
            with self._lock:
                kept = self._known()
                if self._bytes <= self._most or len(kept) <= 1:
                    return
                _, oldest = kept.popitem(last=False)
                self._bytes -= oldest.size_bytes
            oldest.path.unlink(missing_ok=True)


def name_of(shown: Shown, colourway: Colourway) -> str:
    return store_key(shown, colourway, *config_states(colourway.config))


def list_copies(folder: Path) -> list[tuple[Copy, str]]:
    try:
        names = os.listdir(folder)  # noqa: PTH208 - names are all that is wanted
    except OSError:
        return []
    found = []
    for name in names:
        match = NAME.fullmatch(name)
        if match is not None:
            path = folder / name
            try:
                size_bytes = path.stat().st_size
            except OSError:
                continue
            size = (int(match[2]), int(match[3]))
            found.append((Copy(path, size, size_bytes), match[1]))
    return found


def age_of(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return 0.0


def shrunk(light: Light) -> NDArray[np.float16]:
    """By a whole number, each pixel the mean of several; cut where it is too bright."""
    height, width = light.shape[:2]
    times = -(-width // WIDEST)
    if times > 1:
        size = (max(1, round(width / times)), max(1, round(height / times)))
        light = np.asarray(cv2.resize(light, size, interpolation=cv2.INTER_AREA), np.float32)
    finite = np.nan_to_num(np.clip(light, -BRIGHTEST, BRIGHTEST), nan=0.0)
    return np.asarray(finite, np.float16)
