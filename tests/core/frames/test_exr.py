"""EXR frames unpacked by our own loop: the values that OpenEXR gives, or none at all."""

from __future__ import annotations

import struct
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import pytest
from numpy.typing import NDArray

from waxseal.core.errors import FrameError
from waxseal.core.frames import exr, reading
from waxseal.core.frames.exr import decode_exr
from waxseal.core.frames.headers import look
from waxseal.core.frames.reading import read_pixels

SHAPES = [(1, 1), (5, 3), (16, 8), (33, 7), (40, 61)]
LAYERS = ("View.Combined.R", "View.Combined.G", "View.Combined.B", "View.Combined.A")


@pytest.fixture(autouse=True)
def _kernel_is_there(monkeypatch: pytest.MonkeyPatch) -> None:
    exr.exercise()
    monkeypatch.setattr(exr, "EARLY", 0)


def write(path: Path, channels: dict[str, NDArray[Any]], packed: str = "ZIP", **said: Any) -> None:
    header = {
        "type": OpenEXR.scanlineimage,
        "compression": getattr(OpenEXR, f"{packed}_COMPRESSION"),
    }
    with OpenEXR.File(header | said, channels) as file:
        file.write(str(path))


def slopes(shape: tuple[int, int], dtype: str = "float16", seed: int = 3) -> NDArray[Any]:
    """Smooth with some noise, so that it becomes smaller and has every bit."""
    draw = np.random.default_rng(seed)
    values = np.linspace(-3, 3, shape[0] * shape[1]).reshape(shape) + draw.normal(0, 0.01, shape)
    return values.astype(dtype)


def bits(values: NDArray[Any]) -> NDArray[Any]:
    return values.view(f"u{values.dtype.itemsize}")


def by_openexr(path: Path, names: tuple[str, ...]) -> NDArray[Any]:
    with OpenEXR.File(str(path), separate_channels=True) as file:
        channels = file.channels()
        return np.stack([channels[name].pixels for name in names], axis=2)


@pytest.mark.parametrize("packed", ["ZIP", "ZIPS"])
@pytest.mark.parametrize("dtype", ["float16", "float32"])
@pytest.mark.parametrize("shape", SHAPES)
def test_every_bit_is_that_of_the_library(
    tmp_path: Path, shape: tuple[int, int], dtype: str, packed: str
) -> None:
    path, names = tmp_path / "a.exr", ("R", "G", "B", "A")
    write(path, {name: slopes(shape, dtype, seed) for seed, name in enumerate(names)}, packed)
    for wanted in (names, ("B", "R"), ("A",)):
        values = decode_exr(path, wanted)
        assert values is not None
        assert values.dtype == dtype
        np.testing.assert_array_equal(bits(values), bits(by_openexr(path, wanted)))


def test_all_65_536_halves_come_back(tmp_path: Path) -> None:
    """Infinite ones, and those that are no number, with all their bits."""
    every = np.arange(65_536, dtype=np.uint16).reshape(256, 256).view(np.float16)
    write(tmp_path / "a.exr", dict.fromkeys("RGB", every))
    values = decode_exr(tmp_path / "a.exr", "RGB")
    assert values is not None
    for channel in range(3):
        np.testing.assert_array_equal(bits(values[..., channel]), bits(every))


@pytest.mark.parametrize("width", [7, 32])
def test_what_would_not_become_smaller_is_stored_and_read(tmp_path: Path, width: int) -> None:
    """Some chunks of noise, and some that are packed; halves beside floats and whole numbers."""
    draw = np.random.default_rng(9)
    noise = bits(slopes((64, width))).copy()
    noise[16:48] = draw.integers(0, 1 << 15, (32, width))
    names = ("a.R", "a.G", "a.B")
    halves = {name: noise.view(np.float16) for name in names}
    depth = draw.integers(0, 1 << 30, (64, width), np.uint32)
    channels: dict[str, NDArray[Any]] = {**halves, "Z": depth.view(np.float32), "id": depth}
    for number, name in enumerate(names):
        channels[name] = np.roll(noise, number, axis=1).view(np.float16)
    write(tmp_path / "a.exr", channels)
    for wanted in (names, ("Z",)):
        values = decode_exr(tmp_path / "a.exr", wanted)
        assert values is not None
        np.testing.assert_array_equal(bits(values), bits(by_openexr(tmp_path / "a.exr", wanted)))


def test_a_layer_of_many_is_the_same_by_both_ways(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "a.exr"
    channels = {name: slopes((37, 21), seed=n) for n, name in enumerate(LAYERS)}
    others = {f"View.Glow.{name}": slopes((37, 21), seed=9) for name in "RGB"}
    depth = {"View.Depth.Z": slopes((37, 21), "float32")}
    write(path, channels | others | depth)
    names = [part.name for part in look(path).parts]
    assert len(names) == 3
    quick = {name: read_pixels(path, part=name).values for name in names}
    monkeypatch.setattr(reading, "decode_exr", lambda *_: None)
    for name in names:
        values = read_pixels(path, part=name).values
        assert values.dtype == quick[name].dtype
        np.testing.assert_array_equal(bits(values), bits(quick[name]))


def unusual() -> Iterator[Any]:
    half = slopes((20, 12))
    rgb = dict.fromkeys("RGB", half)
    windows = {
        "dataWindow": (np.array([0, 0], np.int32), np.array([11, 19], np.int32)),
        "displayWindow": (np.array([0, 0], np.int32), np.array([15, 19], np.int32)),
    }
    for packed in ("NO", "RLE", "PIZ", "PXR24", "DWAA"):
        yield pytest.param(rgb, packed, {}, ("R", "G", "B"), id=packed)
    yield pytest.param(rgb, "ZIP", windows, ("R", "G", "B"), id="other window")
    yield pytest.param(rgb, "ZIP", {}, ("R", "X"), id="no such channel")
    mixed = rgb | {"A": half.astype(np.float32)}
    yield pytest.param(mixed, "ZIP", {}, ("R", "A"), id="types mixed")
    whole = {"id": np.arange(240, dtype=np.uint32).reshape(20, 12)}
    yield pytest.param(whole, "ZIP", {}, ("id",), id="whole numbers")
    tiles = {"type": OpenEXR.tiledimage, "tiles": OpenEXR.TileDescription()}
    yield pytest.param(rgb, "ZIP", tiles, ("R", "G", "B"), id="tiles")


@pytest.mark.parametrize(("channels", "packed", "said", "wanted"), [*unusual()])
def test_what_is_unusual_is_left_to_the_libraries(
    tmp_path: Path,
    channels: dict[str, NDArray[Any]],
    packed: str,
    said: dict[str, Any],
    wanted: tuple[str, ...],
) -> None:
    write(tmp_path / "a.exr", channels, packed, **said)
    assert decode_exr(tmp_path / "a.exr", wanted) is None


def test_any_changed_byte_of_the_pixels_is_an_error_not_a_picture(tmp_path: Path) -> None:
    path = tmp_path / "a.exr"
    write(path, {name: slopes((40, 24), seed=n) for n, name in enumerate("RGB")})
    content = path.read_bytes()
    whole = bits(by_openexr(path, ("R", "G", "B")))
    begin = len(content) * 2 // 5
    for at in range(begin, len(content), 97):
        damaged = bytearray(content)
        damaged[at] ^= 0x20
        path.write_bytes(damaged)
        try:
            values = decode_exr(path, "RGB")
        except FrameError:
            continue
        assert values is None or (bits(values) == whole).all(), at


@pytest.mark.parametrize("early", [0, 1 << 60])
def test_damaged_pixels_are_said_the_same_by_both_ways(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str], early: int
) -> None:
    monkeypatch.setattr(exr, "EARLY", early)
    path = tmp_path / "a.exr"
    write(path, {name: slopes((40, 24), seed=n) for n, name in enumerate("RGB")})
    content = bytearray(path.read_bytes())
    content[len(content) * 2 // 3] ^= 0x20
    path.write_bytes(content)
    with pytest.raises(FrameError, match=r"damaged: its pixels cannot be unpacked$"):
        read_pixels(path)
    if not early:
        assert capfd.readouterr().err == "", "no words of a library"


@pytest.mark.parametrize(
    ("name", "at", "code", "number"),
    [
        ("line", 0, "<i", 5),
        ("length below zero", 4, "<i", -4),
        ("length past the end", 4, "<i", 1 << 30),
        ("place past the end", None, "<Q", 1 << 40),
        ("place past any file", None, "<Q", (1 << 63) - 99),
        ("place past all numbers", None, "<Q", (1 << 64) - 1),
    ],
)
def test_a_chunk_that_cannot_be_is_not_read(
    tmp_path: Path, name: str, at: int | None, code: str, number: int
) -> None:
    path = tmp_path / "a.exr"
    write(path, {name: slopes((40, 24), seed=n) for n, name in enumerate("RGB")})
    content = bytearray(path.read_bytes())
    with path.open("rb") as file:
        layout = exr.layout_of(file)
    assert layout is not None
    (first,) = struct.unpack_from("<Q", content, layout.table)
    struct.pack_into(code, content, layout.table if at is None else first + at, number)
    path.write_bytes(content)
    assert decode_exr(path, "RGB") is None, name
    with pytest.raises(FrameError, match=r"damaged|cut short"):
        read_pixels(path)


def test_a_header_that_claims_more_lines_than_fit_is_not_followed(tmp_path: Path) -> None:
    """Its count of chunks may agree with the file, and its windows claim two thousand millions."""
    path = tmp_path / "a.exr"
    write(path, {name: slopes((40, 24), seed=n) for n, name in enumerate("RGB")}, "ZIPS")
    content = path.read_bytes()
    window, larger = struct.pack("<4i", 0, 0, 23, 39), struct.pack("<4i", 0, 0, 23, (1 << 31) - 2)
    assert content.count(window) == 2
    path.write_bytes(content.replace(window, larger))
    with path.open("rb") as file:
        assert exr.layout_of(file) is None
    assert decode_exr(path, "RGB") is None


def test_channels_that_are_not_in_their_order_are_left_to_the_library(tmp_path: Path) -> None:
    """It sorts their names, whatever the header says."""
    path = tmp_path / "a.exr"
    write(path, {name: slopes((20, 9), seed=n) for n, name in enumerate("ABGR")})
    content = path.read_bytes()
    for name in (b"v", b"B"):
        path.write_bytes(content.replace(b"A\0\1\0\0\0", name + b"\0\1\0\0\0", 1))
        assert path.read_bytes() != content
        assert decode_exr(path, "RGB") is None


def test_where_nothing_loads_machine_code_the_library_reads(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def nothing(*_: object) -> bool:
        return False

    monkeypatch.setattr(exr, "is_at_hand", nothing)
    write(tmp_path / "a.exr", {name: slopes((5, 5)) for name in "RGB"})
    assert decode_exr(tmp_path / "a.exr", "RGB") is None
    assert read_pixels(tmp_path / "a.exr").values.shape == (5, 5, 3)
