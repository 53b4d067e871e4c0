"""How alpha is meant, told from the pixels; and nothing told where they say nothing."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.making import job_of, write_sequence
from waxseal.core.arrive.alpha_guess import alpha_seen
from waxseal.core.arrive.header_scan import look_again
from waxseal.core.arrive.scanning import scan
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_reading, refresh_sources
from waxseal.core.job.model import Alpha, Origin, Sequence
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import recipe

HEIGHT, WIDTH = 90, 160
Light = NDArray[np.float64]


def disc() -> tuple[Light, Light]:
    """A textured disc with a soft edge: its colour everywhere, and its alpha."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    away = np.hypot(x - 80, y - 45)
    alpha = np.clip((36 - away) / 20, 0, 1)
    colour = np.stack(
        [0.75 + 0.2 * np.sin(x / 5), 0.5 + 0.3 * np.cos(y / 6), 0.3 + 0.2 * np.sin((x + y) / 9)],
        axis=2,
    )
    return colour, alpha[..., None]


def coded(colour: Light, alpha: Light, dtype: str = "uint8") -> NDArray[np.uint8]:
    most = np.iinfo(dtype).max
    whole = np.concatenate([np.broadcast_to(colour, (HEIGHT, WIDTH, 3)), alpha], axis=2)
    values: NDArray[np.uint8] = (np.clip(whole, 0, 1) * most + 0.5).astype(dtype)
    return values


def over(colour: Light, alpha: Light, matte: tuple[float, float, float]) -> Light:
    return colour * alpha + np.array(matte) * (1 - alpha)


@pytest.mark.parametrize("dtype", ["uint8", "uint16"])
def test_straight_and_premultiplied_are_told_apart(dtype: str) -> None:
    colour, alpha = disc()
    straight = alpha_seen(coded(colour, alpha, dtype))
    assert straight is not None
    assert straight.alpha is Alpha.STRAIGHT
    premultiplied = alpha_seen(coded(over(colour, alpha, (0, 0, 0)), alpha, dtype))
    assert premultiplied is not None
    assert (premultiplied.alpha, premultiplied.matte) == (Alpha.PREMULTIPLIED, "#000000")
    assert "half-clear pixels" in premultiplied.why


@pytest.mark.parametrize(("matte", "code"), [((1, 1, 1), "#ffffff"), ((0.0, 0.5, 0.0), "#008000")])
def test_the_matte_colour_is_found(matte: tuple[float, float, float], code: str) -> None:
    colour, alpha = disc()
    seen = alpha_seen(coded(over(colour, alpha, matte), alpha))
    assert seen is not None
    assert (seen.alpha, seen.matte) == (Alpha.PREMULTIPLIED, code)


def test_where_the_pixels_say_nothing_nothing_is_told() -> None:
    colour, alpha = disc()
    assert alpha_seen(coded(colour, np.ones_like(alpha))) is None  # opaque
    assert alpha_seen(coded(colour, np.round(alpha))) is None  # no half-clear pixel
    assert alpha_seen(coded(colour * 0.05, alpha)) is None  # too dark to tell
    noise = np.random.default_rng(1).uniform(0, 1, (HEIGHT, WIDTH, 3))
    seen = alpha_seen(coded(noise, alpha))
    assert seen is not None
    assert seen.alpha is Alpha.STRAIGHT


def source_of(folder: Path, values: NDArray[np.uint8], suffix: str = ".png") -> Sequence:
    for frame in range(1, 4):
        write_pixels(folder / f"a.{frame:04}{suffix}", values)
    (source,) = scan([folder]).sources
    assert isinstance(source, Sequence)
    return source


def test_a_reading_that_the_pixels_speak_against_is_a_guess_with_its_evidence(
    tmp_path: Path,
) -> None:
    colour, alpha = disc()
    source = source_of(tmp_path, coded(over(colour, alpha, (1, 1, 1)), alpha))
    told = source.reading.alpha
    assert (told.value, told.origin) == (Alpha.PREMULTIPLIED, Origin.GUESS)
    assert source.reading.matte.value == "#ffffff"
    assert told.why.startswith("frame 2: ")
    assert look_again(source).reading.alpha == told


def test_a_reading_that_the_pixels_bear_out_stays_a_habit(tmp_path: Path) -> None:
    colour, alpha = disc()
    told = source_of(tmp_path, coded(colour, alpha)).reading.alpha
    assert (told.value, told.origin) == (Alpha.STRAIGHT, Origin.HABIT)
    assert "brighter than alpha" in told.why


def test_what_the_user_said_stays(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "f", channels=4)
    job = change_reading(job_of(folder), source="s1", alpha=Alpha.NONE)
    again = refresh_sources(job, sources=[look_again(job.sequences[0])])
    assert again.sequences[0].reading.alpha.value is Alpha.NONE


@pytest.mark.parametrize("matte", [(0.0, 0.0, 0.0), (1.0, 1.0, 1.0), (0.2, 0.4, 0.6)])
def test_read_rightly_a_matted_picture_looks_like_its_straight_one(
    tmp_path: Path, matte: tuple[float, float, float]
) -> None:
    """Porter & Duff's over, undone: what was laid over a matte is laid over the ground instead."""
    colour, alpha = disc()
    target = Target(WIDTH, HEIGHT, Layout.SCREEN)
    pictures = []
    for name, values in (
        ("straight", coded(colour, alpha, "uint16")),
        ("matted", coded(over(colour, alpha, matte), alpha, "uint16")),
    ):
        (tmp_path / name).mkdir()
        write_pixels(tmp_path / name / "a.0001.tif", values)
        job = job_of(tmp_path / name)
        pictures.append(make(recipe(job, 1), target).planes[0].astype(int))
    away = np.abs(pictures[0] - pictures[1])
    assert away.max() <= 2
