"""Two shots that dissolve into each other."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from tests.core.picture.test_layers import flat, write
from waxseal.core.arrive.sources import scan
from waxseal.core.job.corrections import Values
from waxseal.core.job.model import Sequence
from waxseal.core.picture.make import light_for, make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.picks import source_recipe
from waxseal.core.plan.recipe import Joined, Layer, Recipe

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
