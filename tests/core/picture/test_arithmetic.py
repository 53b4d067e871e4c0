"""Whoever changes a pixel raises the version of the arithmetic that keys hold."""

from __future__ import annotations

import hashlib
from pathlib import Path

import numpy as np

from tests.core.deliver.test_same_bytes import DIGESTS
from waxseal.core.deliver.settings import target_of
from waxseal.core.picture.make import make
from waxseal.core.plan import keys
from waxseal.core.plan.keys import ARITHMETIC, store_key
from waxseal.core.plan.programme import programme

# The pictures of the ten jobs of core/deliver/test_same_bytes, as one digest, by the version
# of the arithmetic that made them. Never change a line: raise ARITHMETIC and add one.
PIXELS = {
    1: "33f3f4092852b15f",
}


def pixels(folder: Path) -> str:
    total = hashlib.sha256()
    for make_job in DIGESTS:
        job = make_job(folder / make_job.__name__)
        plan = programme(job)
        target = target_of(plan.timeline.size, job.deliveries[0])
        for frame in (1, plan.timeline.length // 2, plan.timeline.length):
            for plane in make(plan.recipe(frame), target).planes:
                total.update(np.ascontiguousarray(plane).data)
    return total.hexdigest()[:16]


def test_pictures_are_what_the_version_of_the_arithmetic_says(tmp_path: Path) -> None:
    for make_job in DIGESTS:
        (tmp_path / make_job.__name__).mkdir()
    assert ARITHMETIC in PIXELS, "add a line for the new version"
    assert pixels(tmp_path) == PIXELS[ARITHMETIC], (
        "Pixels have changed: raise plan.keys.ARITHMETIC, and add a line to PIXELS."
    )


def test_another_arithmetic_is_another_key_for_whatever_is_kept(monkeypatch) -> None:  # type: ignore[no-untyped-def]
    before = store_key("a")
    monkeypatch.setattr(keys, "ARITHMETIC", ARITHMETIC + 1)
    assert store_key("a") != before
