"""Looking closely: what is found, and what is not, on clean material of every trying kind."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from waxseal.core.arrive.deep import look_deep
from waxseal.core.arrive.sources import look_again, scan
from waxseal.core.errors import Cancelled
from waxseal.core.frames.writing import write_pixels
from waxseal.core.job.model import FindingKind, Health, Sequence
from waxseal.core.progress import CancelToken

Scene = Callable[[int, np.random.Generator], NDArray[np.float64]]
HEIGHT, WIDTH = 54, 96


def ball(frame: int, *, light: float = 0.5, speed: float = 2.0) -> NDArray[np.float64]:
    """A lit ball that moves before a ramp."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    away = np.hypot(x - 20 - speed * frame % 60, y - 27)
    picture = 0.2 * light * (x / WIDTH) + light * np.clip(14 - away, 0, 1)
    return np.repeat(picture[..., None], 3, axis=2)


def clean(frame: int, _random: np.random.Generator) -> NDArray[np.float64]:
    return ball(frame)


def noisy(frame: int, random: np.random.Generator) -> NDArray[np.float64]:
    return ball(frame) + random.normal(0, 0.08, (HEIGHT, WIDTH, 3))


def flickering(frame: int, random: np.random.Generator) -> NDArray[np.float64]:
    return ball(frame) * random.uniform(0.7, 1.3)


def dark(frame: int, random: np.random.Generator) -> NDArray[np.float64]:
    return ball(frame, light=0.02) + random.normal(0, 0.002, (HEIGHT, WIDTH, 3))


def on_twos(frame: int, _random: np.random.Generator) -> NDArray[np.float64]:
    return ball(frame // 2)


def fading_in(frame: int, _random: np.random.Generator) -> NDArray[np.float64]:
    return ball(frame) * min(1.0, max(0, frame - 6) / 10)


def held(frame: int, _random: np.random.Generator) -> NDArray[np.float64]:
    return ball(min(frame, 12))


def cutting(frame: int, _random: np.random.Generator) -> NDArray[np.float64]:
    """A change of light that stays is no flash."""
    return ball(frame, light=0.3 if frame < 16 else 0.9)


def written(
    folder: Path, scene: Scene, *, count: int = 32, suffix: str = ".png", **replaced: Any
) -> Sequence:
    """The scene as a sequence, looked at closely; frames in `replaced` are other values."""
    random = np.random.default_rng(3)
    folder.mkdir()
    for frame in range(1, count + 1):
        picture = replaced.get(f"f{frame}")
        if picture is None:
            picture = scene(frame, random)
        if suffix == ".exr":
            values: Any = picture.astype(np.float16)
        else:
            values = (np.clip(picture, 0, 1) * 255 + 0.5).astype(np.uint8)
        write_pixels(folder / f"a.{frame:04}{suffix}", values)
    (source,) = scan([folder]).sources
    assert isinstance(source, Sequence)
    return look_deep(source)


def looks(source: Sequence) -> list[tuple[FindingKind, int]]:
    return [(finding.kind, finding.frame) for finding in source.found.findings]


@pytest.mark.parametrize("suffix", [".png", ".exr"])
@pytest.mark.parametrize(
    "scene", [clean, noisy, flickering, dark, on_twos, fading_in, held, cutting]
)
def test_no_false_alarm_on_clean_material(tmp_path: Path, scene: Scene, suffix: str) -> None:
    source = written(tmp_path / "f", scene, suffix=suffix)
    assert looks(source) == []
    assert source.health is Health.WHOLE


@pytest.mark.parametrize("scene", [clean, noisy, dark])
def test_a_lone_black_frame_is_found(tmp_path: Path, scene: Scene) -> None:
    source = written(tmp_path / "f", scene, f11=np.zeros((HEIGHT, WIDTH, 3)))
    assert looks(source) == [(FindingKind.BLACK, 11)]
    assert source.to_come_again == ()  # a second look, no verdict


@pytest.mark.parametrize("scene", [clean, noisy, cutting])
def test_a_flash_is_found(tmp_path: Path, scene: Scene) -> None:
    source = written(tmp_path / "f", scene, f9=ball(9) + 0.35)
    assert looks(source) == [(FindingKind.FLASH, 9)]
    assert "brighter than its neighbours" in source.found.findings[0].what


def test_a_frame_that_repeats_its_neighbour_is_found(tmp_path: Path) -> None:
    source = written(tmp_path / "f", clean, f20=ball(19))
    assert looks(source) == [(FindingKind.REPEATS, 20)]


def test_values_that_are_no_numbers_are_counted(tmp_path: Path) -> None:
    broken = ball(7)
    broken[3, 4, 0], broken[5, 6] = np.nan, np.inf
    source = written(tmp_path / "f", clean, suffix=".exr", f7=broken)
    assert looks(source) == [(FindingKind.NOT_NUMBERS, 7)]
    assert source.found.findings[0].what.startswith("4 of its values")


def test_damage_behind_a_good_header_is_found(tmp_path: Path) -> None:
    source = written(tmp_path / "f", clean)
    path = tmp_path / "f" / "a.0005.png"
    content = bytearray(path.read_bytes())
    content[len(content) // 2 : -12] = bytes(len(content) - 12 - len(content) // 2)
    path.write_bytes(content)
    assert source.health is Health.WHOLE
    again = look_deep(source)
    assert again.to_come_again == (5,)
    assert again.health is Health.DAMAGED
    assert looks(look_deep(again)) == looks(again)  # once, however often it is looked at


def test_a_quick_look_keeps_what_was_seen_closely_in_unchanged_files(tmp_path: Path) -> None:
    source = written(tmp_path / "f", clean, f11=np.zeros((HEIGHT, WIDTH, 3)), f20=ball(19))
    assert [frame for _, frame in looks(source)] == [11, 20]
    assert looks(look_again(source)) == looks(source)
    values = (np.clip(ball(11), 0, 1) * 255 + 0.5).astype(np.uint8)
    write_pixels(tmp_path / "f" / "a.0011.png", values)
    assert [frame for _, frame in looks(look_again(source))] == [20]
    (tmp_path / "f" / "a.0020.png").write_bytes(b"")
    again = look_again(source)
    assert looks(again) == [(FindingKind.DAMAGED, 20)]


def test_looking_closely_can_be_stopped(tmp_path: Path) -> None:
    source = written(tmp_path / "f", clean, count=6)
    token = CancelToken()
    token.cancel()
    with pytest.raises(Cancelled):
        look_deep(source, token=token)
