"""What is data by its pixels is not taken for the picture, whatever it is called."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.making import write_layers
from waxseal.core.arrive.datalike import data_seen
from waxseal.core.arrive.scanning import scan
from waxseal.core.job.model import Alpha, FindingKind, Origin, Sequence

HEIGHT, WIDTH = 90, 160
DOWN, ACROSS = np.mgrid[:HEIGHT, :WIDTH].astype(np.float32)


def normals() -> NDArray[np.float32]:
    """Of a ball in the middle; nothing around it."""
    x, y = (ACROSS - WIDTH / 2) / 40, (DOWN - HEIGHT / 2) / 40
    inside = x**2 + y**2 < 1
    z = np.sqrt(np.clip(1 - x**2 - y**2, 0, 1))
    return np.where(inside[..., None], np.stack([x, y, z], axis=2), 0).astype(np.float32)


def positions() -> NDArray[np.float32]:
    return np.stack([ACROSS - 80, DOWN * 0.3 - 10, ACROSS * 0 + 4], axis=2).astype(np.float32)


def picture() -> NDArray[np.float32]:
    return np.stack([ACROSS / WIDTH, DOWN / HEIGHT, np.sin(ACROSS / 9) ** 2], axis=2)


DATA = {
    "normals": normals(),
    "normals in 0 to 1": np.where(normals().any(axis=2, keepdims=True), normals() / 2 + 0.5, 0),
    "normals with noise of a half": normals().astype(np.float16),
    "positions": positions(),
    "motion": np.stack([np.sin(ACROSS / 20), np.cos(DOWN / 20), ACROSS * 0], axis=2) * 7,
}
PICTURES = {
    "picture": picture(),
    "one colour": np.full((HEIGHT, WIDTH, 3), 1 / np.sqrt(3), np.float32),
    "grey": np.repeat((ACROSS / WIDTH)[..., None], 3, axis=2),
    "bright": picture() * 300,
    "a little below nothing": picture() - 0.04,
    "black": np.zeros((HEIGHT, WIDTH, 3), np.float32),
    "noise": np.random.default_rng(2).random((HEIGHT, WIDTH, 3)),
    "no numbers": np.full((HEIGHT, WIDTH, 3), np.nan, np.float32),
    "few": normals()[40:50, 70:80],
}


@pytest.mark.parametrize("name", DATA)
def test_data_is_seen(name: str) -> None:
    assert data_seen(DATA[name])


@pytest.mark.parametrize("name", PICTURES)
def test_a_picture_is_none(name: str) -> None:
    assert not data_seen(PICTURES[name])


def source(folder: Path, layers: dict[str, NDArray[Any]]) -> Sequence:
    (found,) = scan([write_layers(folder / "sh", layers)]).sources
    assert isinstance(found, Sequence)
    return found


def test_a_layer_that_is_data_by_its_pixels_is_not_taken(tmp_path: Path) -> None:
    found = source(tmp_path, {"alpha_one": normals(), "beta_two": picture()})
    told = found.reading.part
    assert (told.value, told.origin) == ("beta_two", Origin.WRITTEN)


def test_not_even_where_its_name_says_that_it_is_the_picture(tmp_path: Path) -> None:
    clear = np.dstack([picture(), np.ones((HEIGHT, WIDTH), np.float32)])
    found = source(tmp_path, {"beauty": positions(), "hero": clear})
    assert found.reading.part.value == "hero"
    assert found.reading.alpha.value is Alpha.PREMULTIPLIED


def test_where_all_of_them_are_data_it_is_asked(tmp_path: Path) -> None:
    found = source(tmp_path, {"one": positions(), "two": normals()})
    assert found.reading.part.origin is Origin.GUESS
    assert "as" in found.reading.part.why


def test_data_alone_in_its_files_is_a_finding(tmp_path: Path) -> None:
    found = source(tmp_path, {"": normals()})
    (finding,) = found.findings
    assert finding.kind is FindingKind.DATA
    assert "directions" in finding.what


def test_whole_numbers_are_no_picture(tmp_path: Path) -> None:
    """As ids are stored, though the layer has colours by its letters and the first name."""
    ids = np.full((HEIGHT, WIDTH, 3), 7, np.uint32)
    found = source(tmp_path, {"aaa": ids, "bbb": picture().astype(np.float16)})
    assert (found.reading.part.value, found.reading.part.origin) == ("bbb", Origin.WRITTEN)
