"""How loud the sound of a delivery is made, so that the file is as loud as it has to be.

The sound is heard as the file will have it: what its codec does to the peaks counts.
"""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import replace

import av

from waxseal.core.deliver.codecs import SoundCodec
from waxseal.core.deliver.encode.writers.sound_track import SoundTrack
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.errors import DeliveryRefused
from waxseal.core.progress import CancelToken
from waxseal.core.seal.rules import LOUDNESS_TOLERANCE
from waxseal.core.sound.av_reader import decode_all
from waxseal.core.sound.loudness import Loudness, loudness_in
from waxseal.core.sound.mix import mix_blocks
from waxseal.core.sound.mix_plan import MixLevel, SoundPlan
from waxseal.core.sound.sample_types import Samples
from waxseal.core.text_format import numbered

__all__ = ["coded", "coded_bytes", "level_notes", "levelled"]

ROUNDS = 8
FULL_SCALE = 0.0  # dBTP: where nothing is said, what is made louder is not cut off
NEAR_LU, BELOW_DB = 0.1, 0.05  # near enough; kept below the most, so that rounding does not count


def levelled(form: ResolvedFormat, token: CancelToken) -> ResolvedFormat:
    """The form with its sound as loud as the delivery wants it.

    Raises DeliveryRefused where that cannot be, SoundError, Cancelled.
    """
    sound, codec = form.sound, form.sound_codec
    if sound is None or codec is None or (form.loudness is None and form.true_peak is None):
        return form
    before = heard(sound, None, token)
    if before is None or before.integrated_lufs is None:
        return form  # silence is as loud as it can be
    gain = 0.0 if form.loudness is None else form.loudness - before.integrated_lufs
    most = FULL_SCALE if form.true_peak is None else form.true_peak
    ceiling = most - BELOW_DB
    found = before
    for round_ in range(ROUNDS):
        level = MixLevel(round(gain, 3), round(ceiling, 3))
        louder = replace(sound, level=level)
        found = heard(louder, codec, token) or before
        off = 0.0 if form.loudness is None else form.loudness - loudness(found)
        over = found.true_peak_dbtp - most
        near = NEAR_LU if round_ < ROUNDS - 1 else LOUDNESS_TOLERANCE
        if abs(off) <= near and over <= 0:
            return replace(form, sound=louder)
        gain += off
        if over > 0:
            ceiling -= over + BELOW_DB
    raise DeliveryRefused(cannot_words(form, found))


def loudness(found: Loudness) -> float:
    return -70.0 if found.integrated_lufs is None else found.integrated_lufs


def cannot_words(form: ResolvedFormat, found: Loudness) -> str:
    there = (
        f"it comes to {numbered(loudness(found), 1)} LUFS with peaks of "
        f"{numbered(found.true_peak_dbtp, 1)} dBTP"
    )
    if form.loudness is None:
        return (
            f"The peaks of the sound cannot be held under {numbered(form.true_peak or 0, 1)} dBTP: "
            f"{there}."
        )
    return (
        f"The sound cannot be made {numbered(form.loudness, 1)} LUFS loud as it is: {there}. "
        "Choose a lower loudness, or a sound with lower peaks."
    )


def heard(plan: SoundPlan, codec: SoundCodec | None, token: CancelToken) -> Loudness | None:
    """How loud a plan is, after its codec where that changes the samples."""
    if codec is None or codec.bits:
        blocks = mix_blocks(plan, plan.sample_rate)
        return loudness_in(blocks, plan.sample_rate, plan.channels, token)
    return loudness_in(coded(plan, codec), plan.sample_rate, plan.channels, token)


def coded_file(plan: SoundPlan, codec: SoundCodec) -> io.BytesIO:
    """A plan in its codec, in memory."""
    file = io.BytesIO()
    with av.open(file, "w", format="matroska") as container:
        track = SoundTrack(container, plan, codec)
        track.write_rest()
        track.flush()
    return file


def coded_bytes(plan: SoundPlan, codec: SoundCodec) -> int:
    """How large the sound of a delivery is: it is encoded to know."""
    return len(coded_file(plan, codec).getbuffer())


def coded(plan: SoundPlan, codec: SoundCodec) -> Iterator[Samples]:
    """The samples of a plan as its codec gives them back."""
    file = coded_file(plan, codec)
    file.seek(0)
    with av.open(file, "r") as container:
        yield from decode_all(container)


def level_notes(form: ResolvedFormat) -> Iterator[str]:
    """What was done to the sound, in sentences."""
    level = form.sound.level if form.sound is not None else MixLevel()
    if abs(level.gain) >= NEAR_LU and form.loudness is not None:
        words = "louder" if level.gain > 0 else "quieter"
        yield (
            f"The sound is made {abs(level.gain):.1f} dB {words}, to "
            f"{numbered(form.loudness, 1)} LUFS."
        )
    if level.ceiling is not None:
        yield f"True peak limited to {numbered(form.true_peak or FULL_SCALE, 1)} dBTP."
