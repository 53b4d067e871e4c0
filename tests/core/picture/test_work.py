"""How much work a picture is: by what is done to it, not by its size alone."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from tests.making import job_of, write_sequence
from waxseal.core.job.model import Colourway, View
from waxseal.core.picture.target import Layout, Target
from waxseal.core.picture.work import work_of, work_of_film
from waxseal.core.plan.film import Film
from waxseal.core.plan.programme import programme


@pytest.fixture
def film(tmp_path: Path) -> Film:
    return programme(
        job_of(write_sequence(tmp_path, frames=range(1, 25), width=64, height=36))
    ).film()


def test_scaling_and_a_view_are_work(film: Film) -> None:
    recipe = film.recipe(1)
    same, twice = (Target(64 * by, 36 * by, Layout.YUV420) for by in (1, 2))
    pixels = 64 * 36
    assert work_of(recipe, same) == 2 * pixels
    assert work_of(recipe, twice) > 4 * 2 * pixels + 4 * pixels
    viewed = replace(recipe, colour=Colourway(view=View.ACES_SDR))
    assert work_of(viewed, same) > 10 * work_of(recipe, same)


def test_a_film_is_all_its_pictures(film: Film) -> None:
    assert work_of_film(film, Target(64, 36, Layout.YUV420)) == 24 * 2 * 64 * 36
    assert len(film.made) <= 8
