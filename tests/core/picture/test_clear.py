"""What is clear stays clear, whatever is done to colour; light on purpose stays."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from waxseal.core.arrive.scanning import scan
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import Cdl, Correction, Exposure, Lut, Values
from waxseal.core.job.edits import (
    add_sources,
    change_colourway,
    change_reading,
    lay_over,
    put_on_reel,
    set_correction,
)
from waxseal.core.job.model import Alpha, Colour, Job, View
from waxseal.core.picture.make import light_for, make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import recipe

WIDE, TALL = 16, 8
SCREEN = Target(WIDE, TALL, Layout.SCREEN, exact=True)
LIFTED = """LUT_1D_SIZE 2
0.2 0.2 0.2
1.0 1.0 1.0
"""


def picture(folder: Path, name: str, values: NDArray[Any], suffix: str) -> None:
    (folder / name).mkdir(parents=True)
    write_pixels(folder / name / f"{name}.0001.{suffix}", values)


def over_grey(folder: Path, front: NDArray[Any], suffix: str = "png") -> Job:
    """A picture with alpha laid over a grey of 60; the right half of it is clear."""
    picture(folder, "a_ground", np.full((TALL, WIDE, 3), 60, np.uint8), "png")
    picture(folder, "front", front, suffix)
    found = {source.name: source for source in scan([folder]).sources}
    job = add_sources(Job(), sources=[found["a_ground"], found["front"]])
    return lay_over(put_on_reel(job, sources=["s1"]), source="s2", at=1)


def half_clear(dtype: Any, opaque: float, clear: float) -> NDArray[Any]:
    """Colour `opaque` with full alpha on the left, colour `clear` with none on the right."""
    most = 1 if np.dtype(dtype).kind == "f" else np.iinfo(dtype).max
    values = np.zeros((TALL, WIDE, 4), dtype)
    values[:, : WIDE // 2] = opaque
    values[:, : WIDE // 2, 3] = most
    values[:, WIDE // 2 :, :3] = clear
    return values


def codes(job: Job) -> tuple[int, int]:
    """On the screen: on the left and on the right."""
    (screen,) = make(recipe(job, 1), SCREEN).planes
    return int(screen[4, 3, 1]), int(screen[4, WIDE - 3, 1])


def read_through_a_lut(job: Job, folder: Path) -> Job:
    path = folder / "same.cube"
    path.write_text("LUT_1D_SIZE 2\n0 0 0\n1 1 1\n")
    return change_reading(job, source="s2", lut=str(path))


READINGS: dict[str, Callable[[Job, Path], Job]] = {
    "as it is": lambda job, _: job,
    "under a view": lambda job, _: change_colourway(job, view=View.ACES_SDR),
    "through a LUT": read_through_a_lut,
    "in a space of the config": lambda job, _: change_reading(
        job, source="s2", colour=Colour.OWN, space="sRGB Encoded Rec.709 (sRGB)"
    ),
}


@pytest.mark.parametrize("reading", READINGS)
def test_hidden_colour_of_a_straight_picture_is_never_seen(tmp_path: Path, reading: str) -> None:
    job = over_grey(tmp_path, half_clear(np.uint8, 200, 255))
    job = change_reading(job, source="s2", alpha=Alpha.STRAIGHT)
    left, right = codes(READINGS[reading](job, tmp_path))
    assert left == pytest.approx(200, abs=1)
    assert right == 60


@pytest.mark.parametrize("space", ["ACEScct", "ARRI LogC3 (EI800)"])
def test_the_foot_of_a_logarithm_does_not_darken_what_is_behind(tmp_path: Path, space: str) -> None:
    job = over_grey(tmp_path, half_clear(np.float16, 0.5, 0.0), "exr")
    job = change_reading(
        job, source="s2", alpha=Alpha.PREMULTIPLIED, colour=Colour.OWN, space=space
    )
    assert codes(job)[1] == 60


def lifting(folder: Path, values: Values) -> Lut:
    path = folder / "lifted.cube"
    path.write_text(LIFTED)
    return Lut(path=str(path), values=values)


CORRECTIONS: dict[str, Callable[[Path], Correction]] = {
    "an offset": lambda _: Cdl(offset=(0.1, 0.1, 0.1)),
    "an offset in display values": lambda _: Cdl(offset=(0.1, 0.1, 0.1), values=Values.DISPLAY),
    "a lifted black": lambda folder: lifting(folder, Values.LINEAR),
    "a lifted black in display values": lambda folder: lifting(folder, Values.DISPLAY),
}


@pytest.mark.parametrize("name", CORRECTIONS)
@pytest.mark.parametrize("suffix", ["exr", "png"])
def test_a_correction_adds_no_light_where_there_is_nothing(
    tmp_path: Path, name: str, suffix: str
) -> None:
    dtype, opaque = (np.float16, 0.5) if suffix == "exr" else (np.uint8, 128)
    job = over_grey(tmp_path, half_clear(dtype, opaque, 0), suffix)
    job = set_correction(job, of="o1", correction=CORRECTIONS[name](tmp_path))
    assert codes(job)[1] == 60


def at_right(job: Job) -> float:
    return float(light_for(recipe(job, 1), SCREEN)[4, WIDE - 3, 1])


@pytest.mark.parametrize(
    ("suffix", "dtype", "glow"), [("exr", np.float16, 0.25), ("png", np.uint8, 137)]
)
def test_light_on_purpose_is_added_and_corrected(
    tmp_path: Path, suffix: str, dtype: Any, glow: float
) -> None:
    """Premultiplied colour where alpha is 0: a quarter of the light of white, in both files."""
    job = over_grey(tmp_path, half_clear(dtype, 0.5 if suffix == "exr" else 128, glow), suffix)
    job = change_reading(job, source="s2", alpha=Alpha.PREMULTIPLIED)
    ground = ((60 / 255 + 0.055) / 1.055) ** 2.4
    assert at_right(job) == pytest.approx(ground + 0.25, abs=2e-3)
    brighter = set_correction(job, of="o1", correction=Exposure(stops=1))
    assert at_right(brighter) == pytest.approx(ground + 0.5, abs=4e-3)


def test_premultiplied_light_above_its_alpha_stays_in_8_bits(tmp_path: Path) -> None:
    """A flame with little alpha: colour 200, alpha 100, is brighter than white where it is."""
    front = np.zeros((TALL, WIDE, 4), np.uint8)
    front[...] = (200, 200, 200, 100)
    job = change_reading(over_grey(tmp_path, front), source="s2", alpha=Alpha.PREMULTIPLIED)
    ground = ((60 / 255 + 0.055) / 1.055) ** 2.4
    straight = ((2.0 + 0.055) / 1.055) ** 2.4
    part = 100 / 255
    assert at_right(job) == pytest.approx(straight * part + ground * (1 - part), rel=1e-3)


def test_a_matte_that_was_laid_under_is_taken_off(tmp_path: Path) -> None:
    """Half-covering grey over white, in the file's own codes; clear is the matte itself."""
    front = half_clear(np.uint8, 128, 255)
    front[:, : WIDE // 2] = (192, 192, 192, 128)  # (129 x 128 + 255 x 127) / 255
    job = change_reading(
        over_grey(tmp_path, front), source="s2", alpha=Alpha.PREMULTIPLIED, matte="#ffffff"
    )
    assert codes(job)[1] == 60
    seen = light_for(recipe(job, 1), SCREEN)[4, 3, 1]
    ground, grey = (((code / 255 + 0.055) / 1.055) ** 2.4 for code in (60, 129.5))
    assert seen == pytest.approx(grey * 128 / 255 + ground * 127 / 255, abs=2e-3)


def test_light_above_what_a_half_holds_is_there_for_an_exposure(tmp_path: Path) -> None:
    front = np.full((TALL, WIDE, 3), 1_000_000.0, np.float32)
    picture(tmp_path, "sun", front, "exr")
    job = put_on_reel(add_sources(Job(), sources=scan([tmp_path]).sources), sources=["s1"])
    job = set_correction(job, of="a1", correction=Exposure(stops=-20))
    assert at_right(job) == pytest.approx(1_000_000 / 2**20, rel=1e-3)
