"""How far the sound of a finished film is behind its picture, by its claps and flashes."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from av.container import InputContainer

from waxseal.core.errors import SoundError
from waxseal.core.picture.arrays import Planes
from waxseal.core.progress import CancelToken
from waxseal.core.seal.measure.file_facts import Measured
from waxseal.core.sound.av_reader import decode_all, open_stream
from waxseal.core.sound.clap_finder import ClapsAndFlashes, claps_in, flashes_in, lined_up
from waxseal.core.sound.sample_types import Samples

__all__ = ["LightOfFrames", "sync_of"]

FULL_CODES = (255, 1023, 4095, 65_535)


class LightOfFrames:
    """Notes the mean of each frame's luma, 0..1, while the frames are decoded."""

    def __init__(self) -> None:
        self._means: list[float] = []
        self._most = 0

    def look(self, _place: int, planes: Planes) -> None:
        luma = planes[0][::4, ::4]
        self._means.append(float(luma.mean()))
        self._most = max(self._most, int(luma.max()))

    @property
    def lights(self) -> list[float]:
        full = next((one for one in FULL_CODES if self._most <= one), FULL_CODES[-1])
        return [mean / full for mean in self._means]


def sync_of(
    video: Path, measured: Measured, lights: LightOfFrames, token: CancelToken | None
) -> ClapsAndFlashes | None:
    """None where the film has no sound, no constant rate, or nothing to be told by.

    Raises Cancelled.
    """
    if measured.sound is None or measured.rate is None or video.is_dir():
        return None
    flashes = [float(frame / measured.rate) for frame in flashes_in(lights.lights)]
    if not flashes:
        return None
    try:
        with open_stream(video) as container:
            claps = claps_in(heard(container, token), measured.sound.sample_rate)
    except SoundError:
        return None
    return lined_up(claps, flashes) if claps else None


def heard(container: InputContainer, token: CancelToken | None) -> Iterator[Samples]:
    for block in decode_all(container):
        if token is not None:
            token.check()
        yield block
