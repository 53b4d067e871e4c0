"""Flashes of known frequency, area and contrast, on both sides of each limit of BT.1702.

The limits from memory: three flashes in a second, a quarter of the picture, 20 cd/m² on a
display of 200 cd/m², the darker picture below 160 cd/m².
"""

from __future__ import annotations

from fractions import Fraction
from functools import cache

import numpy as np
import pytest
from numpy.typing import NDArray

from waxseal.core.job.model import Space
from waxseal.core.seal.flashes import PEAK, FlashMeter, Passage, SketchCoding
from waxseal.core.seal.frame_sketches import sketch, sketch_of_rgb

WIDE, TALL = 320, 180
RGB = SketchCoding(Space.BT709, is_rgb=True)
Picture = NDArray[np.uint8]


def code(luminance: float) -> int:
    """The code of a grey of so many cd/m² (BT.1886)."""
    return round(255 * float((luminance / PEAK) ** (1 / 2.4)))


@cache
def patch(dark: float, bright: float, area: float, *, is_on: bool) -> Picture:
    """A grey picture of which a part is brighter, or not."""
    picture = np.full((TALL, WIDE, 3), code(dark), np.uint8)
    if is_on:
        picture[:, : round(WIDE * area)] = code(bright)
    return picture


def passages(pictures: list[Picture], rate: Fraction = Fraction(24)) -> tuple[Passage, ...]:
    meter = FlashMeter(rate, RGB)
    apart = {id(one): one for one in pictures}
    sketches = {
        key: sketch_of_rgb(tuple(one[..., at] for at in range(3))) for key, one in apart.items()
    }
    for picture in pictures:
        meter.look(sketches[id(picture)])
    return meter.passages


def flashing(
    hertz: float,
    *,
    rate: Fraction = Fraction(24),
    seconds: float = 3,
    dark: float = 20,
    bright: float = 120,
    area: float = 0.6,
) -> list[Picture]:
    """On and off so many times a second."""
    return [
        patch(dark, bright, area, is_on=int(2 * hertz * float(frame / rate) + 1e-9) % 2 == 1)
        for frame in range(round(seconds * rate))
    ]


@pytest.mark.parametrize("rate", [Fraction(24), Fraction(25), Fraction(30_000, 1001), Fraction(60)])
@pytest.mark.parametrize(("hertz", "harms"), [(1, False), (3, False), (4, True), (6, True)])
def test_three_in_a_second_are_allowed(rate: Fraction, hertz: float, harms: bool) -> None:
    assert bool(passages(flashing(hertz, rate=rate), rate)) == harms


@pytest.mark.parametrize("rate", [Fraction(24), Fraction(30_000, 1001), Fraction(60)])
@pytest.mark.parametrize(
    ("hertz", "seconds", "harms"),
    [(3, 4, False), (3, 6, True), (2, 6, True), (1, 9, False), (2.5, 9, True)],
)
def test_flashes_that_are_allowed_last_five_seconds(
    rate: Fraction, hertz: float, seconds: float, harms: bool
) -> None:
    """From memory: the same guidance. How many in a second make a sequence flash: no source."""
    calm = [patch(20, 120, 0.6, is_on=False)] * 48
    found = passages(calm + flashing(hertz, rate=rate, seconds=seconds) + calm, rate)
    assert bool(found) == harms
    for one in found:
        assert one.flashes <= 3
        assert one.seconds == pytest.approx(seconds, abs=2 / hertz)
        assert f"have flashes for {one.seconds:.1f} s over 61% of the picture" in one.words


def test_what_flashes_too_often_and_too_long_is_said_to_do_both() -> None:
    often, long = passages(flashing(6, seconds=8))
    assert (often.flashes, often.seconds, long.seconds > 7) == (6, 0, True)
    halves = flashing(3, seconds=4) + 48 * [patch(20, 120, 0.6, is_on=False)]
    assert passages(2 * halves) == (), "two sequences, with calm between them"


@pytest.mark.parametrize(
    ("area", "harms"), [(0.1, False), (0.24, False), (0.27, True), (1.0, True)]
)
def test_a_quarter_of_the_picture_is_allowed(area: float, harms: bool) -> None:
    assert bool(passages(flashing(6, area=area))) == harms


@pytest.mark.parametrize(
    ("dark", "bright", "harms"),
    [
        (20, 38, False),
        (20, 43, True),
        (0, 18, False),
        (0, 23, True),
        (163, 195, False),  # both bright
        (155, 180, True),
    ],
)
def test_small_changes_and_bright_pictures_are_allowed(
    dark: float, bright: float, harms: bool
) -> None:
    assert bool(passages(flashing(6, dark=dark, bright=bright))) == harms


def test_a_fade_a_cut_and_a_slow_pulse_are_no_flashes() -> None:
    fade = [patch(0, 200 * frame / 48, 1.0, is_on=True) for frame in range(48)]
    assert passages(fade) == ()
    cuts = [patch(10, 150, 1.0, is_on=frame // 12 % 2 == 1) for frame in range(96)]  # one a second
    assert passages(cuts) == ()


def test_flashes_that_wander_are_found() -> None:
    """A third of the picture, elsewhere each time."""
    made = []
    for frame in range(48):
        picture = np.full((TALL, WIDE, 3), code(10), np.uint8)
        if frame % 4 < 2:
            left = frame // 4 % 3 * (WIDE // 3)
            picture[:, left : left + WIDE // 3] = code(150)
        made.append(picture)
    assert passages(made) != ()


def red(share: float, level: int, *, is_on: bool) -> Picture:
    """A red of so much of the whole light, against a grey of the same luminance."""
    picture = np.full((TALL, WIDE, 3), 60, np.uint8)
    if is_on:
        light = (level / 255) ** 2.4
        other = light * (1 - share) / share / 2
        picture[...] = (level, *(2 * (round(255 * other ** (1 / 2.4)),)))
    return picture


@pytest.mark.parametrize(("share", "harms"), [(0.7, False), (0.78, False), (0.85, True), (1, True)])
def test_saturated_red_flashes_at_any_luminance(share: float, harms: bool) -> None:
    made = [red(share, 150, is_on=frame % 4 < 2) for frame in range(48)]
    found = passages(made)
    assert any(one.is_red for one in found) == harms


def test_a_passage_is_named_by_its_frames() -> None:
    calm = [patch(20, 120, 0.6, is_on=False)] * 48
    (one,) = passages(calm + flashing(6, seconds=2) + calm)
    assert 40 <= one.first <= 52
    assert 90 <= one.last <= 125
    assert one.flashes == 6
    assert one.area == pytest.approx(0.6, abs=0.03)
    assert "have 6 flashes in a second over 61% of the picture" in one.words


@pytest.mark.parametrize("is_deep", [False, True])
def test_what_is_coded_as_luma_and_chroma_is_the_same(is_deep: bool) -> None:
    """BT.709 codes of 8 and 10 bits, limited range."""
    steps = 4 if is_deep else 1
    kind = np.uint16 if is_deep else np.uint8
    meter = FlashMeter(Fraction(24), SketchCoding(Space.BT709, is_rgb=False))
    quiet = FlashMeter(Fraction(24), SketchCoding(Space.BT709, is_rgb=False))
    half = np.full((TALL // 2, WIDE // 2), 128 * steps, kind)
    for frame in range(48):
        is_on = frame % 4 < 2
        for one, bright in ((meter, 43), (quiet, 38)):
            grey = (16 + code(bright if is_on else 20) * 219 / 255) * steps
            one.look(sketch((np.full((TALL, WIDE), round(grey), kind), half, half)))
    assert meter.passages
    assert not quiet.passages
