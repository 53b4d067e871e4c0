"""Looking closely: what is found, and what is not, on clean material of every trying kind."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.making import emptied
from waxseal.core.arrive.decode_check import look_deep
from waxseal.core.arrive.header_scan import look_again
from waxseal.core.arrive.measure_cache import MeasureCache
from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import Cancelled
from waxseal.core.frames.frame_reader import Pixels, read_pixels
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.model import FindingKind, Health, Sequence
from waxseal.core.progress import CancelToken, Progress

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


def starry(frame: int, _random: np.random.Generator) -> NDArray[np.float64]:
    """Stars that stand still belong to the picture."""
    picture = ball(frame)
    for y, x in ((5, 80), (9, 62), (44, 71), (50, 90)):
        picture[y, x] = 6.0
    return picture


def letterboxed(frame: int, _random: np.random.Generator) -> NDArray[np.float64]:
    picture = ball(frame) + 0.1
    picture[:18], picture[-18:] = 0, 0
    return picture


def panning(frame: int, _random: np.random.Generator) -> NDArray[np.float64]:
    """Everything moves, fast."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    picture = 0.4 + 0.3 * np.sin((x + 7 * frame) / 9) * np.cos(y / 7)
    return np.repeat(picture[..., None], 3, axis=2)


@pytest.mark.parametrize("suffix", [".png", ".exr"])
@pytest.mark.parametrize(
    "scene",
    [
        *(clean, noisy, flickering, dark, on_twos, fading_in),
        *(held, cutting, starry, letterboxed, panning),
    ],
)
def test_no_false_alarm_on_clean_material(tmp_path: Path, scene: Scene, suffix: str) -> None:
    source = written(tmp_path / "f", scene, suffix=suffix)
    assert looks(source) == []
    assert source.health is Health.WHOLE


@pytest.mark.parametrize("scene", [clean, noisy, dark])
def test_a_lone_black_frame_is_found(tmp_path: Path, scene: Scene) -> None:
    source = written(tmp_path / "f", scene, f11=np.zeros((HEIGHT, WIDTH, 3)))
    assert looks(source) == [(FindingKind.BLACK, 11)]
    assert source.to_rerender == ()  # a second look, no verdict


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
    assert again.to_rerender == (5,)
    assert again.health is Health.DAMAGED
    assert looks(look_deep(again)) == looks(again)  # once, however often it is looked at


def test_a_quick_look_keeps_what_was_seen_closely_in_unchanged_files(tmp_path: Path) -> None:
    source = written(tmp_path / "f", clean, f11=np.zeros((HEIGHT, WIDTH, 3)), f20=ball(19))
    assert [frame for _, frame in looks(source)] == [11, 20]
    assert looks(look_again(source)) == looks(source)
    values = (np.clip(ball(11), 0, 1) * 255 + 0.5).astype(np.uint8)
    write_pixels(tmp_path / "f" / "a.0011.png", values)
    assert [frame for _, frame in looks(look_again(source))] == [20]
    emptied(tmp_path / "f" / "a.0020.png")
    again = look_again(source)
    assert looks(again) == [(FindingKind.DAMAGED, 20)]


@pytest.mark.parametrize("suffix", [".png", ".exr"])
@pytest.mark.parametrize("scene", [clean, noisy, starry])
def test_lone_bright_pixels_are_found_with_their_place(
    tmp_path: Path, scene: Scene, suffix: str
) -> None:
    random = np.random.default_rng(9)
    picture = scene(14, random)
    picture[12, 40], picture[44, 88, 1] = 12.0, 9.0
    source = written(tmp_path / "f", scene, suffix=suffix, f14=picture)
    assert looks(source) == [(FindingKind.BRIGHT_PIXELS, 14)]
    words = source.found.findings[0].what
    assert words.startswith("2 lone bright pixels")
    assert "40, 12" in words or "88, 44" in words


def test_bright_pixels_in_most_frames_are_said_once(tmp_path: Path) -> None:
    def sparkling(frame: int, random: np.random.Generator) -> NDArray[np.float64]:
        picture = ball(frame)
        for y, x in zip(random.integers(2, 50, 5), random.integers(60, 94, 5), strict=True):
            picture[y, x] = 9.0
        return picture

    source = written(tmp_path / "f", sparkling, suffix=".exr")
    assert [kind for kind, _ in looks(source)] == [FindingKind.BRIGHT_PIXELS]
    assert "other frames" in source.found.findings[0].what


@pytest.mark.parametrize("suffix", [".png", ".exr"])
def test_the_border_of_a_crop_is_found(tmp_path: Path, suffix: str) -> None:
    def lit(frame: int, _random: np.random.Generator) -> NDArray[np.float64]:
        return ball(frame) + 0.1

    cropped = ball(12) + 0.1
    cropped[:7], cropped[:, -3:] = 0, 0
    source = written(tmp_path / "f", lit, suffix=suffix, f12=cropped)
    assert looks(source) == [(FindingKind.BORDER, 12)]
    assert "7 px above, 3 px right" in source.found.findings[0].what


def test_a_thin_border_on_every_frame_is_said_once(tmp_path: Path) -> None:
    def thin(frame: int, _random: np.random.Generator) -> NDArray[np.float64]:
        picture = ball(frame) + 0.1
        picture[:, :2] = 0
        return picture

    source = written(tmp_path / "f", thin)
    assert looks(source) == [(FindingKind.BORDER, 1)]
    assert "on every frame: 2 px left" in source.found.findings[0].what


@pytest.mark.parametrize("scene", [clean, noisy, panning])
def test_a_picture_of_another_place_is_a_jump(tmp_path: Path, scene: Scene) -> None:
    if scene is panning:
        other = panning(40, np.random.default_rng(1))[::-1, ::-1]
        source = written(tmp_path / "f", scene, f17=other)
        assert looks(source) == []  # where all moves this fast, one frame more is no surprise
        return
    other = ball(17)[:, ::-1]
    source = written(tmp_path / "f", scene, f17=other)
    assert looks(source) == [(FindingKind.JUMP, 17)]


def test_what_was_measured_is_not_decoded_again(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    source = written(tmp_path / "f", noisy, f11=np.zeros((HEIGHT, WIDTH, 3)))
    memory = MeasureCache(tmp_path / "kept")
    first = look_deep(source, memory=memory)
    assert looks(first) == looks(source)
    decoded: list[int] = []

    def counting(path: Path, *, frame: int, part: str) -> Pixels:
        decoded.append(frame)
        return read_pixels(path, frame=frame, part=part)

    monkeypatch.setattr("waxseal.core.arrive.decode_check.read_pixels", counting)
    assert looks(look_deep(source, memory=memory)) == looks(source)
    assert decoded == []
    write_pixels(tmp_path / "f" / "a.0011.png", (ball(11) * 255).astype(np.uint8))
    assert looks(look_deep(look_again(source), memory=memory)) == []
    assert decoded == [11]


@pytest.mark.parametrize("content", [b"", b"rubbish", b"PK\x03\x04rubbish"])
def test_a_memory_that_is_damaged_is_only_slower(tmp_path: Path, content: bytes) -> None:
    source = written(tmp_path / "f", clean, count=6)
    memory = MeasureCache(tmp_path / "kept")
    look_deep(source, memory=memory)
    (kept,) = (tmp_path / "kept").iterdir()
    kept.write_bytes(content)
    assert memory.recall(source) == {}
    assert looks(look_deep(source, memory=memory)) == []


def test_a_frame_that_could_not_be_decoded_is_remembered(tmp_path: Path) -> None:
    source = written(tmp_path / "f", clean, count=8)
    path = tmp_path / "f" / "a.0005.png"
    content = bytearray(path.read_bytes())
    content[len(content) // 2 : -12] = bytes(len(content) - 12 - len(content) // 2)
    path.write_bytes(content)
    memory = MeasureCache(tmp_path / "kept")
    first = look_deep(source, memory=memory)
    assert first.to_rerender == (5,)
    assert look_deep(source, memory=memory) == first


def test_a_stopped_look_goes_on_where_it_was(tmp_path: Path) -> None:
    source = written(tmp_path / "f", clean, count=40)
    memory = MeasureCache(tmp_path / "kept")
    token = CancelToken()

    def stop_after_the_first_batch(_progress: Progress) -> None:
        token.cancel()

    with pytest.raises(Cancelled):
        look_deep(source, memory=memory, report=stop_after_the_first_batch, token=token)
    assert 32 <= len(memory.recall(source)) < 40


def test_looking_closely_can_be_stopped(tmp_path: Path) -> None:
    source = written(tmp_path / "f", clean, count=6)
    token = CancelToken()
    token.cancel()
    with pytest.raises(Cancelled):
        look_deep(source, token=token)
