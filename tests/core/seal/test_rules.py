"""Every rule of the judge is broken once, and says what was expected and what was found."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from waxseal.core.seal import rules
from waxseal.core.seal.expected import Expected, ExpectedSound
from waxseal.core.seal.likeness import Likeness
from waxseal.core.seal.measure.file_facts import Measured, SoundFacts
from waxseal.core.seal.measure.mp4_boxes import Boxes, Track
from waxseal.core.seal.rules import RULES, Evidence, Rule, tag_words
from waxseal.core.seal.verdict import judge
from waxseal.core.sound.loudness import Loudness

BT709 = (1, 1, 1, False)
PICTURE = Track("vide", 24, 48, (1,), Fraction(2), BT709)
MEASURED = Measured(
    width=1920,
    height=1080,
    frames=48,
    rate=Fraction(24),
    seconds=2.0,
    codec="h264",
    profile="High",
    pixel_format="yuv420p",
    colour=BT709,
    sound=SoundFacts("aac", 48_000, 2, Fraction(2)),
    boxes=Boxes(is_quick_start=True, tracks=(PICTURE,)),
    size_bytes=1000,
    sha256="",
    damaged_frames=0,
)
EXPECTED = Expected(
    width=1920,
    height=1080,
    frames=48,
    rate=Fraction(24),
    codec="h264",
    profile="High",
    pixel_format="yuv420p",
    colour=BT709,
    sound=ExpectedSound("aac", 48_000, 2, 96_000),
)
ALIKE = Likeness(compared=48, farthest=0.5, farthest_frame=3, unlike=())
GOOD = Evidence(MEASURED, EXPECTED, ALIKE, 42.0)


def measured(**facts: object) -> Evidence:
    return replace(GOOD, measured=replace(MEASURED, **facts))  # type: ignore[arg-type]


def tracked(**facts: object) -> Evidence:
    track = replace(PICTURE, **facts)  # type: ignore[arg-type]
    return measured(boxes=Boxes(is_quick_start=True, tracks=(track,)))


BROKEN: dict[Rule, tuple[Evidence, str]] = {
    rules.count: (measured(frames=47), "Expected 48 frames, found 47."),
    rules.rate: (measured(rate=Fraction(25)), "Expected 24 fps, found 25 fps."),
    rules.size: (measured(width=1918), "Expected 1920 × 1080 pixels, found 1918 × 1080."),
    rules.pixel_shape: (
        measured(pixel_shape=Fraction(64, 45)),
        "Expected pixels of the shape 1, found 64:45.",
    ),
    rules.coding: (measured(profile="Baseline"), "Expected the profile High, found Baseline."),
    rules.colour_tags: (
        measured(colour=(9, 16, 9, False)),
        "The file is tagged BT.2020 PQ. This delivery needs BT.709.",
    ),
    rules.key_frames: (
        replace(measured(key_gap=25), expected=replace(EXPECTED, key_frames=24)),
        "Expected a key frame every 24 frames, found 25 without one.",
    ),
    rules.level: (
        replace(measured(level="3.1"), expected=replace(EXPECTED, level="4")),
        "The pictures need level 4, and the file says 3.1.",
    ),
    rules.largest: (
        replace(GOOD, expected=replace(EXPECTED, most_bytes=999)),
        "The file has 1.0 kB, and 999 bytes are the most: "
        "choose a lower quality, a smaller size or a shorter range.",
    ),
    rules.loudness: (
        replace(
            measured(loudness=Loudness(-17.04, -3.0)), expected=replace(EXPECTED, loudness=-14.0)
        ),
        "Expected a sound of −14 LUFS, found −17 LUFS.",
    ),
    rules.true_peak: (
        replace(
            measured(loudness=Loudness(-14.0, -0.71)), expected=replace(EXPECTED, true_peak=-1.0)
        ),
        "The sound peaks at −0.71 dBTP, −1 dBTP is the most.",
    ),
    rules.timecode: (
        replace(
            measured(timecode="00:00:00:00"), expected=replace(EXPECTED, timecode="01:00:00:00")
        ),
        "Expected the timecode 01:00:00:00 at the first frame, found 00:00:00:00.",
    ),
    rules.bright: (
        replace(tracked(light=(900, 120)), expected=replace(EXPECTED, light=(1000, 120))),
        "Expected the light levels 1000 and 120 cd/m², found 900 and 120 cd/m².",
    ),
    rules.mastered: (
        replace(tracked(), expected=replace(EXPECTED, mastering="P3 1000 0.005")),
        "Expected the mastering display P3 1000 0.005, found none.",
    ),
    rules.harmless: (
        replace(GOOD, expected=replace(EXPECTED, no_flashes=True), flashes=("Frames 1-9 flash.",)),
        "Frames 1-9 flash.",
    ),
    rules.damage: (measured(damaged_frames=2), "2 frames of the file are damaged."),
    rules.every_frame_compared: (
        replace(GOOD, likeness=replace(ALIKE, compared=0)),
        "Only 0 of 48 frames could be compared with the reel.",
    ),
    rules.boxes_there: (measured(boxes=None), "The boxes of the file's container cannot be read."),
    rules.quick_start: (
        measured(boxes=Boxes(is_quick_start=False, tracks=(PICTURE,))),
        "The index comes after the pictures: the file starts playing late.",
    ),
    rules.boxed_tags: (
        tracked(colour=(12, 13, 1, True)),
        "The container is tagged Display P3, full range. This delivery needs BT.709.",
    ),
    rules.boxed_pixel_shape: (
        tracked(pixel_shape=Fraction(2)),
        "Expected pixels of the shape 1, the container says 2.",
    ),
    rules.even_steps: (tracked(durations=(1, 2)), "The container gives frames different lengths."),
    rules.sound_as_mixed: (replace(GOOD, sound=("The sound is late.",)), "The sound is late."),
    rules.stated_length: (
        measured(stated_seconds=Fraction(3666, 1000)),
        "Expected 2.000 s of picture, the container states 3.666 s.",
    ),
    rules.shown_length: (
        tracked(shown=Fraction(47, 24)),
        "Expected 2.000 s of picture, the container shows 1.958 s.",
    ),
    rules.sound_there: (
        measured(sound=None),
        "The file has no sound track, but the reel has sound.",
    ),
    rules.sound_kind: (
        measured(sound=SoundFacts("aac", 44_100, 1, Fraction(2))),
        "Expected sound of 48000 Hz and 2 channels, found 44100 Hz and 1 channel.",
    ),
    rules.sound_length: (
        measured(sound=SoundFacts("aac", 48_000, 2, Fraction(3, 2))),
        "Expected 2.0000 s of sound, found 1.5000 s.",
    ),
    rules.as_encoded: (
        measured(stream="another"),
        "The pictures in the file are not those that were encoded.",
    ),
    rules.faults: (
        replace(GOOD, likeness=replace(ALIKE, faults=("The pictures are mirrored.",))),
        "The pictures are mirrored.",
    ),
    rules.likeness: (
        replace(GOOD, likeness=replace(ALIKE, unlike=(3, 4))),
        "Frames 3-4 do not look like the reel's pictures.",
    ),
    rules.order: (
        replace(GOOD, likeness=replace(ALIKE, doubts=(7,))),
        "Frame 7 looks like its neighbour: the order may be wrong.",
    ),
    rules.whole_frames: (
        replace(GOOD, poorest_psnr=9.5),
        "A frame is 9.5 dB from the reel's picture: at least 16 dB are needed.",
    ),
}


def test_boxes_that_name_no_pictures_keep_no_rule() -> None:
    (sentence,) = rules.boxes_there(tracked(kind="url "))
    assert sentence == "The boxes of the file's container cannot be read."


def test_sound_in_another_codec_is_said() -> None:
    odd = measured(sound=SoundFacts("mp3", 48_000, 2, Fraction(2)))
    assert tuple(rules.sound_kind(odd)) == ("Expected sound in aac, found mp3.",)


def test_frames_that_have_no_word_for_their_rate_break_no_rule() -> None:
    silent = replace(measured(rate=None), expected=replace(EXPECTED, says_rate=False))
    assert tuple(rules.rate(silent)) == ()
    uneven = replace(silent, measured=replace(silent.measured, is_uneven=True))
    assert tuple(rules.rate(uneven)) == ("Expected 24 fps, found a rate that changes.",)


def test_no_rule_is_without_its_test() -> None:
    assert set(BROKEN) == set(RULES)


def test_what_keeps_every_rule_has_no_reason() -> None:
    assert judge(MEASURED, EXPECTED, ALIKE, 42.0) == ()


@pytest.mark.parametrize("rule", RULES, ids=lambda rule: rule.__name__)
def test_a_broken_rule_is_said_and_the_others_are_silent(rule: Rule) -> None:
    evidence, sentence = BROKEN[rule]
    assert tuple(rule(evidence)) == (sentence,)
    reasons = judge(
        *(evidence.measured, evidence.expected, evidence.likeness, evidence.poorest_psnr),
        evidence.flashes,
        evidence.sound,
    )
    assert reasons == (sentence,)


def test_a_sound_that_nobody_ordered_is_said() -> None:
    evidence = replace(GOOD, expected=replace(EXPECTED, sound=None))
    assert tuple(rules.sound_there(evidence)) == (
        "The file has a sound track, but the reel has no sound.",
    )


def test_frames_need_no_boxes() -> None:
    evidence = replace(
        measured(boxes=None, sound=None), expected=replace(EXPECTED, sound=None, has_boxes=False)
    )
    assert judge(evidence.measured, evidence.expected, ALIKE, 42.0) == ()


def test_tags_are_said_by_their_names() -> None:
    assert tag_words((1, 13, 1, False)) == (
        "with the primaries BT.709, the curve sRGB and the matrix BT.709"
    )
    assert tag_words((7, 99, 2, True)) == (
        "with the primaries 7, the curve 99 and the matrix 2, full range"
    )
