"""The rules that a finished file has to keep: a function each, and a line in the table here.

A rule gives a sentence for each way in which it is broken: what was expected, and
what was found.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction

from waxseal.core.job.model import shape_words
from waxseal.core.seal.expected import Expected, LightLevels
from waxseal.core.seal.likeness import Likeness
from waxseal.core.seal.measure.file_facts import Measured
from waxseal.core.seal.measure.mp4_boxes import Track
from waxseal.core.text_format import bytes_words, counted, numbered
from waxseal.core.timing.ranges import write_frames
from waxseal.core.timing.rates import rate_words

__all__ = [
    "LOUDNESS_TOLERANCE",
    "RULES",
    "Evidence",
    "Rule",
    "tag_words",
]

# LU: EBU R 128 allows as much of a finished programme, from memory.
ROUNDED = Fraction(1, 1000)  # of a second
LOUDNESS_TOLERANCE = 0.5
PEAK_TOLERANCE = 0.02  # dB: the last digit that two meters agree on


@dataclass(frozen=True, slots=True)
class Evidence:
    """All that a rule may look at. poorest_psnr: of the frames that were compared whole, in dB.

    flashes: passages that may harm, in sentences. sound: in which its samples differ from the mix.
    """

    measured: Measured
    expected: Expected
    likeness: Likeness
    poorest_psnr: float
    flashes: tuple[str, ...] = ()
    sound: tuple[str, ...] = ()

    @property
    def picture_tracks(self) -> Iterator[Track]:
        boxes = self.measured.boxes
        if boxes is not None and self.expected.has_boxes:
            yield from (track for track in boxes.tracks if track.kind == "vide")


Rule = Callable[[Evidence], Iterator[str]]


# ---- pictures --------------------------------------------------------------------------------


def count(evidence: Evidence) -> Iterator[str]:
    expected, found = evidence.expected.frames, evidence.measured.frames
    if found != expected:
        yield f"Expected {counted(expected, 'frame')}, found {found}."


def rate(evidence: Evidence) -> Iterator[str]:
    expected, found = evidence.expected.rate, evidence.measured.rate
    if found is None and not evidence.expected.says_rate and not evidence.measured.is_uneven:
        return
    if found != expected:
        words = f"{rate_words(found)} fps" if found else "a rate that changes"
        yield f"Expected {rate_words(expected)} fps, found {words}."


def size(evidence: Evidence) -> Iterator[str]:
    expected, found = evidence.expected, evidence.measured
    if (found.width, found.height) != (expected.width, expected.height):
        yield (
            f"Expected {expected.width} × {expected.height} pixels, "
            f"found {found.width} × {found.height}."
        )


def pixel_shape(evidence: Evidence) -> Iterator[str]:
    expected, found = evidence.expected.pixel_shape, evidence.measured.pixel_shape
    if found != expected:
        yield f"Expected pixels of the shape {shape_words(expected)}, found {shape_words(found)}."


def coding(evidence: Evidence) -> Iterator[str]:
    expected, found = evidence.expected, evidence.measured
    for what, wanted, there in (
        ("codec", expected.codec, found.codec),
        ("profile", expected.profile, found.profile),
        ("pixel format", expected.pixel_format, found.pixel_format),
    ):
        if wanted != there:
            yield f"Expected the {what} {wanted}, found {there or 'none'}."


def colour_tags(evidence: Evidence) -> Iterator[str]:
    expected, found = evidence.expected.colour, evidence.measured.colour
    if found != expected:
        yield f"The file is tagged {tag_words(found)}. This delivery needs {tag_words(expected)}."


def key_frames(evidence: Evidence) -> Iterator[str]:
    wanted, found = evidence.expected.key_frames, evidence.measured.key_gap
    if wanted and found > wanted:
        yield f"Expected a key frame every {counted(wanted, 'frame')}, found {found} without one."


def level(evidence: Evidence) -> Iterator[str]:
    least, found = evidence.expected.level, evidence.measured.level
    if least and (not found or float(found) < float(least)):
        yield f"The pictures need level {least}, and the file says {found or 'none'}."


def largest(evidence: Evidence) -> Iterator[str]:
    most, found = evidence.expected.most_bytes, evidence.measured.size_bytes
    if most and found > most:
        yield (
            f"The file has {bytes_words(found)}, and {bytes_words(most)} are the most: "
            "choose a lower quality, a smaller size or a shorter range."
        )


def damage(evidence: Evidence) -> Iterator[str]:
    damaged = evidence.measured.damaged_frames
    if damaged:
        yield f"{counted(damaged, 'frame')} of the file {'is' if damaged == 1 else 'are'} damaged."


def every_frame_compared(evidence: Evidence) -> Iterator[str]:
    expected, compared = evidence.expected.frames, evidence.likeness.compared
    if compared < min(expected, evidence.measured.frames):
        yield f"Only {compared} of {counted(expected, 'frame')} could be compared with the reel."


def as_encoded(evidence: Evidence) -> Iterator[str]:
    if evidence.expected.stream != evidence.measured.stream:
        yield "The pictures in the file are not those that were encoded."


def likeness(evidence: Evidence) -> Iterator[str]:
    unlike = evidence.likeness.unlike
    if unlike:
        one = len(unlike) == 1
        words = "Frame {0} does not look like the" if one else "Frames {0} do not look like the"
        yield f"{words.format(write_frames(unlike))} reel's picture{'' if one else 's'}."


def faults(evidence: Evidence) -> Iterator[str]:
    yield from evidence.likeness.faults


def order(evidence: Evidence) -> Iterator[str]:
    doubts = evidence.likeness.doubts
    if doubts:
        one = len(doubts) == 1
        words = "Frame {0} looks like its neighbour" if one else "Frames {0} look like neighbours"
        yield f"{words.format(write_frames(doubts))}: the order may be wrong."


def whole_frames(evidence: Evidence) -> Iterator[str]:
    psnr, least = evidence.poorest_psnr, evidence.expected.least_psnr
    if psnr < least:
        yield f"A frame is {psnr:.1f} dB from the reel's picture: at least {least:g} dB are needed."


# ---- the container ---------------------------------------------------------------------------


def boxes_there(evidence: Evidence) -> Iterator[str]:
    """A file whose boxes name no pictures would keep every rule on them."""
    if evidence.expected.has_boxes and not list(evidence.picture_tracks):
        yield "The boxes of the file's container cannot be read."


def quick_start(evidence: Evidence) -> Iterator[str]:
    boxes = evidence.measured.boxes
    if evidence.expected.has_boxes and boxes is not None and not boxes.is_quick_start:
        yield "The index comes after the pictures: the file starts playing late."


def boxed_tags(evidence: Evidence) -> Iterator[str]:
    wanted = evidence.expected.colour
    for track in evidence.picture_tracks:
        if track.colour not in (wanted, (*wanted[:3], None)):  # one has no word for the range
            yield (
                f"The container is tagged {tag_words(track.colour)}. "
                f"This delivery needs {tag_words(evidence.expected.colour)}."
            )


def boxed_pixel_shape(evidence: Evidence) -> Iterator[str]:
    wanted = evidence.expected.pixel_shape
    for track in evidence.picture_tracks:
        if track.pixel_shape != wanted:
            yield (
                f"Expected pixels of the shape {shape_words(wanted)}, "
                f"the container says {shape_words(track.pixel_shape)}."
            )


def even_steps(evidence: Evidence) -> Iterator[str]:
    for track in evidence.picture_tracks:
        if len(track.durations) > 1:
            yield "The container gives frames different lengths."


def shown_length(evidence: Evidence) -> Iterator[str]:
    wanted = evidence.expected.frames / evidence.expected.rate
    for track in evidence.picture_tracks:
        if track.shown is not None and track.shown != wanted:
            yield (
                f"Expected {float(wanted):.3f} s of picture, "
                f"the container shows {float(track.shown):.3f} s."
            )


def stated_length(evidence: Evidence) -> Iterator[str]:
    """Some containers count in thousandths of a second: each end is rounded by half of one."""
    wanted = evidence.expected.frames / evidence.expected.rate
    stated = evidence.measured.stated_seconds
    if stated is not None and abs(stated - wanted) > ROUNDED:
        yield (
            f"Expected {float(wanted):.3f} s of picture, "
            f"the container states {float(stated):.3f} s."
        )


# ---- the sound -------------------------------------------------------------------------------


def sound_there(evidence: Evidence) -> Iterator[str]:
    expected, found = evidence.expected.sound, evidence.measured.sound
    if expected is None and found is not None:
        yield "The file has a sound track, but the reel has no sound."
    if expected is not None and found is None:
        yield "The file has no sound track, but the reel has sound."


def sound_kind(evidence: Evidence) -> Iterator[str]:
    expected, found = evidence.expected.sound, evidence.measured.sound
    if expected is None or found is None:
        return
    if found.codec != expected.codec:
        yield f"Expected sound in {expected.codec}, found {found.codec}."
    if (found.sample_rate, found.channels) != (expected.sample_rate, expected.channels):
        yield (
            f"Expected sound of {expected.sample_rate} Hz and "
            f"{counted(expected.channels, 'channel')}, found {found.sample_rate} Hz and "
            f"{counted(found.channels, 'channel')}."
        )


def sound_length(evidence: Evidence) -> Iterator[str]:
    expected, found = evidence.expected.sound, evidence.measured.sound
    if expected is None or found is None:
        return
    wanted = Fraction(expected.samples, expected.sample_rate)
    if abs(found.seconds - wanted) > Fraction(1, expected.sample_rate):
        yield f"Expected {float(wanted):.4f} s of sound, found {float(found.seconds):.4f} s."


def sound_as_mixed(evidence: Evidence) -> Iterator[str]:
    yield from evidence.sound


def loudness(evidence: Evidence) -> Iterator[str]:
    """Silence has no loudness, and is as loud as it can be made."""
    wanted, found = evidence.expected.loudness, evidence.measured.loudness
    if wanted is None or evidence.measured.sound is None:
        return
    if found is None:
        yield "The loudness of the sound could not be measured."
    elif found.integrated_lufs is not None:
        off = abs(found.integrated_lufs - wanted)
        if off > LOUDNESS_TOLERANCE:
            yield (
                f"Expected a sound of {numbered(wanted, 1)} LUFS, "
                f"found {numbered(found.integrated_lufs, 1)} LUFS."
            )


def true_peak(evidence: Evidence) -> Iterator[str]:
    most, found = evidence.expected.true_peak, evidence.measured.loudness
    if most is None or evidence.measured.sound is None:
        return
    if found is None:
        yield "The true peak of the sound could not be measured."
    elif found.true_peak_dbtp > most + PEAK_TOLERANCE:
        yield (
            f"The sound peaks at {numbered(found.true_peak_dbtp, 2)} dBTP, "
            f"{numbered(most, 1)} dBTP is the most."
        )


def timecode(evidence: Evidence) -> Iterator[str]:
    wanted, found = evidence.expected.timecode, evidence.measured.timecode
    if wanted and found != wanted:
        yield f"Expected the timecode {wanted} at the first frame, found {found or 'none'}."


def bright(evidence: Evidence) -> Iterator[str]:
    wanted = evidence.expected.light
    for track in evidence.picture_tracks:
        if wanted is not None and track.light != wanted:
            there = light_words(track.light)
            yield f"Expected the light levels {light_words(wanted)}, found {there}."


def mastered(evidence: Evidence) -> Iterator[str]:
    wanted = evidence.expected.mastering
    for track in evidence.picture_tracks:
        if wanted != track.mastering:
            there = track.mastering or "none"
            yield f"Expected the mastering display {wanted or 'none'}, found {there}."


def light_words(levels: LightLevels | None) -> str:
    return f"{levels[0]} and {levels[1]} cd/m²" if levels is not None else "none"


def harmless(evidence: Evidence) -> Iterator[str]:
    if evidence.expected.no_flashes:
        yield from evidence.flashes


RULES: tuple[Rule, ...] = (
    bright,
    mastered,
    count,
    rate,
    size,
    pixel_shape,
    coding,
    colour_tags,
    key_frames,
    level,
    largest,
    damage,
    every_frame_compared,
    boxes_there,
    quick_start,
    boxed_tags,
    boxed_pixel_shape,
    even_steps,
    shown_length,
    stated_length,
    sound_there,
    sound_kind,
    sound_length,
    sound_as_mixed,
    loudness,
    true_peak,
    timecode,
    harmless,
    as_encoded,
    likeness,
    faults,
    order,
    whole_frames,
)

# ITU-T H.273, by what the trade calls the sets that are in use.
PRIMARIES = {1: "BT.709", 9: "BT.2020", 12: "Display P3"}
TRANSFERS = {1: "BT.709", 13: "sRGB", 16: "PQ", 18: "HLG"}
MATRICES = {1: "BT.709", 9: "BT.2020"}
USUAL = {(1, 1, 1): "BT.709", (12, 13, 1): "Display P3"}
USUAL |= {(9, 16, 9): "BT.2020 PQ", (9, 18, 9): "BT.2020 HLG"}


def tag_words(tags: tuple[int, int, int, bool | None] | None) -> str:
    """Colour tags by their names: `BT.709`, `BT.2020 PQ, full range`."""
    if tags is None:
        return "with no colour"
    primaries, transfer, matrix, is_full = tags
    words = USUAL.get((primaries, transfer, matrix))
    if words is None:
        words = (
            f"with the primaries {PRIMARIES.get(primaries, primaries)}, "
            f"the curve {TRANSFERS.get(transfer, transfer)} and "
            f"the matrix {MATRICES.get(matrix, matrix)}"
        )
    return f"{words}, full range" if is_full else words
