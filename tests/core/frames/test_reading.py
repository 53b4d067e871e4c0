from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import OpenImageIO
import pytest

from tests.making import gradient, write_jpegs, write_with
from waxseal.core.errors import FrameError
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.frame_writer import write_pixels


@pytest.mark.parametrize(
    ("name", "dtype", "channels"),
    [
        ("a.exr", "float16", 3),
        ("a.exr", "float16", 4),
        ("a.exr", "float32", 4),
        ("a.png", "uint8", 3),
        ("a.png", "uint8", 4),
        ("a.png", "uint16", 3),
        ("a.png", "uint16", 4),
        ("a.tif", "uint8", 4),
        ("a.tif", "uint16", 3),
    ],
)
def test_every_value_comes_back(tmp_path: Path, name: str, dtype: str, channels: int) -> None:
    picture = gradient(5, width=61, height=37, dtype=dtype, channels=channels)
    if channels == 4:
        picture[:, :20, 3] = picture[:, :20, 3] // 2 if dtype[0] == "u" else 0.5
    write_pixels(tmp_path / name, picture)
    pixels = read_pixels(tmp_path / name)
    assert pixels.values.dtype == picture.dtype
    np.testing.assert_array_equal(pixels.values, picture)


def test_reading_again_gives_the_same_pixels(tmp_path: Path) -> None:
    """A codec context that is used twice gave wrong RGBA pixels from the second picture on."""
    random = np.random.default_rng(1)
    picture = random.integers(0, 256, (180, 320, 4), np.uint8)
    picture[40:90] = picture[40]  # filters of several kinds
    write_pixels(tmp_path / "a.png", picture)
    for _ in range(4):
        np.testing.assert_array_equal(read_pixels(tmp_path / "a.png").values, picture)


@pytest.mark.parametrize("channels", [3, 4])
def test_one_changed_byte_in_a_png_is_an_error_not_a_picture(tmp_path: Path, channels: int) -> None:
    path = tmp_path / "a.png"
    write_pixels(path, gradient(1, width=160, height=90, channels=channels))
    content = bytearray(path.read_bytes())
    content[len(content) * 3 // 4] ^= 0x55
    path.write_bytes(content)
    with pytest.raises(FrameError, match="damaged"):
        read_pixels(path)


def test_grey_stands_in_all_three(tmp_path: Path) -> None:
    picture = gradient(1)[..., :1]
    write_pixels(tmp_path / "a.png", picture)
    values = read_pixels(tmp_path / "a.png").values
    np.testing.assert_array_equal(values, np.repeat(picture, 3, axis=2))


def test_a_data_window_is_laid_into_the_display_window(tmp_path: Path) -> None:
    spec = OpenImageIO.ImageSpec(10, 6, 4, "half")
    spec.x, spec.y = 3, 2
    spec.full_x, spec.full_y, spec.full_width, spec.full_height = 0, 0, 20, 12
    write_with(tmp_path / "a.exr", spec, np.ones((6, 10, 4), np.float16))
    values = read_pixels(tmp_path / "a.exr").values
    assert values.shape == (12, 20, 4)
    expected = np.zeros((12, 20, 4), np.float16)
    expected[2:8, 3:13] = 1
    np.testing.assert_array_equal(values, expected)


def test_named_channels_make_the_picture(tmp_path: Path) -> None:
    """Depth and mattes beside R, G, B do not come into the picture."""
    spec = OpenImageIO.ImageSpec(8, 4, 5, "half")
    spec.channelnames = ("R", "G", "B", "Z", "matte.A")
    values = np.arange(8 * 4 * 5, dtype=np.float16).reshape(4, 8, 5)
    write_with(tmp_path / "a.exr", spec, values)
    read = read_pixels(tmp_path / "a.exr").values
    np.testing.assert_array_equal(read, values[..., :3])


def test_a_jpeg_is_near_what_was_written(tmp_path: Path) -> None:
    write_jpegs(tmp_path, frames=range(2, 3))
    values = read_pixels(tmp_path / "shot 2.jpg").values
    away = np.abs(values.astype(int) - gradient(2))
    assert np.median(away) <= 3


@pytest.mark.parametrize(
    ("name", "dtype"),
    [
        ("a.exr", "float16"),
        ("a.exr", "float32"),
        ("a.png", "uint8"),
        ("a.png", "uint16"),
        ("a.tif", "uint8"),
        ("a.tif", "uint16"),
    ],
)
def test_a_name_that_is_no_text_is_read(tmp_path: Path, name: str, dtype: str) -> None:
    picture = gradient(5, dtype=dtype)
    write_pixels(tmp_path / name, picture)
    odd = Path(os.fsdecode(os.fsencode(tmp_path) + b"/bad\xff." + name[2:].encode()))
    (tmp_path / name).rename(odd)
    np.testing.assert_array_equal(read_pixels(odd).values, picture)
