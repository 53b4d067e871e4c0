"""Light copies: what they show, when they are used, and when they are not any more."""

from __future__ import annotations

import shutil
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.making import aged, write_sequence
from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import Cancelled
from waxseal.core.job.edits import (
    add_sources,
    change_placing,
    change_reading,
    put_on_reel,
    set_framing,
    set_reel_size,
)
from waxseal.core.job.model import Colour, Colourway, Framing, Job, Order, Size, Turn, Working
from waxseal.core.picture.copies.proxy_folder import LightCopies
from waxseal.core.picture.copies.proxy_writer import copy_heavy
from waxseal.core.picture.light.light_store import LightStore
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Filter, Layout, Target
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, Progress, silent

SCREEN = Target(320, 180, Layout.SCREEN, Filter.AREA)
AT_ONCE = Fraction(0)  # a budget that every frame is too heavy for


@pytest.fixture(autouse=True)
def room(monkeypatch: pytest.MonkeyPatch) -> None:
    """Whatever room this machine's disk has."""
    monkeypatch.setattr("waxseal.core.picture.copies.proxy_folder.LEAST_FREE", 0)


def reel_of(folder: Path, *, width: int = 2600, frames: range = range(1, 4), **kind: Any) -> Job:
    write_sequence(
        folder / "shot",
        "shot.%04d.exr",
        frames=frames,
        width=width,
        height=width * 9 // 16,
        dtype="float16",
        **kind,
    )
    job = add_sources(Job(), sources=list(scan([folder / "shot"]).sources))
    return put_on_reel(job, sources=[job.sources[0].id])


def copied(job: Job, folder: Path, budget: Fraction = AT_ONCE) -> tuple[LightCopies, int]:
    copies = LightCopies(folder / "light")
    made = copy_heavy(
        programme(job).film(), copies, report=silent, token=CancelToken(), budget=budget
    )
    return copies, made


@pytest.mark.parametrize("channels", [3, 4])
def test_a_copy_shows_what_the_frame_shows(tmp_path: Path, channels: int) -> None:
    job = reel_of(tmp_path, channels=channels)
    copies, made = copied(job, tmp_path)
    assert made == 3
    recipe = programme(job).recipe(2)
    assert copies.serve(recipe)
    light = make(recipe, SCREEN, copies=copies).planes[0].astype(int)
    true = make(recipe, SCREEN).planes[0].astype(int)
    apart = np.abs(light - true)
    assert apart.mean() < 0.6
    assert np.quantile(apart, 0.99) <= 4
    assert not np.array_equal(light, true)  # it was the copy that was looked at


@pytest.mark.parametrize("framing", list(Framing))
@pytest.mark.parametrize("turn", [Turn.NONE, Turn.RIGHT])
def test_a_copy_lies_where_the_frame_lies(tmp_path: Path, framing: Framing, turn: Turn) -> None:
    job = reel_of(tmp_path, frames=range(1, 2), channels=4)
    shot = job.reel.shots[0].id
    job = set_reel_size(job, size=Size(width=1600, height=1200))
    job = set_framing(job, shot=shot, framing=framing)
    job = change_placing(job, of=shot, turn=turn)
    copies, _ = copied(job, tmp_path)
    recipe, target = programme(job).recipe(1), Target(400, 300, Layout.SCREEN, Filter.AREA)
    apart = make(recipe, target, copies=copies).planes[0].astype(int) - make(recipe, target).planes[
        0
    ].astype(int)
    assert np.quantile(np.abs(apart), 0.98) <= 4


def test_what_is_light_enough_gets_no_copy(tmp_path: Path) -> None:
    job = reel_of(tmp_path, width=64, frames=range(1, 8))
    _, made = copied(job, tmp_path, Fraction(60))
    assert made == 0


def test_another_reading_and_another_file_have_no_copy_any_more(tmp_path: Path) -> None:
    job = reel_of(tmp_path)
    copies, _ = copied(job, tmp_path)
    source = job.sources[0].id
    other = change_reading(job, source=source, colour=Colour.SRGB)
    assert not copies.serve(programme(other).recipe(1))
    backwards = change_reading(job, source=source, order=Order.REVERSED)
    assert copies.serve(programme(backwards).recipe(1))
    aged(tmp_path / "shot" / "shot.0002.exr")
    served = [copies.serve(programme(job).recipe(frame)) for frame in (1, 2, 3)]
    assert served == [True, False, True]


def test_copies_are_found_again_and_bounded(tmp_path: Path) -> None:
    job = reel_of(tmp_path)
    copies, _ = copied(job, tmp_path)
    again = LightCopies(tmp_path / "light")
    assert again.size_bytes == copies.size_bytes > 0
    reel = programme(job)
    assert all(again.serve(reel.recipe(frame)) for frame in (1, 2, 3))
    other = Colourway(working=Working.ACESCG)
    small = LightCopies(tmp_path / "light", most_bytes=copies.size_bytes // 2)
    shown = reel.recipe(1).layers()[0].shown
    small.keep(shown, other, np.ones((90, 160, 3), np.float32))
    small.keep(shown, other, np.ones((90, 160, 3), np.float32))  # again: counted once
    assert small.size_bytes <= copies.size_bytes // 2
    on_disk = sum(file.stat().st_size for file in (tmp_path / "light").iterdir())
    assert on_disk == small.size_bytes
    assert small.has(shown, other)  # the newest stays


def test_a_copy_that_somebody_deleted_or_cut_is_none(tmp_path: Path) -> None:
    job = reel_of(tmp_path)
    copies, _ = copied(job, tmp_path)
    first, second, _ = sorted((tmp_path / "light").iterdir())
    first.unlink()
    second.write_bytes(second.read_bytes()[:100])
    reel = programme(job)
    for frame in (1, 2, 3):
        recipe = reel.recipe(frame)
        light = make(recipe, SCREEN, copies=copies).planes[0].astype(int)
        assert np.abs(light - make(recipe, SCREEN).planes[0]).mean() < 0.6


def test_light_of_a_copy_is_never_kept_for_judging(tmp_path: Path) -> None:
    job = reel_of(tmp_path)
    copies, _ = copied(job, tmp_path)
    recipe, store = programme(job).recipe(1), LightStore(1 << 30)
    light = make(recipe, SCREEN, copies=copies, store=store).planes[0]
    true = make(recipe, SCREEN, store=store).planes[0]
    assert np.array_equal(true, make(recipe, SCREEN).planes[0])
    assert not np.array_equal(light, true)


def test_a_disk_that_is_nearly_full_is_left_alone(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    free = shutil.disk_usage(tmp_path).free
    monkeypatch.setattr("waxseal.core.picture.copies.proxy_folder.LEAST_FREE", free * 2)
    with pytest.raises(OSError, match="are free"):
        copied(reel_of(tmp_path, width=64), tmp_path)
    assert not list((tmp_path / "light").iterdir())


def test_values_that_a_half_cannot_hold_are_cut(tmp_path: Path) -> None:
    copies = LightCopies(tmp_path)
    light = np.full((32, 32, 3), 1e9, np.float32)
    light[0, 0], light[0, 1] = np.nan, -np.inf
    shown = programme(reel_of(tmp_path, width=64)).recipe(1).layers()[0].shown
    copies.keep(shown, Colourway(), light)
    found = copies.find(shown, Colourway())
    assert found is not None
    assert np.isfinite(found[0]).all()
    assert found[0].max() > 32_000


def test_copying_names_its_source_and_stops(tmp_path: Path) -> None:
    job = reel_of(tmp_path)
    token, said = CancelToken(), list[Progress]()

    def report(progress: Progress) -> None:
        said.append(progress)
        token.cancel()

    copies = LightCopies(tmp_path / "light")
    with pytest.raises(Cancelled):
        copy_heavy(programme(job).film(), copies, report=report, token=token, budget=AT_ONCE)
    assert [(one.stage, one.done, one.total) for one in said] == [(job.sources[0].id, 1, 3)]
    rest = copy_heavy(
        programme(job).film(), copies, report=silent, token=CancelToken(), budget=AT_ONCE
    )
    assert rest == 2
