"""How the in-tray says things: origins, health, colours, in the user's language."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import QCoreApplication

from waxseal.app.tray import tray_texts
from waxseal.core.job.frame_states import FrameState
from waxseal.core.job.model import Health, Origin, Sequence, Sound
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import seconds_words

__all__ = [
    "count_words",
    "health_words",
    "kind_words",
    "length_words",
    "origin_words",
    "sound_words",
    "tr",
]


def tr(text: str) -> str:
    return QCoreApplication.translate("words", text)


def origin_words(origin: Origin) -> str:
    return {
        Origin.WRITTEN: tr("from file"),
        Origin.HABIT: tr("job default"),
        Origin.GUESS: tr("guessed, confirm"),
        Origin.SAID: tr("set by you"),
    }[origin]


def health_words(sequence: Sequence) -> tuple[str, str]:
    """The word on the card, and its tone."""
    again = len(sequence.to_rerender)
    if sequence.is_moved:
        return tr(str(FrameState.LOST)), "bad"
    if again:
        return tr("{0} to re-render").format(again), "bad"
    if sequence.health in (Health.MIXED, Health.ARRIVING, Health.NOT_READ):
        return tr(sequence.health.value), "heed"
    if sequence.unexpected:
        return tr("{0} not expected").format(len(sequence.unexpected)), "heed"
    doubtful = len({finding.frame for finding in sequence.findings})
    if doubtful:
        return tr("{0} to check").format(doubtful), "heed"
    return tr("whole"), "good"


def count_words(sequence: Sequence) -> str:
    rate = sequence.reading.rate.value
    there, expected = sequence.count, sequence.range.count
    if sequence.kind == "still":
        return tr("a still")
    count = tr("{0} frames").format(there)
    if there != expected:
        count = tr("{0} of {1} frames").format(there, expected)
    if sequence.files.padding:
        count = f"{str(sequence.range).replace('-', '–')} · {count}"
    return f"{count} · {seconds_words(expected, rate)} {tr('at')} {rate_words(rate)}"


def length_words(sequence: Sequence, reel_rate: Fraction | None) -> str:
    """The same in less room: its rate where that is not the reel's, else the files' numbers."""
    if sequence.kind == "still" or not sequence.files.padding:
        return count_words(sequence)
    rate = sequence.reading.rate.value
    numbers = str(sequence.range).replace("-", "–")
    length = seconds_words(sequence.range.count, rate)
    if rate != reel_rate or sequence.reading.rate.origin is Origin.GUESS:
        return f"{length} {tr('at')} {rate_words(rate)}"
    return length if health_words(sequence)[1] != "good" else f"{numbers} · {length}"


def kind_words(sequence: Sequence, *, is_lead: bool = False) -> str:
    """is_lead: whether other passes fold under it, and which pass it is stands there."""
    found = sequence.found
    if not found.format:
        return tr(tray_texts.NO_FRAME_CAN_BE_READ)
    channels = "".join(found.channels) if len(found.channels) <= 5 else f"{len(found.channels)} ch"
    depth = {"uint8": "8", "uint16": "16"}.get(found.depth, found.depth)
    kind = f"{found.format} {codec_words(found.codec)}" if found.codec else found.format
    words = f"{found.size} · {kind} {channels} {depth}"
    if sequence.stack is not None and sequence.stack.on:
        return tr("{0} passes").format(len(sequence.stack.passes)) + f" · {words}"
    return f"{sequence.belongs.kind} · {words}" if sequence.belongs and not is_lead else words


def codec_words(codec: str) -> str:
    """A codec by the name that the trade uses."""
    return {
        "h264": "H.264",
        "hevc": "H.265",
        "prores": "ProRes",
        "dnxhd": "DNxHR",
        "mjpeg": "Motion JPEG",
        "mpeg2video": "MPEG-2",
        "qtrle": tr("run-length"),
    }.get(codec, codec.upper())


def sound_words(sound: Sound) -> tuple[str, str]:
    channels = {1: tr("mono"), 2: tr("stereo")}.get(
        sound.channels, tr("{0} channels").format(sound.channels)
    )
    of = tr(" · of a movie") if sound.of_movie else ""
    return (
        f"{float(sound.seconds):.3f} s{of}",
        f"{sound.sample_rate / 1000:g} kHz · {channels} · {sound.format}",
    )
