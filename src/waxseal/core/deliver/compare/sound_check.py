"""The sound of a finished file beside the mix that it was made from."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from waxseal.core.deliver.codecs import SoundCodec
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.encode.loudness_target import coded
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.errors import SoundError
from waxseal.core.progress import CancelToken
from waxseal.core.seal.measure.file_facts import Measured
from waxseal.core.sound.av_reader import decode_all, open_stream
from waxseal.core.sound.mix import mix_blocks
from waxseal.core.sound.sample_types import Samples
from waxseal.core.sound.sound_match import compare_sounds

__all__ = ["SoundVerdict", "sound_faults"]

LEAST_OVER = 0.05  # dB over full scale that are told


@dataclass(frozen=True, slots=True)
class SoundVerdict:
    """faults: what is wrong, in sentences. not_compared: what could not be told.

    notes: what is as the reel is, and a listener should know.
    """

    faults: tuple[str, ...] = ()
    not_compared: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()


def sound_faults(
    file: Path, form: ResolvedFormat, measured: Measured, token: CancelToken
) -> SoundVerdict:
    """Compare the sound of a movie, or beside frames, with the form's mix, sample by sample.

    What rules on the track say besides, that it is there and of which kind, is left to them.
    Raises Cancelled.
    """
    plan, found = form.sound, measured.sound
    if plan is None or found is None:
        return SoundVerdict()
    if (found.sample_rate, found.channels) != (plan.sample_rate, plan.channels):
        return SoundVerdict(not_compared=("The sound was not compared: it is of another kind.",))
    codec = codec_of(form, found.codec)
    if codec is None:
        return SoundVerdict(
            not_compared=(f"The sound was not compared: {found.codec} is not known here.",)
        )
    rate, cutting = plan.sample_rate, Cutting(plan.sample_rate)
    mixed = mix_blocks(plan, rate)
    try:
        with heard(file) as blocks:
            faults = compare_sounds(
                cutting.of(mixed) if codec.bits else mixed,
                blocks,
                rate,
                coded=None if codec.bits else coded(plan, codec),
                token=token,
            )
    except SoundError as error:
        return SoundVerdict(faults=(str(error),))
    return SoundVerdict(tuple(one.words for one in faults), notes=tuple(cutting.notes))


class Cutting:
    """What whole numbers make of samples beyond full scale, and how far and where they were."""

    def __init__(self, sample_rate: int) -> None:
        self._rate = sample_rate
        self._most, self._first, self._count = 1.0, -1, 0

    def of(self, blocks: Iterable[Samples]) -> Iterator[Samples]:
        """The same samples, cut at full scale."""
        for block in blocks:
            swings = np.abs(block).max(axis=1, initial=0)
            most = float(swings.max(initial=0))
            if most > 1:
                if self._first < 0:
                    self._first = self._count + int(np.argmax(swings > 1))
                self._most = max(self._most, most)
            self._count += len(block)
            yield np.clip(block, -1, 1) if most > 1 else block

    @property
    def notes(self) -> Iterator[str]:
        over = 20 * math.log10(self._most)
        if over >= LEAST_OVER:
            yield (
                f"The sound swings {over:.1f} dB over full scale, first at "
                f"{self._first / self._rate:.3f} s, and is cut there: turn it down, or hold its "
                "peaks."
            )


def codec_of(form: ResolvedFormat, measured_as: str) -> SoundCodec | None:
    """The codec that a file's sound is in; None for one that is never delivered."""
    own = (form.sound_codec,) if form.sound_codec is not None else ()
    every = (*own, *(one for container in CONTAINERS.values() for one in container.sounds))
    return next((one for one in every if one.codec == measured_as), None)


@contextmanager
def heard(file: Path) -> Iterator[Iterator[Samples]]:
    """The samples of a movie, or of the sound beside frames. Raises SoundError."""
    path = next(iter(sorted(file.glob("*.wav"))), file) if file.is_dir() else file
    with open_stream(path) as container:
        yield decode_all(container)
