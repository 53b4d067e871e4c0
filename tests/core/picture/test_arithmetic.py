"""Whoever changes a pixel raises the version of the arithmetic that keys hold."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from tests.core.deliver.test_same_bytes import DIGESTS
from waxseal.core.deliver.format.delivery_settings import target_of
from waxseal.core.job.model import Job
from waxseal.core.picture.make import make
from waxseal.core.plan import recipe_keys
from waxseal.core.plan.programme import programme
from waxseal.core.plan.recipe_keys import ARITHMETIC, store_key

# The pictures of the jobs of core/deliver/test_same_bytes, a digest a job, by the version of
# the arithmetic that made them. Never change a line: raise ARITHMETIC and add a version.
PIXELS = {
    1: {
        "plain_png": "ffb804ffb77ba734",
        "light_with_sound": "2f00cbf336589c00",
        "scaled_over_ground": "1f815104321f2c30",
        "between_frames": "e258c9fb4cdf4c6d",
        "much_finished": "7cc3db15010b2c86",
        "stacked": "5241af6e8a397148",
        "laid_over": "87ea23a828c4216c",
        "as_light": "e0d56a213d88e56e",
        "holes_held": "e473521782f250b1",
        "movie_in_high_range": "2b10601f17f6b474",
        "codes_before_a_plate": "98e46b51a9f237e2",
    },
    2: {
        "plain_png": "ffb804ffb77ba734",
        "light_with_sound": "2f00cbf336589c00",
        "scaled_over_ground": "67e3e199d7b8d31f",
        "between_frames": "e258c9fb4cdf4c6d",
        "much_finished": "393942352a3a6a0a",
        "stacked": "5241af6e8a397148",
        "laid_over": "89ef54213596a2b6",
        "as_light": "e0d56a213d88e56e",
        "holes_held": "3e29606c56ec82ee",
        "movie_in_high_range": "790d598e3a020bf4",
        "codes_before_a_plate": "98e46b51a9f237e2",
    },
    3: {
        "plain_png": "ffb804ffb77ba734",
        "light_with_sound": "2f00cbf336589c00",
        "scaled_over_ground": "67e3e199d7b8d31f",
        "between_frames": "e258c9fb4cdf4c6d",
        "much_finished": "393942352a3a6a0a",
        "stacked": "5241af6e8a397148",
        "laid_over": "89ef54213596a2b6",
        "as_light": "e0d56a213d88e56e",
        "holes_held": "3e29606c56ec82ee",
        "movie_in_high_range": "a08a293f519e2816",
        "codes_before_a_plate": "98e46b51a9f237e2",
        "joined_shots": "80e8b5fb1c982095",
    },
    4: {
        "plain_png": "ffb804ffb77ba734",
        "light_with_sound": "2f00cbf336589c00",
        "scaled_over_ground": "67e3e199d7b8d31f",
        "between_frames": "e258c9fb4cdf4c6d",
        "much_finished": "393942352a3a6a0a",
        "stacked": "5241af6e8a397148",
        "laid_over": "89ef54213596a2b6",
        "as_light": "e0d56a213d88e56e",
        "holes_held": "3e29606c56ec82ee",
        "movie_in_high_range": "cea0f11987906353",
        "codes_before_a_plate": "98e46b51a9f237e2",
        "joined_shots": "80e8b5fb1c982095",
    },
}
# Lines of text are broken alike in every size, and files of several layers show their beauty.
PIXELS[5] = PIXELS[4]
# PQ and HLG are read, and primaries of what is no light; mattes follow what is shown.
PIXELS[6] = PIXELS[5]


def pixels(folder: Path, make_job: Callable[[Path], Job]) -> str:
    total = hashlib.sha256()
    job = make_job(folder)
    plan = programme(job)
    target = target_of(plan.timeline.size, job.deliveries[0])
    for frame in (1, plan.timeline.length // 2, plan.timeline.length):
        for plane in make(plan.recipe(frame), target).planes:
            total.update(np.ascontiguousarray(plane).data)
    return total.hexdigest()[:16]


@pytest.mark.parametrize("make_job", DIGESTS, ids=lambda make_job: make_job.__name__)
def test_pictures_are_what_the_version_of_the_arithmetic_says(
    make_job: Callable[[Path], Job], tmp_path: Path
) -> None:
    assert ARITHMETIC in PIXELS, "add the digests of the new version"
    assert pixels(tmp_path, make_job) == PIXELS[ARITHMETIC][make_job.__name__], (
        "Pixels have changed: raise plan.keys.ARITHMETIC, and add its digests to PIXELS."
    )


def test_another_arithmetic_is_another_key_for_whatever_is_kept(monkeypatch) -> None:  # type: ignore[no-untyped-def]
    before = store_key("a")
    monkeypatch.setattr(recipe_keys, "ARITHMETIC", ARITHMETIC + 1)
    assert store_key("a") != before
