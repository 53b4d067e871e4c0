"""The samples of a sound from any place on, at the rate at which it is heard."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from tempfile import SpooledTemporaryFile
from typing import Any, Protocol

import numpy as np
import soxr
from python_stretch import Signalsmith

from waxseal.core.errors import SoundError
from waxseal.core.job.model import Sound
from waxseal.core.sound.mix_plan import SoundPiece
from waxseal.core.sound.sample_reader import open_exact
from waxseal.core.sound.sample_types import Samples
from waxseal.core.sound.sound_files import another, change_since, read_blocks

__all__ = ["SampleSource", "heard_length", "heard_sound", "played"]

CHUNK = 1 << 16  # samples decoded at a time
TORN = 1 << 10  # of a sound that is not whole: what is read where it tears is lost
STRETCH = 1 << 14  # samples that are resampled at a time: soon there, where playing begins
IN_MEMORY = 16 << 20  # bytes of what has been decoded; more goes into a file
AROUND = 2048  # samples on each side that a resampled one depends on, and more
MOST_PERIOD = 1 << 16
KEPT = 4  # stretches of a resampled sound
BYTES = np.dtype(np.float32).itemsize


class SampleSource(Protocol):
    """Samples to be read from any place on: (count, channels) float32, ±1."""

    def read(self, first: int, count: int) -> Samples:
        """Silence before the first sample and after the last. Raises SoundError."""

    def close(self) -> None: ...


def heard_sound(sound: Sound, sample_rate: int) -> SampleSource:
    """A sound at a sample rate. Raises SoundError, also if its file is another by now."""
    path = Path(sound.path)
    trouble = change_since(sound)
    if trouble:
        raise SoundError(trouble, path=path)
    file = open_exact(path) if not sound.accepted else None
    if file is not None:
        raw: SampleSource = SamplesInFile(sound, file)
    else:
        block = CHUNK if not sound.accepted else TORN
        parts = read_blocks(path, start=0, block=block)
        taken = what_there_is(parts) if sound.accepted else all_of(parts, sound)
        raw = Decoded(taken, sound.channels)
    if sound.heard_rate == sample_rate:
        return raw
    return ResampledSource(raw, sound, sample_rate)


def heard_length(sound: Sound, sample_rate: int) -> int:
    """How many samples a sound has at a sample rate."""
    return round(sound.samples * sample_rate / sound.heard_rate)


def all_of(parts: Iterator[Samples], sound: Sound) -> Iterator[Samples]:
    """The same. Raises SoundError at the end if samples are missing that were there at the look."""
    count = 0
    for part in parts:
        count += len(part)
        yield part
    if count < sound.samples:
        raise SoundError(another(sound), path=Path(sound.path))


def what_there_is(parts: Iterator[Samples]) -> Iterator[Samples]:
    """The same, as far as it can be decoded: of a sound that is used though it is not whole."""
    with suppress(SoundError):
        yield from parts


class SamplesInFile:
    """A file of which any sample can be read."""

    def __init__(self, sound: Sound, file: Any) -> None:
        self._sound, self._file = sound, file

    def read(self, first: int, count: int) -> Samples:
        silence = min(count, max(0, -first))
        start = min(first + silence, self._file.frames)
        wanted = min(count - silence, self._file.frames - start)
        there = np.zeros((0, self._sound.channels), np.float32)
        try:
            if self._file.tell() != start:
                self._file.seek(start)
            there = self._file.read(wanted, "float32", always_2d=True)
            is_there = len(there) == wanted
        except RuntimeError:  # the library's, whose words are for programmers
            is_there = False
        if not is_there:
            words = f"{self._sound.name} is damaged: samples that it promises cannot be read."
            raise SoundError(words, path=Path(self._sound.path))
        return padded(there, silence, count)

    def close(self) -> None:
        self._file.close()


class Decoded:
    """What only comes one after the other, kept from its start as far as it was asked for."""

    def __init__(self, parts: Iterator[Samples], channels: int) -> None:
        self._parts, self._channels = parts, channels
        self._there = 0  # samples
        # A temporary file that outlives this function: `close` ends it.
        self._kept = SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115

    def read(self, first: int, count: int) -> Samples:
        silence = min(count, max(0, -first))
        start, stop = first + silence, first + count
        while self._there < stop:
            part = next(self._parts, None)
            if part is None:
                break
            self._keep(part)
        size = self._channels * BYTES
        self._kept.seek(start * size)
        read = self._kept.read(max(0, min(stop, self._there) - start) * size)
        there = np.frombuffer(read, np.float32).reshape(-1, self._channels)
        return padded(there, silence, count)

    def _keep(self, part: Samples) -> None:
        try:
            self._kept.seek(0, 2)
            self._kept.write(np.ascontiguousarray(part, np.float32).tobytes())
        except OSError as error:
            words = f"There is no room for a decoded sound: {error.strerror}."
            raise SoundError(words) from error
        self._there += len(part)

    def close(self) -> None:
        self._kept.close()


class ResampledSource:
    """A sound at another rate.

    Made in stretches that begin where both rates have a sample at the same time, so that a
    sample is the same wherever reading begins.
    """

    def __init__(self, raw: SampleSource, sound: Sound, sample_rate: int) -> None:
        times = Fraction(sample_rate) / sound.heard_rate
        if max(times.numerator, times.denominator) > MOST_PERIOD:
            times = times.limit_denominator(MOST_PERIOD)
        self._made, self._read = times.numerator, times.denominator  # samples of a period
        self._raw, self._length = raw, heard_length(sound, sample_rate)
        self._around = -(-AROUND // self._read)  # periods
        self._periods = max(1, STRETCH // self._made)
        self._kept: OrderedDict[int, Samples] = OrderedDict()

    def read(self, first: int, count: int) -> Samples:
        silence = min(count, max(0, -first))
        at, stop = first + silence, min(first + count, self._length)
        size = self._periods * self._made
        parts = []
        while at < stop:
            number, skip = divmod(at, size)
            part = self._stretch(number)[skip : skip + stop - at]
            parts.append(part)
            at += len(part)
        there = np.concatenate(parts) if parts else self._raw.read(0, 0)
        return padded(there, silence, count)

    def _stretch(self, number: int) -> Samples:
        if number not in self._kept:
            before = min(number * self._periods, self._around)
            periods = before + self._periods + self._around
            raw = self._raw.read(
                (number * self._periods - before) * self._read, periods * self._read
            )
            made: Samples = soxr.resample(raw, self._read, self._made, quality="VHQ")
            skip = before * self._made
            self._kept[number] = made[skip : skip + self._periods * self._made]
            while len(self._kept) > KEPT:
                self._kept.popitem(last=False)
        self._kept.move_to_end(number)
        return self._kept[number]

    def close(self) -> None:
        self._raw.close()


def played(opened: Callable[[], SampleSource], piece: SoundPiece, rate: int) -> SampleSource:
    """The run of a piece at its speed, the pitch kept. opened: gives its sound.

    Made whole, once: what is heard at a place depends on what comes before it.
    """

    def parts() -> Iterator[Samples]:
        first, stop = piece.run or (0, 0)
        whole = opened().read(first, stop - first)
        yield at_speed(whole[::-1] if piece.is_backwards else whole, piece.speed, rate)

    return Decoded(parts(), piece.sound.channels)


def at_speed(samples: Samples, speed: Fraction, rate: int) -> Samples:
    """The same, so many times as fast, its pitch kept: (round(count / speed), channels)."""
    count = round(len(samples) / speed)
    stretch = Signalsmith.Stretch(1)  # a seed: the same samples every time
    stretch.preset(samples.shape[1], rate)
    stretch.setTimeFactor(float(speed))
    made = np.asarray(stretch.process(np.ascontiguousarray(samples.T)), np.float32).T
    return padded(np.ascontiguousarray(made)[:count], 0, count)


def padded(there: Samples, silence: int, count: int) -> Samples:
    """So many samples of silence, what is there, and silence up to `count`."""
    if not silence and len(there) == count:
        return there
    whole = np.zeros((count, there.shape[1]), np.float32)
    whole[silence : silence + len(there)] = there
    return whole
