"""What a movie says of itself: size, rate and whether it is even, codec, colour, length."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import av

from waxseal.core.frames.movies.movie_pixels import has_alpha

__all__ = ["MovieFacts", "facts_of"]


@dataclass(frozen=True, slots=True)
class MovieFacts:
    """What a movie's file says of its picture.

    width, height: as it is looked at, in its own pixels.
    rate: frames a second: exact where is_constant, the average elsewhere.
    uneven: the first frame that comes early or late; 0 where none does.
    primaries, transfer: as it is tagged, by their numbers in ITU-T H.273.
    is_cut: whether samples that the file lists, or its end, are missing.
    share: how much of the length that the container states is there, a hint.
    """

    width: int
    height: int
    frames: int
    rate: Fraction
    uneven: int
    codec: str
    container: str
    bits: int
    has_alpha: bool
    pixel_shape: Fraction
    primaries: int
    transfer: int
    is_interlaced: bool
    share: float
    is_cut: bool = False

    @property
    def is_constant(self) -> bool:
        return self.uneven == 0


def facts_of(
    path: Path,
    container: av.container.InputContainer,
    first: av.VideoFrame,
    times: list[int],
    *,
    is_cut: bool,
) -> MovieFacts:
    """first: the first frame, decoded. times: of all frames, in the stream's own unit.

    is_cut: see MovieFacts.
    """
    stream = container.streams.video[0]
    is_turned = quarter_turns(first) % 2 == 1
    width, height = (first.height, first.width) if is_turned else (first.width, first.height)
    unit = stream.time_base or Fraction(1, 1)
    rate, uneven = rate_of(times, unit, rates_told(stream))
    ratio = Fraction(stream.sample_aspect_ratio or 1)
    if is_turned and ratio > 0:
        ratio = 1 / ratio
    return MovieFacts(
        width=width,
        height=height,
        frames=len(times),
        rate=rate,
        uneven=uneven,
        codec=stream.codec_context.codec.canonical_name,
        container=container_of(path, container),
        bits=max(component.bits for component in first.format.components),
        has_alpha=has_alpha(first),
        pixel_shape=ratio if Fraction(1, 4) <= ratio <= 4 else Fraction(1),
        primaries=int(first.color_primaries),
        transfer=int(first.color_trc),
        is_interlaced=bool(first.interlaced_frame),
        share=share_there(times, unit, rate, stream, container),
        is_cut=is_cut,
    )


def quarter_turns(frame: av.VideoFrame) -> int:
    """Against the clock, to put it upright."""
    return round(frame.rotation / 90) % 4


def rates_told(stream: av.VideoStream) -> list[Fraction]:
    told = (stream.average_rate, stream.base_rate, stream.guessed_rate)
    return [Fraction(rate) for rate in told if rate and 0 < rate <= 1000]


def rate_of(times: list[int], unit: Fraction, told: list[Fraction]) -> tuple[Fraction, int]:
    """The rate that the frames' times follow, and the first frame (from 1) that leaves it; or 0.

    A container that counts in milliseconds rounds the times: one unit is allowed.
    """
    if len(times) < 2:
        return (told[0] if told else Fraction(24)), 0
    average = Fraction(len(times) - 1) / ((times[-1] - times[0]) * unit)
    for rate in told:
        if first_uneven(times, unit, rate) == 0:
            return rate, 0
    steps = {after - before for before, after in pairwise(times)}
    if len(steps) == 1:
        return 1 / (steps.pop() * unit), 0
    meant = min(told, key=lambda rate: abs(rate - average), default=average)
    uneven = first_uneven(times, unit, meant) or 2
    return average.limit_denominator(1001), uneven


def first_uneven(times: list[int], unit: Fraction, rate: Fraction) -> int:
    step = 1 / (rate * unit)
    for index, time in enumerate(times):
        if abs(time - times[0] - index * step) > 1:
            return index + 1
    return 0


def share_there(
    times: list[int],
    unit: Fraction,
    rate: Fraction,
    stream: av.VideoStream,
    container: av.container.InputContainer,
) -> float:
    """The part of the stated length that has frames: under one where the last frame is held."""
    promised = Fraction(0)
    tag = stream.metadata.get("DURATION", "")  # Matroska: hours, minutes, seconds
    if stream.duration:
        promised = stream.duration * unit
    elif re.fullmatch(r"\d{1,4}:\d\d:\d\d\.\d{1,9}", tag):
        hours, minutes, seconds = tag.split(":")
        promised = int(hours) * 3600 + int(minutes) * 60 + Fraction(seconds)
    elif container.duration and not container.streams.audio:
        promised = Fraction(container.duration, av.time_base)
    there = (times[-1] - times[0]) * unit + 1 / rate
    return min(1.0, float(there / promised)) if promised > 0 else 1.0


def container_of(path: Path, container: av.container.InputContainer) -> str:
    """Its name as people say it: by the suffix where that is one of the format's."""
    names = container.format.name.split(",")
    suffix = path.suffix.lower().removeprefix(".")
    known = {"matroska": "MKV", "mpegts": "TS", "mpeg": "MPEG"}
    return (
        suffix if suffix in names or suffix in ("mkv", "m4v") else known.get(names[0], names[0])
    ).upper()
