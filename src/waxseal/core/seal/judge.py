"""What a finished file has to be, and whether it is."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from waxseal.core.seal.likeness import Likeness
from waxseal.core.seal.measure import Measured
from waxseal.core.timing.ranges import write_frames
from waxseal.core.timing.rates import write_rate

__all__ = ["Expected", "ExpectedSound", "judge"]

POOREST_PSNR = 16.0  # dB: below it a frame is another picture, whatever the bitrate


@dataclass(frozen=True, slots=True)
class ExpectedSound:
    sample_rate: int
    channels: int
    samples: int


@dataclass(frozen=True, slots=True)
class Expected:
    """What was ordered. colour as in Measured; sound None: no sound track at all."""

    width: int
    height: int
    frames: int
    rate: Fraction
    codec: str
    profile: str
    pixel_format: str
    colour: tuple[int, int, int, bool]
    sound: ExpectedSound | None


def judge(
    measured: Measured, expected: Expected, likeness: Likeness, poorest_psnr: float
) -> tuple[str, ...]:
    """Every way in which a file is not what was ordered, in sentences; empty when it is."""
    reasons = []
    if measured.frames != expected.frames:
        reasons.append(f"It has {measured.frames} frames; {expected.frames} were to be there.")
    if measured.rate != expected.rate:
        rate = write_rate(measured.rate) if measured.rate else "no constant rate"
        reasons.append(f"It runs at {rate}; {write_rate(expected.rate)} was to be.")
    for what, is_now, was_to_be in (
        ("size", (measured.width, measured.height), (expected.width, expected.height)),
        ("codec", measured.codec, expected.codec),
        ("profile", measured.profile, expected.profile),
        ("pixel format", measured.pixel_format, expected.pixel_format),
        ("colour tags", measured.colour, expected.colour),
    ):
        if is_now != was_to_be:
            reasons.append(f"Its {what}: {is_now}; {was_to_be} was to be.")
    if measured.damaged_frames:
        reasons.append(f"{measured.damaged_frames} of its frames are damaged.")
    reasons += container_reasons(measured, expected)
    reasons += sound_reasons(measured, expected.sound)
    if likeness.unlike:
        reasons.append(
            f"Frames {write_frames(likeness.unlike)} do not look like the reel's pictures."
        )
    if likeness.doubts:
        reasons.append(f"Frames {write_frames(likeness.doubts)} look like their neighbours.")
    if poorest_psnr < POOREST_PSNR:
        reasons.append(f"A frame is only {poorest_psnr:.1f} dB like the reel's picture.")
    return tuple(reasons)


def container_reasons(measured: Measured, expected: Expected) -> list[str]:
    boxes = measured.container
    if boxes is None:
        return ["Its container makes no sense."]
    reasons = []
    if not boxes.is_quick_start:
        reasons.append("Its index stands behind the pictures: it starts playing late.")
    for track in boxes.tracks:
        if track.kind != "vide":
            continue
        if track.colour != expected.colour:
            reasons.append(f"Its container's colour tags: {track.colour}.")
        if len(track.durations) > 1:
            reasons.append("Its container gives the frames different lengths.")
        if track.shown is not None and track.shown != expected.frames / expected.rate:
            reasons.append(
                f"Its container shows {float(track.shown):.3f} s of picture; "
                f"{float(expected.frames / expected.rate):.3f} s was to be."
            )
    return reasons


def sound_reasons(measured: Measured, expected: ExpectedSound | None) -> list[str]:
    sound = measured.sound
    if sound is None or expected is None:
        if sound is not None:
            return ["It has a sound track; none was to be."]
        return ["It has no sound; one was to be."] if expected is not None else []
    reasons = []
    if (sound.sample_rate, sound.channels) != (expected.sample_rate, expected.channels):
        reasons.append(
            f"Its sound has {sound.sample_rate} Hz, {sound.channels} channels; "
            f"{expected.sample_rate} Hz, {expected.channels} channels was to be."
        )
    wanted = Fraction(expected.samples, expected.sample_rate)
    if abs(sound.seconds - wanted) > Fraction(1, expected.sample_rate):
        reasons.append(
            f"Its sound is {float(sound.seconds):.4f} s long; {float(wanted):.4f} s was to be."
        )
    return reasons
