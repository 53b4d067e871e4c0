"""EXR frames packed by deflate: every bit that was written, or an error."""

from __future__ import annotations

import struct
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import pytest
from numpy.typing import NDArray

from waxseal.core.errors import FrameError
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.headers import look
from waxseal.core.frames.headers.exr_header import read_attributes

SHAPES = [(1, 1), (5, 3), (16, 8), (33, 7), (40, 61)]
LAYERS = ("View.Combined.R", "View.Combined.G", "View.Combined.B", "View.Combined.A")


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
    values = read_pixels(path).values
    assert values.dtype == dtype
    np.testing.assert_array_equal(bits(values), bits(by_openexr(path, names)))


def test_all_65_536_halves_come_back(tmp_path: Path) -> None:
    """Infinite ones, and those that are no number, with all their bits."""
    every = np.arange(65_536, dtype=np.uint16).reshape(256, 256).view(np.float16)
    write(tmp_path / "a.exr", dict.fromkeys("RGB", every))
    values = read_pixels(tmp_path / "a.exr").values
    for channel in range(3):
        np.testing.assert_array_equal(bits(values[..., channel]), bits(every))


def test_each_layer_of_many_has_its_own_values(tmp_path: Path) -> None:
    path = tmp_path / "a.exr"
    channels = {name: slopes((37, 21), seed=n) for n, name in enumerate(LAYERS)}
    others = {f"View.Glow.{name}": slopes((37, 21), seed=9) for name in "RGB"}
    depth = {"View.Depth.Z": slopes((37, 21), "float32")}
    every = channels | others | depth
    write(path, dict(every))
    parts = look(path).parts
    assert len(parts) == 3
    for part in parts:
        values = read_pixels(path, part=part.name).values
        for at, name in enumerate(part.channels):
            np.testing.assert_array_equal(bits(values[..., at]), bits(every[name]))


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
            values = read_pixels(path).values
        except FrameError:
            continue
        assert (bits(values) == whole).all(), at


def test_damaged_pixels_are_one_sentence(tmp_path: Path) -> None:
    path = tmp_path / "a.exr"
    write(path, {name: slopes((40, 24), seed=n) for n, name in enumerate("RGB")})
    content = bytearray(path.read_bytes())
    content[len(content) * 2 // 3] ^= 0x20
    path.write_bytes(content)
    with pytest.raises(FrameError, match=r"damaged: its pixels cannot be unpacked$"):
        read_pixels(path)


@pytest.mark.parametrize(
    ("at", "code", "number"),
    [
        (0, "<i", 5),  # the line
        (4, "<i", -4),  # the length
        (4, "<i", 1 << 30),
        (None, "<Q", 1 << 40),  # the place
        (None, "<Q", (1 << 63) - 99),
        (None, "<Q", (1 << 64) - 1),
    ],
)
def test_a_chunk_that_cannot_be_is_not_read(
    tmp_path: Path, at: int | None, code: str, number: int
) -> None:
    path = tmp_path / "a.exr"
    write(path, {name: slopes((40, 24), seed=n) for n, name in enumerate("RGB")})
    content = bytearray(path.read_bytes())
    with path.open("rb") as file:
        file.seek(8)  # after the magic number and the version
        read_attributes(file)
        table = file.tell()
    (first,) = struct.unpack_from("<Q", content, table)
    assert struct.unpack_from("<i", content, first) == (0,)
    struct.pack_into(code, content, table if at is None else first + at, number)
    path.write_bytes(content)
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
    with pytest.raises(FrameError, match=r"damaged|cut short"):
        read_pixels(path)
