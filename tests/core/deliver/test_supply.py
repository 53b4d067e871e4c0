"""What comes again from frame to frame is decoded once, and its light is worked out once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.making import gradient, write_sequence
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.encode import prefetch as supplying
from waxseal.core.deliver.encode.prefetch import PictureOrder, Prefetch
from waxseal.core.errors import FrameError
from waxseal.core.frames import decode_ahead
from waxseal.core.frames.decode_ahead import SharedFrames
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import Cdl, Fade, Soften, Text
from waxseal.core.job.edits import (
    add_sources,
    change_colourway,
    change_placing,
    change_timing,
    lay_over,
    put_behind,
    put_on_reel,
    set_correction,
    set_length,
    set_reel_rate,
)
from waxseal.core.job.model import Conversion, Job, Sequence, View
from waxseal.core.picture import layer_light
from waxseal.core.picture.framing import Box
from waxseal.core.picture.light.light_reader import decode_pick, key_of
from waxseal.core.picture.light.light_store import LightStore
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.filestates import state_of
from waxseal.core.plan.frame_picks import source_recipe
from waxseal.core.plan.programme import programme
from waxseal.core.plan.recipe import Pick

FRAMES = 8
TARGET = Target(96, 54, Layout.YUV420)


@pytest.fixture
def decoded(monkeypatch: pytest.MonkeyPatch) -> Counter[str]:
    """How often each file was decoded."""
    return counted(monkeypatch, decode_ahead, "read_pixels", lambda path, **_: path.name)


@pytest.fixture
def framed(monkeypatch: pytest.MonkeyPatch) -> Counter[str]:
    """How often a source was put into the frame."""
    return counted(monkeypatch, layer_light, "layer_light", lambda layer, *_: layer.pick.source)


def counted(
    monkeypatch: pytest.MonkeyPatch, module: Any, name: str, what: Callable[..., str]
) -> Counter[str]:
    count: Counter[str] = Counter()
    real = getattr(module, name)

    def count_it(*args: Any, **kwargs: Any) -> Any:
        count[what(*args, **kwargs)] += 1
        return real(*args, **kwargs)

    monkeypatch.setattr(module, name, count_it)
    return count


def reel_and_still(folder: Path) -> Job:
    """A sequence, half clear, on the reel; and a larger still."""
    (folder / "moves").mkdir()
    for frame in range(1, FRAMES + 1):
        picture = gradient(frame, width=96, height=54, channels=4)
        picture[..., 3] = 120
        write_pixels(folder / "moves" / f"moves.{frame:04}.png", picture)
    write_pixels(folder / "plate.png", gradient(5, width=200, height=110))
    sources = [*scan([folder / "moves"]).sources, *scan([folder / "plate.png"]).sources]
    return put_on_reel(add_sources(Job(), sources=sources), sources=["s1"])


def over(job: Job) -> Job:
    job = set_length(lay_over(job, source="s2", at=1), of="o1", frames=FRAMES, count=1)
    return change_placing(job, of="o1", scale=0.5, x=10)


def faded(job: Job) -> Job:
    return set_correction(over(job), of="o1", correction=Fade(frames_in=4, frames_out=3))


REELS: dict[str, Callable[[Job], Job]] = {
    "behind": lambda job: put_behind(job, source="s2"),
    "over": over,
    "over, graded and written on": lambda job: set_correction(
        set_correction(over(job), of="o1", correction=Text(words="a b")),
        of="o1",
        correction=Cdl(slope=(1.2, 1.0, 0.8)),
    ),
    "over, soft, that fades": lambda job: set_correction(
        faded(job), of="o1", correction=Soften(radius=20)
    ),
    "over, that fades under a view": lambda job: change_colourway(faded(job), view=View.ACES_SDR),
    "behind and over under a view": lambda job: change_colourway(
        put_behind(over(job), source="s2"), view=View.ACES_SDR
    ),
}


@pytest.mark.parametrize("ahead", [6, 0])
@pytest.mark.parametrize("name", REELS)
def test_a_still_is_decoded_and_placed_once_for_a_film(
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    decoded: Counter[str],
    framed: Counter[str],
    name: str,
    ahead: int,
) -> None:
    """And the pictures are those that are made of each frame by itself.

    ahead: 0 for an encoder so slow that each picture is made before the next is asked for.
    """
    monkeypatch.setattr(supplying, "AHEAD", ahead)
    monkeypatch.setattr(supplying, "LEAST_AHEAD", ahead)
    film = programme(REELS[name](reel_and_still(tmp_path))).film()
    decoded.clear()  # the close look has been at one of each
    supply = Prefetch([PictureOrder(film, TARGET, lambda _: None)])
    made = [supply.next_made(number)[0].picture for number in film.frames]
    supply.close()
    moving = {f"moves.{frame:04}.png": 1 for frame in range(1, FRAMES + 1)}
    assert decoded == {"plate.png": 1, **moving}
    # Its light is kept when it is asked for again, and two threads may be at it by then.
    assert framed["s2"] <= 3 * name.count("behind") + 3 * name.count("over")
    for number, picture in zip(film.frames, made, strict=True):
        alone = make(film.recipe(number), TARGET)
        for one, other in zip(picture.planes, alone.planes, strict=True):
            np.testing.assert_array_equal(one, other)


def test_neighbours_that_are_mixed_are_decoded_once(tmp_path: Path, decoded: Counter[str]) -> None:
    write_sequence(tmp_path / "slow", "slow.%04d.png", frames=range(1, 9), rate=Fraction(10))
    job = add_sources(Job(), sources=scan([tmp_path / "slow"]).sources)
    job = set_reel_rate(put_on_reel(job, sources=["s1"]), rate=Fraction(24))
    film = programme(change_timing(job, of="a1", conversion=Conversion.BLEND)).film()
    decoded.clear()
    supply = Prefetch([PictureOrder(film, TARGET, lambda _: None)])
    for number in film.frames:
        supply.next_made(number)
    supply.close()
    assert decoded == {f"slow.{frame:04}.png": 1 for frame in range(1, 9)}


def still_pick(path: Path) -> Pick:
    (still,) = (one for one in scan([path]).sources if isinstance(one, Sequence))
    shot = source_recipe(still, still.range.first).shot
    assert shot is not None
    return shot.pick


def test_a_shared_frame_is_kept_while_a_picture_needs_it(tmp_path: Path) -> None:
    write_pixels(tmp_path / "a.png", gradient(1))
    shared, pick = SharedFrames(), still_pick(tmp_path / "a.png")
    keys = [key_of(pick)]
    for _ in range(2):
        shared.announce(keys)
    with shared.used_for(keys):
        first = decode_pick(pick)
    with shared.used_for(keys):
        assert decode_pick(pick) is first
        assert decode_ahead.decode(tmp_path / "a.png") is not first  # by no key: not shared
    assert decode_pick(pick) is not first
    shared.announce(keys)
    with shared.used_for(keys):
        assert decode_pick(pick) is not first


def test_a_file_that_is_replaced_is_decoded_again(tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    write_pixels(path, gradient(1))
    shared, before = SharedFrames(), still_pick(path)
    shared.announce([key_of(before)])
    with shared.used_for([key_of(before)]):
        first = decode_pick(before)
        write_pixels(path, gradient(9))
        after = replace(before, file=state_of(path))
        shared.announce([key_of(after)])
        with shared.used_for([key_of(after)]):
            assert not np.array_equal(decode_pick(after).values, first.values)
        assert decode_pick(before) is first


def test_a_frame_that_cannot_be_read_is_tried_by_each(tmp_path: Path) -> None:
    """What was wrong before is not kept."""
    path = tmp_path / "a.png"
    write_pixels(path, gradient(1))
    shared, pick, whole = SharedFrames(), still_pick(path), path.read_bytes()
    path.write_bytes(whole[:200])
    for _ in range(2):
        shared.announce([key_of(pick)])
    with shared.used_for([key_of(pick)]), pytest.raises(FrameError):
        decode_pick(pick)
    path.write_bytes(whole)
    with shared.used_for([key_of(pick)]):
        assert decode_pick(pick).values.shape == (36, 64, 3)


def test_only_light_that_is_asked_for_again_is_kept() -> None:
    """And whoever got it may change it."""
    store, made = LightStore(1 << 20, only_recurring=True), []

    def make_light() -> tuple[Any, Box]:
        made.append(1)
        return np.ones((4, 4, 3), np.float32), Box(0, 0, 4, 4)

    for _ in range(4):
        light, _ = store.get("still", make_light)
        assert light.sum() == 48
        light[:] = 0
    store.get("moving", make_light)
    assert len(made) == 2 + 1
    small = LightStore(10, only_recurring=True)  # what is larger than all is not kept
    for _ in range(3):
        assert small.get("still", make_light)[0].sum() == 48
