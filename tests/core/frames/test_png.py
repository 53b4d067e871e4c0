"""Ordinary PNG frames: the same values as other libraries read and write, quickly or not."""

from __future__ import annotations

import struct
import zlib
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import OpenImageIO as oiio
import pytest
from numpy.typing import NDArray
from PIL import Image

from waxseal.core.errors import FrameError
from waxseal.core.frames import png_frames
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.frame_writer import write_codes, write_pixels
from waxseal.core.frames.headers import look
from waxseal.core.frames.png_frames import chunks_of, decode_png, with_stored_pixels, write_png
from waxseal.core.job.model import Colour

SHAPES = [(1, 1), (5, 7), (33, 250), (300, 401)]


def picture(shape: tuple[int, int], channels: int, dtype: str) -> NDArray[Any]:
    """Slopes with noise on them: every filter is the best for some row."""
    draw = np.random.default_rng(7)
    top = np.iinfo(dtype).max
    down, across = np.mgrid[0 : shape[0], 0 : shape[1]]
    slopes = (down * 3 + across * 5)[..., None] * np.arange(1, channels + 1)
    values = (slopes + draw.integers(0, 9, (*shape, channels))) % (top + 1)
    return np.asarray(values.astype(dtype))


def by_oiio(path: Path) -> NDArray[Any]:
    """Straight alpha, as the file has it."""
    wish = oiio.ImageSpec()
    wish.attribute("oiio:UnassociatedAlpha", 1)
    opened = oiio.ImageInput.open(str(path), wish)
    assert opened is not None
    values = opened.read_image(str(opened.spec().format))
    opened.close()
    return np.asarray(values)


@pytest.mark.parametrize("dtype", ["uint8", "uint16"])
@pytest.mark.parametrize("channels", [3, 4])
@pytest.mark.parametrize("shape", SHAPES)
def test_others_read_what_is_written(
    tmp_path: Path, shape: tuple[int, int], channels: int, dtype: str
) -> None:
    values, path = picture(shape, channels, dtype), tmp_path / "a.png"
    write_png(path, values)
    np.testing.assert_array_equal(by_oiio(path), values)
    by_cv2 = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    assert by_cv2 is not None
    np.testing.assert_array_equal(by_cv2[..., [2, 1, 0, 3][:channels]], values)


@pytest.mark.parametrize("dtype", ["uint8", "uint16"])
@pytest.mark.parametrize("channels", [3, 4])
@pytest.mark.parametrize("shape", SHAPES)
def test_what_others_write_is_read_by_the_quick_way(
    tmp_path: Path, shape: tuple[int, int], channels: int, dtype: str
) -> None:
    values, path = picture(shape, channels, dtype), tmp_path / "a.png"
    write_pixels(path, values)
    assert look(path).is_ordinary
    content = path.read_bytes()
    assert with_stored_pixels(content) is not None
    np.testing.assert_array_equal(decode_png(content), values)
    read = read_pixels(path).values
    assert read.dtype == dtype
    np.testing.assert_array_equal(read, values)


@pytest.mark.parametrize("level", [0, 1, 6, 9])
def test_however_it_is_packed(level: int) -> None:
    values = picture((40, 30), 3, "uint8")
    rows = b"".join(b"\0" + row.tobytes() for row in values)
    packed = zlib.compress(rows, level)
    whole = whole_png(30, 40, [packed[:7], b"", packed[7:]])
    assert with_stored_pixels(whole) is not None
    np.testing.assert_array_equal(decode_png(whole), values)


def whole_png(width: int, height: int, parts: list[bytes], interlace: int = 0) -> bytes:
    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, interlace)
    chunks = [(b"IHDR", header), *((b"IDAT", part) for part in parts), (b"IEND", b"")]
    return png_frames.SIGNATURE + b"".join(
        struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))
        for name, data in chunks
    )


def test_what_is_not_quite_ordinary_is_left_to_the_codec(tmp_path: Path) -> None:
    values, path = picture((40, 30), 3, "uint8"), tmp_path / "laced.png"
    # Adam7 of one row and one column: its first pass is the whole picture.
    laced = whole_png(1, 1, [zlib.compress(b"\0" + values[0, 0].tobytes())], interlace=1)
    assert with_stored_pixels(laced) is None
    np.testing.assert_array_equal(decode_png(laced), values[:1, :1])
    # More is packed than the picture has: other readers pass over it as well.
    rows = b"".join(b"\0" + row.tobytes() for row in values)
    longer = whole_png(30, 40, [zlib.compress(rows + bytes(500))])
    assert with_stored_pixels(longer) is None
    path.write_bytes(longer)
    np.testing.assert_array_equal(read_pixels(path).values, values)
    # Something behind the packed rows, and behind the whole picture: no part of it.
    packed = zlib.compress(rows)
    for whole in (
        whole_png(30, 40, [packed, b"rest"]),
        whole_png(30, 40, [packed]) + b"appended" * 9,
        whole_png(30, 40, [packed]) + whole_png(30, 40, [zlib.compress(bytes(len(rows)))])[8:],
    ):
        np.testing.assert_array_equal(decode_png(whole), values)
    np.testing.assert_array_equal(np.asarray(Image.open(path)), values)


@pytest.mark.parametrize("place", ["pixels", "sum of a chunk", "sum of the rows", "size", "end"])
def test_damage_is_found(tmp_path: Path, place: str) -> None:
    path = tmp_path / "a.png"
    write_png(path, picture((60, 80), 4, "uint8"))
    content = bytearray(path.read_bytes())
    where = {name: (at, end) for name, at, end in chunks_of(bytes(content))}
    at, end = where[b"IDAT"]
    match place:
        case "pixels":
            content[at + 100] ^= 8
        case "sum of a chunk":
            content[end - 1] ^= 1
        case "sum of the rows":
            content[end - 5] ^= 1
            content[end - 4 : end] = zlib.crc32(content[at + 4 : end - 4]).to_bytes(4)
        case "size":
            content[where[b"IHDR"][0] + 11] ^= 1
        case "end":
            content[at : end - 40] = content[at : end - 140]
    path.write_bytes(content)
    with pytest.raises(FrameError, match=r"damaged|cut short"):
        read_pixels(path)


def test_a_header_that_claims_too_much_takes_no_memory() -> None:
    """The rows it claims could not be packed into so little. Source: zlib, 1032 to 1."""
    claims = whole_png(60_000, 60_000, [zlib.compress(b"\0\1\2\3")])
    assert with_stored_pixels(claims) is None


def test_text_and_profiles_are_never_unpacked(tmp_path: Path) -> None:
    values, path = picture((9, 9), 3, "uint8"), tmp_path / "a.png"
    image = Image.fromarray(values)
    image.save(path, icc_profile=bytes(5000))
    unpacked = with_stored_pixels(path.read_bytes())
    assert unpacked is not None
    assert {name for name, _, _ in chunks_of(unpacked)} == {b"IHDR", b"IDAT", b"IEND"}
    np.testing.assert_array_equal(decode_png(path.read_bytes()), values)


def test_the_same_values_give_the_same_bytes(tmp_path: Path) -> None:
    values = picture((300, 401), 4, "uint16")
    for name in ("a.png", "b.png"):
        write_codes(tmp_path / name, values)
    assert (tmp_path / "a.png").read_bytes() == (tmp_path / "b.png").read_bytes()


def test_packed_no_larger_than_by_the_usual_library(tmp_path: Path) -> None:
    values = picture((300, 401), 4, "uint8")
    write_png(tmp_path / "ours.png", values)
    write_pixels(tmp_path / "theirs.png", values)
    ours, theirs = ((tmp_path / name).stat().st_size for name in ("ours.png", "theirs.png"))
    assert ours <= 1.05 * theirs


@pytest.mark.parametrize(
    ("code_points", "colour"), [((1, 13), Colour.SRGB), ((1, 1), Colour.BT709)]
)
def test_the_file_says_what_its_codes_are(
    tmp_path: Path, code_points: tuple[int, int], colour: Colour
) -> None:
    path = tmp_path / "a.png"
    write_codes(path, picture((4, 4), 3, "uint8"), code_points=code_points)
    stated = look(path).stated
    assert stated is not None
    assert stated.colour is colour
