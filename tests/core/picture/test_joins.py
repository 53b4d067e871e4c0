"""Two shots that dissolve into each other, and shots that dip into a colour."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from tests.core.picture.test_layers import flat, write
from waxseal.core.arrive.scanning import scan
from waxseal.core.job.corrections import Cover, Values
from waxseal.core.job.model import Alpha, Colourway, Sequence, View
from waxseal.core.picture.make import light_for, make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.frame_picks import source_recipe
from waxseal.core.plan.recipe import Dipped, Joined, Layer, Recipe

TARGET = Target(16, 9, Layout.SCREEN)


@pytest.fixture
def layers(tmp_path: Path) -> tuple[Layer, Layer]:
    write(tmp_path, "a", flat(0.2, 0.4, 0.6))
    write(tmp_path, "b", flat(0.8, 0.0, 0.0, 0.5))  # half clear
    found = [one for one in scan([tmp_path]).sources if isinstance(one, Sequence)]
    first, second = (source_recipe(one, 1).shot for one in found)
    assert first is not None
    assert second is not None
    return first, second


def joined(
    before: Layer | None, after: Layer | None, share: Fraction, values: Values = Values.DISPLAY
) -> Recipe:
    return Recipe(16, 9, "#000000", programme=Joined(before, after, share, values))


@pytest.mark.parametrize("share", [Fraction(1, 4), Fraction(1, 2)])
def test_a_dissolve_is_even_to_the_eye(layers: tuple[Layer, Layer], share: Fraction) -> None:
    """The codes of the screen go from one picture to the other in equal steps."""
    screen = Target(16, 9, Layout.SCREEN)
    ends = [
        make(joined(*layers, at), screen).planes[0][4, 8, :3].astype(float)
        for at in (Fraction(0), Fraction(1))
    ]
    codes = make(joined(*layers, share), screen).planes[0][4, 8, :3]
    expected = ends[0] * (1 - float(share)) + ends[1] * float(share)
    np.testing.assert_allclose(codes, expected, atol=1)


@pytest.mark.parametrize("share", [Fraction(1, 4), Fraction(1, 2)])
def test_a_dissolve_mixes_both_in_linear_light_by_choice(
    layers: tuple[Layer, Layer], share: Fraction
) -> None:
    light = light_for(joined(*layers, share, Values.LINEAR), TARGET)
    one, other = np.array([0.2, 0.4, 0.6]), np.array([0.8, 0.0, 0.0])  # over black
    part = float(share)
    np.testing.assert_allclose(light[4, 8], one * (1 - part) + other * part, rtol=2e-3, atol=1e-4)


def test_a_side_that_shows_nothing_is_the_ground(layers: tuple[Layer, Layer]) -> None:
    light = light_for(joined(None, layers[0], Fraction(1, 2), Values.LINEAR), TARGET)
    np.testing.assert_allclose(light[4, 8], [0.1, 0.2, 0.3], rtol=2e-3)


def test_all_ways_to_a_pixel_know_a_join(layers: tuple[Layer, Layer]) -> None:
    """Not the short way of one table, nor that of bands."""
    recipe = joined(*layers, Fraction(1, 2))
    codes = make(recipe, Target(16, 9, Layout.YUV420)).planes[0]
    assert len(np.unique(codes)) == 1
    sides = [replace(recipe, programme=layer) for layer in layers]
    lumas = [int(make(one, Target(16, 9, Layout.YUV420)).planes[0][0, 0]) for one in sides]
    assert min(lumas) < int(codes[0, 0]) < max(lumas)
    assert [layer.pick.file.path for layer in recipe.layers()] == [
        layer.pick.file.path for layer in layers
    ]


def dipped(layer: Layer | None, veiled: float, values: Values = Values.DISPLAY) -> Recipe:
    cover = Cover(veil="#ffffff", veiled=veiled, values=values)
    return Recipe(16, 9, "#404040", programme=Dipped(layer, cover))


@pytest.mark.parametrize("veiled", [0.25, 0.5, 1.0])
def test_a_dip_takes_all_that_is_seen_evenly_to_the_colour(
    layers: tuple[Layer, Layer], veiled: float
) -> None:
    """The ground that shows through a half-clear shot as well."""
    shot = layers[1]
    plain = make(dipped(shot, 0.0), TARGET).planes[0][4, 8, :3].astype(float)
    codes = make(dipped(shot, veiled), TARGET).planes[0][4, 8, :3]
    np.testing.assert_allclose(codes, plain * (1 - veiled) + 255 * veiled, atol=1)


def test_a_dip_where_the_shot_shows_nothing_is_of_the_ground() -> None:
    codes = make(dipped(None, 0.5), TARGET).planes[0][4, 8, :3]
    np.testing.assert_allclose(codes, [(0x40 + 255) / 2] * 3, atol=1)


def test_a_dip_in_linear_light_by_choice(layers: tuple[Layer, Layer]) -> None:
    light = light_for(dipped(layers[0], 0.5, Values.LINEAR), TARGET)
    np.testing.assert_allclose(light[4, 8], [0.6, 0.7, 0.8], rtol=2e-3)


@pytest.mark.parametrize("veiled", [0.5, 1.0])
def test_a_dip_under_a_view_ends_at_the_colour_that_was_typed(
    layers: tuple[Layer, Layer], veiled: float
) -> None:
    """The colour is graphics: the view changes the shot, and not the white."""
    view = Colourway(view=View.ACES_SDR)
    recipe = replace(dipped(layers[0], veiled), colour=view)
    plain = make(replace(recipe, programme=layers[0]), TARGET).planes[0][4, 8, :3].astype(float)
    codes = make(recipe, TARGET).planes[0][4, 8, :3]
    np.testing.assert_allclose(codes, plain * (1 - veiled) + 255 * veiled, atol=1)


def test_what_is_clear_stays_clear_in_a_dip(layers: tuple[Layer, Layer]) -> None:
    target = Target(16, 9, Layout.LIGHT, alpha=Alpha.PREMULTIPLIED)
    light = light_for(dipped(layers[1], 1.0), target)
    np.testing.assert_allclose(light[4, 8], [0.5] * 4, rtol=2e-3)
