"""What is looked at besides the picture: alpha, difference, unsure motion; and soft scaling."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.core.picture.test_layers import finished, flat, job_with, stacked
from waxseal.core.deliver.format.delivery_settings import target_of
from waxseal.core.errors import JobError
from waxseal.core.job.corrections import Exposure
from waxseal.core.job.edits import (
    add_delivery,
    change_placing,
    change_timing,
    lay_over,
    set_framing,
    set_ground,
    set_reel_rate,
    set_reel_size,
)
from waxseal.core.job.model import Conversion, Framing, Job, Scaling, Size, StackPass, change
from waxseal.core.picture.make import light_for, make
from waxseal.core.picture.target import Aspect, Filter, Inspection, Layout, Target
from waxseal.core.plan.programme import programme, recipe


def seen(job: Job, what: Aspect, frame: int = 1) -> NDArray[np.uint8]:
    """The screen's (h, w, 3): red, green, blue."""
    size = job.reel_size
    planned = programme(job)
    beauty = planned.composer.beauty(frame) if what is Aspect.DIFFERENCE else None
    inspection = Inspection(what, beauty)
    target = Target(size.width, size.height, Layout.SCREEN, Filter.AREA, inspection=inspection)
    made = make(planned.recipe(frame), target)
    return np.asarray(made.planes[0][..., 2::-1])


def test_alpha_is_looked_at_as_it_is_and_where_the_picture_lies(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.1, 0.1, 0.1, 0.25))
    job = finished(job, Exposure(stops=3))  # no finish touches it
    assert np.unique(seen(job, Aspect.ALPHA)).tolist() == [64]
    job = set_framing(job, shot="a1", framing=Framing.ACTUAL)
    job = set_reel_size(job, size=Size(width=20, height=9))
    whole = seen(job, Aspect.ALPHA)
    assert whole[:, :2].max() == 0
    assert (whole[:, 2:18] == 64).all()
    plain = job_with(tmp_path / "b", a=flat(0.1, 0.1, 0.1))
    assert (seen(plain, Aspect.ALPHA) == 255).all()


def test_a_difference_is_four_times_as_strong(tmp_path: Path) -> None:
    beauty = np.array(flat(0.5, 0.5, 0.5))
    beauty[4, 8] = 0.75
    job = job_with(tmp_path, a=flat(0.2, 0.2, 0.2), b=flat(0.3, 0.3, 0.3), beauty=beauty)
    job = stacked(job, StackPass(source="s1"), StackPass(source="s2"))
    with pytest.raises(JobError, match="no beauty"):
        seen(job, Aspect.DIFFERENCE)
    first = job.sequence("s1")
    assert first.stack is not None
    held = change(first, stack=change(first.stack, beauty="s3"))
    job = change(job, sources=(held, *job.sources[1:]))
    away = seen(job, Aspect.DIFFERENCE)
    assert away[4, 8].tolist() == [255] * 3  # a quarter, four times
    assert np.delete(away.reshape(-1, 3), 4 * 16 + 8, axis=0).max() <= 20  # what halves leave


def test_where_motion_is_unsure_is_seen(tmp_path: Path) -> None:
    """A square that moves is followed; one that is only there in every second frame is not."""
    from waxseal.core.arrive.scanning import scan
    from waxseal.core.frames.frame_writer import write_pixels
    from waxseal.core.job.edits import add_sources, put_on_reel

    random = np.random.default_rng(2)
    ground = random.random((96, 160, 1)).repeat(3, axis=2) * 0.2
    (tmp_path / "m").mkdir()
    for frame in range(1, 4):
        values = ground.copy()
        if frame % 2:
            values[30:66, 60:100] = random.random((36, 40, 3))
        write_pixels(tmp_path / "m" / f"m.{frame:04d}.exr", values.astype(np.float16))
    job = add_sources(Job(), sources=scan([tmp_path / "m"]).sources)
    job = set_reel_rate(put_on_reel(job, sources=["s1"]), rate=Fraction(48))
    with pytest.raises(JobError, match="is an original"):
        seen(job, Aspect.UNSURE, 2)
    job = change_timing(job, of="a1", conversion=Conversion.MOTION)
    doubtful = seen(job, Aspect.UNSURE, 2).astype(int)
    colour = np.abs(doubtful[..., 0] - doubtful[..., 2])
    assert colour[36:60, 66:94].mean() > 60
    assert colour[:16].mean() < 10
    with pytest.raises(JobError, match="is an original"):
        seen(job, Aspect.UNSURE, 1)  # a frame of the source itself


def test_deliveries_know_nothing_of_what_is_looked_at(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.1, 0.1, 0.1, 0.25))
    out = tmp_path / "out"
    job = add_delivery(job, name="a", folder=str(out))
    assert target_of(job.reel_size, job.deliveries[0]).inspection.aspect is Aspect.PICTURE
    plain, alpha = (
        Target(16, 9, Layout.SCREEN, inspection=Inspection(what))
        for what in (Aspect.PICTURE, Aspect.ALPHA)
    )
    assert plain.key != alpha.key


# ---- scaling -------------------------------------------------------------------------------


def hard_edge() -> NDArray[np.float32]:
    """A white square with a hard alpha, premultiplied."""
    square = np.zeros((40, 40, 4), np.float32)
    square[10:30, 10:30] = 1
    return square


@pytest.mark.parametrize("scaling", list(Scaling))
@pytest.mark.parametrize("scale", [0.63, 1.7])
def test_a_hard_matte_does_not_ring(tmp_path: Path, scaling: Scaling, scale: float) -> None:
    """White over grey: nowhere darker than the grey, nor brighter than white."""
    grey = flat(0.25, 0.25, 0.25, width=80, height=80)
    job = lay_over(job_with(tmp_path, a=grey, b=hard_edge()), source="s2", at=1)
    overlay = job.reel.overlays[0].id
    job = set_framing(job, shot=overlay, framing=Framing.ACTUAL)
    job = change_placing(job, of=overlay, scale=scale, scaling=scaling)
    light = light_for(recipe(job, 1), Target(80, 80, Layout.SCREEN, Filter.SHARP))
    assert light.min() >= 0.25 - 2e-3
    assert light.max() <= 1 + 2e-3


def test_soft_scaling_stays_between_the_values_that_are_there(tmp_path: Path) -> None:
    steps = np.zeros((40, 40, 3), np.float32)
    steps[:, 20:] = 0.5
    job = set_ground(job_with(tmp_path, a=steps), colour="#000000")
    job = set_reel_size(job, size=Size(width=90, height=90))
    target = Target(90, 90, Layout.SCREEN, Filter.SHARP)
    sharp = light_for(recipe(job, 1), target)
    assert sharp.max() > 0.52  # Lanczos goes beyond an edge
    soft = light_for(recipe(change_placing(job, of="a1", scaling=Scaling.SOFT), 1), target)
    assert soft.min() >= 0
    assert soft.max() <= 0.5 + 1e-4
    assert np.abs(soft - sharp).max() > 0.02
    layer = recipe(job, 1).layers()[0]
    placing = change(layer.placement.placing, scaling=Scaling.SOFT)
    soft_too = replace(layer.placement, placing=placing)
    assert replace(layer, placement=soft_too) != layer


def test_what_is_no_light_is_seen_in_its_own_range(tmp_path: Path) -> None:
    depth = np.array(flat(300, 300, 300))
    depth[:, :4] = 200
    depth[:, 12:] = 400
    depth[0, 15] = np.inf  # nothing there, as some renderers write it
    whole = seen(job_with(tmp_path, a=depth), Aspect.RANGE)
    assert whole[4, 2].tolist() == [0, 0, 0]
    assert np.abs(whole[4, 8].astype(int) - 128).max() <= 1
    assert whole[4, 14].tolist() == [255] * 3 == whole[0, 15].tolist()
    assert np.unique(seen(job_with(tmp_path / "b", a=flat(7, 7, 7)), Aspect.RANGE)).size == 1
