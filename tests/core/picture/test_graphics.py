"""Scene and graphics under a view and in high range: each means what it means."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from waxseal.core.arrive.scanning import scan
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import (
    Border,
    Correction,
    Exposure,
    Fade,
    FadeTo,
    Opacity,
    Text,
    TextPlace,
    Values,
)
from waxseal.core.job.edits import (
    REEL,
    add_sources,
    change_colourway,
    change_reading,
    lay_over,
    put_on_reel,
    set_correction,
    set_ground,
)
from waxseal.core.job.model import Alpha, ColourReference, Job, Space, View, Working
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import recipe

WIDE, TALL = 32, 18
ACES = {"view": View.ACES_SDR}


def screen(space: Space = Space.SRGB) -> Target:
    return Target(WIDE, TALL, Layout.SCREEN, space=space, exact=True)


def flat(*channels: float, dtype: Any = np.uint8) -> NDArray[Any]:
    return np.ascontiguousarray(
        np.broadcast_to(np.array(channels, dtype), (TALL, WIDE, len(channels)))
    )


def job_of(folder: Path, **pictures: NDArray[Any]) -> Job:
    """Stills: the first on the reel, the others over it in their order."""
    for name, values in pictures.items():
        suffix = "exr" if values.dtype == np.float16 else "png"
        (folder / name).mkdir(parents=True)
        for frame in range(1, 9):
            write_pixels(folder / name / f"{name}.{frame:04d}.{suffix}", values)
    found = {source.name: source for source in scan([folder]).sources}
    job = put_on_reel(add_sources(Job(), sources=[found[one] for one in pictures]), sources=["s1"])
    for number, values in enumerate(pictures.values(), 1):
        if values.shape[2] == 4:
            job = change_reading(job, source=f"s{number}", alpha=Alpha.STRAIGHT)
    for number in range(2, len(pictures) + 1):
        job = lay_over(job, source=f"s{number}", at=1)
    return job


def code(job: Job, frame: int = 1, space: Space = Space.SRGB, at: tuple[int, int] = (9, 16)) -> int:
    """The green of a pixel, in 8 bits."""
    return int(make(recipe(job, frame), screen(space)).planes[0][(*at, 1)])


def numbers(job: Job, space: Space, frame: int = 1) -> float:
    """The luma of a delivery of 10 bits as a number, 0..1."""
    target = Target(WIDE, TALL, Layout.YUV420_10, space=space, exact=True)
    return (int(make(recipe(job, frame), target).planes[0][9, 16]) - 64) / 876


def finished(job: Job, correction: Correction, of: str = "a1") -> Job:
    return set_correction(job, of=of, correction=correction)


# ---- what is shown as it is ------------------------------------------------------------------


@pytest.mark.parametrize("grey", [0, 60, 192, 255])
@pytest.mark.parametrize("view", [View.PLAIN, View.ACES_SDR])
def test_graphics_are_their_own_codes_under_every_view(
    tmp_path: Path, grey: int, view: View
) -> None:
    job = job_of(tmp_path, card=flat(grey, grey, grey), logo=flat(grey, grey, grey, 255))
    assert code(change_colourway(job, view=view)) == grey


# ITU-R BT.2408-7, 2.1: graphics white is 203 cd/m², 58 % in PQ and 75 % in HLG.
@pytest.mark.parametrize(("space", "white"), [(Space.PQ, 0.5807), (Space.HLG, 0.75)])
@pytest.mark.parametrize("view", [View.PLAIN, View.ACES_HDR])
def test_the_white_of_graphics_in_high_range(
    tmp_path: Path, space: Space, white: float, view: View
) -> None:
    job = change_colourway(job_of(tmp_path, card=flat(255, 255, 255)), view=view)
    assert numbers(job, space) == pytest.approx(white, abs=0.002)
    grey = change_colourway(job_of(tmp_path / "grey", card=flat(192, 192, 192)), view=view)
    assert numbers(grey, space) < white - 0.04


# SMPTE ST 2084: 100 cd/m² is 0.5081.
def test_the_white_of_graphics_as_dark_as_in_standard_range_by_choice(tmp_path: Path) -> None:
    job = change_colourway(job_of(tmp_path, card=flat(255, 255, 255)), white=100)
    assert numbers(job, Space.PQ) == pytest.approx(0.5081, abs=0.002)


@pytest.mark.parametrize("space", [Space.P3, Space.BT709])
def test_graphics_are_converted_to_the_space_of_the_delivery(tmp_path: Path, space: Space) -> None:
    """By the light that the display shows, under a view as without one."""
    job = job_of(tmp_path, card=flat(200, 40, 90))
    plain = make(recipe(job, 1), screen(space)).planes[0][9, 16, :3].astype(int)
    viewed = make(recipe(change_colourway(job, **ACES), 1), screen(space)).planes[0][9, 16, :3]
    np.testing.assert_allclose(viewed, plain, atol=1)
    assert list(plain) != [90, 40, 200]


def test_what_is_read_as_scene_goes_through_the_view(tmp_path: Path) -> None:
    light = flat(0.9, 0.9, 0.9, dtype=np.float16)
    job = change_colourway(job_of(tmp_path, scene=light), **ACES)
    as_scene = code(job)
    as_graphics = code(change_reading(job, source="s1", referred=ColourReference.GRAPHICS))
    assert as_graphics == 243  # the sRGB code of 0.9
    assert as_scene < 225


def test_display_codes_read_as_scene_come_back_through_the_view(tmp_path: Path) -> None:
    job = change_colourway(job_of(tmp_path, card=flat(120, 120, 120)), **ACES)
    job = change_reading(job, source="s1", referred=ColourReference.SCENE)
    assert code(job) == pytest.approx(120, abs=1)
    brighter = finished(job, Exposure(stops=1))
    assert 140 < code(brighter) < 200, "as light it is graded before the view"


# ---- mixed with a scene ----------------------------------------------------------------------


@pytest.mark.parametrize("clear", [64, 128, 200])
def test_half_transparent_graphics_are_as_strong_under_every_view(
    tmp_path: Path, clear: int
) -> None:
    """Over black, as much of the light of white as alpha says. IEC 61966-2-1 for the codes."""
    job = job_of(tmp_path, ground=flat(0, 0, 0), logo=flat(255, 255, 255, clear))
    wanted = 255 * (1.055 * (clear / 255) ** (1 / 2.4) - 0.055)
    for colourway in ({}, ACES, {**ACES, "working": Working.ACESCG}):
        assert code(change_colourway(job, **colourway)) == pytest.approx(wanted, abs=1)


@pytest.mark.parametrize("space", [Space.PQ, Space.HLG])
def test_half_transparent_graphics_are_as_strong_in_high_range(
    tmp_path: Path, space: Space
) -> None:
    """Half of white is the number of a grey of half its light."""
    job = job_of(tmp_path, ground=flat(0, 0, 0), logo=flat(255, 255, 255, 128))
    half = round(code_of(128 / 255))
    grey = job_of(tmp_path / "grey", ground=flat(half, half, half))
    assert numbers(job, space) == pytest.approx(numbers(grey, space), abs=0.003)


def light_of(shown: float) -> float:
    """IEC 61966-2-1, for codes that are not near black."""
    return float(((shown / 255 + 0.055) / 1.055) ** 2.4)


def code_of(light: float) -> float:
    return float(255 * (1.055 * light ** (1 / 2.4) - 0.055))


def test_graphics_over_a_scene_are_mixed_after_the_view(tmp_path: Path) -> None:
    scene = flat(0.18, 0.18, 0.18, dtype=np.float16)
    job = change_colourway(job_of(tmp_path, scene=scene, logo=flat(255, 255, 255, 128)), **ACES)
    alone = job_of(tmp_path / "alone", scene=scene)
    under = code(change_colourway(alone, **ACES))
    part = 128 / 255
    mixed = part + light_of(under) * (1 - part)
    assert code(job) == pytest.approx(code_of(mixed), abs=1)


def test_a_scene_over_graphics_meets_them_after_the_view(tmp_path: Path) -> None:
    smoke = np.zeros((TALL, WIDE, 4), np.float16)
    smoke[...] = (0.5, 0.5, 0.5, 0.5)
    job = job_of(tmp_path, card=flat(40, 40, 40), smoke=smoke)
    job = change_colourway(job, **ACES)
    opaque = flat(0.5, 0.5, 0.5, dtype=np.float16)
    shown = code(change_colourway(job_of(tmp_path / "alone", scene=opaque), **ACES))
    mixed = light_of(shown) * 0.5 + light_of(40) * 0.5
    assert code(job) == pytest.approx(code_of(mixed), abs=1)


def test_neighbours_of_a_scene_go_through_the_view_as_one(tmp_path: Path) -> None:
    """Half of 4 over 0.1 in light, then the view: not two views mixed."""
    over = flat(4.0, 4.0, 4.0, 0.5, dtype=np.float16)
    job = job_of(tmp_path, scene=flat(0.1, 0.1, 0.1, dtype=np.float16), flare=over)
    one = flat(2.05, 2.05, 2.05, dtype=np.float16)
    expected = code(change_colourway(job_of(tmp_path / "one", scene=one), **ACES))
    assert code(change_colourway(job, **ACES)) == expected
    with_logo = job_of(
        tmp_path / "logo",
        scene=flat(0.1, 0.1, 0.1, dtype=np.float16),
        flare=over,
        logo=flat(255, 255, 255, 0),
    )
    assert code(change_colourway(with_logo, **ACES)) == pytest.approx(expected, abs=1)


def test_the_finish_of_the_reel_grades_scene_and_graphics_in_their_own_light(
    tmp_path: Path,
) -> None:
    scene = flat(0.18, 0.18, 0.18, dtype=np.float16)
    plain = change_colourway(job_of(tmp_path, scene=scene), **ACES)
    logo = np.zeros((TALL, WIDE, 4), np.uint8)
    logo[:, :4] = (60, 60, 60, 255)
    both = change_colourway(job_of(tmp_path / "logo", scene=scene, logo=logo), **ACES)
    graded = finished(both, Exposure(stops=1), of=REEL)
    expected = code(finished(plain, Exposure(stops=1), of=REEL))
    assert code(graded) == pytest.approx(expected, abs=1), "a logo changes nothing beside it"
    light = 2 * ((60 / 255 + 0.055) / 1.055) ** 2.4
    shown = (1.055 * light ** (1 / 2.4) - 0.055) * 255
    assert code(graded, at=(9, 1)) == pytest.approx(shown, abs=1)


# ---- colours that were typed -----------------------------------------------------------------

COLOUR, GREEN = "#3fa0d2", 0xA0
COLOURWAYS: dict[str, dict[str, Any]] = {
    "plain": {},
    "plain in ACEScg": {"working": Working.ACESCG},
    "ACES": ACES,
    "ACES in ACEScg": {**ACES, "working": Working.ACESCG},
}


@pytest.mark.parametrize("colourway", COLOURWAYS)
@pytest.mark.parametrize("of", ["a1", REEL])
def test_a_border_is_the_colour_that_was_typed(tmp_path: Path, colourway: str, of: str) -> None:
    job = job_of(tmp_path, scene=flat(0.5, 0.2, 0.1, dtype=np.float16))
    job = change_colourway(
        finished(job, Border(width=500, colour=COLOUR), of), **COLOURWAYS[colourway]
    )
    assert code(job) == pytest.approx(GREEN, abs=1)


@pytest.mark.parametrize("colourway", COLOURWAYS)
@pytest.mark.parametrize("of", ["a1", REEL])
def test_letters_are_the_colour_that_was_typed(tmp_path: Path, colourway: str, of: str) -> None:
    job = job_of(tmp_path, scene=flat(0.0, 0.0, 0.0, dtype=np.float16))
    text = Text(words="HHHH", place=TextPlace.MIDDLE, size=500, colour=COLOUR)
    job = change_colourway(finished(job, text, of), **COLOURWAYS[colourway])
    drawn = make(recipe(job, 1), screen()).planes[0][..., 1]
    assert int(drawn.max()) == pytest.approx(GREEN, abs=1)


@pytest.mark.parametrize("colourway", COLOURWAYS)
def test_the_ground_is_the_colour_that_was_typed(tmp_path: Path, colourway: str) -> None:
    clear = np.zeros((TALL, WIDE, 4), np.float16)
    job = set_ground(job_of(tmp_path, scene=clear), colour=COLOUR)
    assert code(change_colourway(job, **COLOURWAYS[colourway])) == pytest.approx(GREEN, abs=1)


@pytest.mark.parametrize("colourway", COLOURWAYS)
@pytest.mark.parametrize("of", ["a1", REEL])
def test_a_fade_to_white_ends_at_white(tmp_path: Path, colourway: str, of: str) -> None:
    job = job_of(tmp_path, scene=flat(0.5, 0.2, 0.1, dtype=np.float16))
    job = finished(job, Fade(frames_out=4, to=FadeTo.WHITE), of)
    assert code(change_colourway(job, **COLOURWAYS[colourway]), frame=8) == 255


# ---- fades -----------------------------------------------------------------------------------


@pytest.mark.parametrize("colourway", COLOURWAYS)
@pytest.mark.parametrize("kind", ["scene", "graphics"])
@pytest.mark.parametrize("of", ["a1", REEL])
@pytest.mark.parametrize("to", [FadeTo.BLACK, FadeTo.CLEAR])
def test_a_fade_is_even_to_the_eye(
    tmp_path: Path, colourway: str, kind: str, of: str, to: FadeTo
) -> None:
    scene, graphics = flat(0.5, 0.5, 0.5, dtype=np.float16), flat(240, 240, 240)
    job = job_of(tmp_path, picture=scene if kind == "scene" else graphics)
    job = change_colourway(job, **COLOURWAYS[colourway])
    whole = code(job)
    faded = finished(job, Fade(frames_in=8, to=to), of)
    for frame in range(1, 9):
        assert code(faded, frame) == pytest.approx(whole * (frame - 1) / 8, abs=1.5)


def test_a_fade_is_linear_in_light_by_choice(tmp_path: Path) -> None:
    job = job_of(tmp_path, card=flat(255, 255, 255))
    job = finished(job, Fade(frames_in=2, values=Values.LINEAR))
    assert code(job, 2) == 188


def test_a_fade_to_white_together_with_the_opacity_of_the_reel(tmp_path: Path) -> None:
    """Over a black ground: half of white where both are half-way, and white at the end."""
    job = job_of(tmp_path, scene=flat(0.5, 0.2, 0.1, dtype=np.float16))
    job = finished(job, Fade(frames_out=4, to=FadeTo.WHITE), REEL)
    half = Opacity(points=((0, 0.5),), values=Values.DISPLAY)
    assert code(finished(job, half, REEL), frame=8) == pytest.approx(127.5, abs=1)
    before = code(job_of(tmp_path / "one", scene=flat(0.5, 0.2, 0.1, dtype=np.float16)))
    assert code(finished(job, half, REEL), frame=1) == pytest.approx(before / 2, abs=1)
