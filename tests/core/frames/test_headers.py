from __future__ import annotations

import os
import struct
import zlib
from contextlib import suppress
from pathlib import Path

import numpy as np
import pytest
import tifffile
from hypothesis import given
from hypothesis import strategies as st

from tests.making import cut, gradient, write_jpegs
from waxseal.core.errors import FrameError
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.frames.headers import look

KINDS = [
    ("a.exr", "float16", 4, "zip"),
    ("a.exr", "float16", 3, "zips"),
    ("a.exr", "float32", 4, "piz"),
    ("a.exr", "float16", 4, "none"),
    ("a.exr", "float16", 4, "dwaa"),
    ("a.png", "uint8", 3, "zip"),
    ("a.png", "uint8", 4, "zip"),
    ("a.png", "uint16", 4, "zip"),
    ("a.png", "uint8", 1, "zip"),
    ("a.tif", "uint8", 3, "zip"),
    ("a.tif", "uint16", 3, "none"),
    ("a.tif", "uint16", 4, "lzw"),
]


def written(folder: Path, kind: tuple[str, str, int, str]) -> Path:
    name, dtype, channels, compression = kind
    picture = gradient(1, width=48, height=40, dtype=dtype, channels=max(3, channels))
    write_pixels(folder / name, picture[..., :channels], compression=compression)
    return folder / name


@pytest.fixture(params=KINDS, ids=str)
def frame(request: pytest.FixtureRequest, tmp_path: Path) -> Path:
    return written(tmp_path, request.param)


def test_a_whole_frame_has_its_size_and_channels(frame: Path) -> None:
    header = look(frame)
    pixels = read_pixels(frame)
    assert (header.width, header.height) == (48, 40)
    assert pixels.values.shape == (40, 48, max(3, len(header.channels)))


@pytest.mark.parametrize("share", [0.05, 0.3, 0.5, 0.9])
def test_a_frame_that_is_cut_short_is_found_without_decoding(frame: Path, share: float) -> None:
    cut(frame, share)
    with pytest.raises(FrameError) as caught:
        look(frame, 7)
    assert caught.value.frame == 7


@pytest.mark.parametrize("kind", [kind for kind in KINDS if kind[0] != "a.tif"], ids=str)
def test_one_missing_byte_is_found(tmp_path: Path, kind: tuple[str, str, int, str]) -> None:
    """TIFF is left out: its last bytes may be tags that nothing depends on."""
    path = written(tmp_path, kind)
    with path.open("r+b") as file:
        file.truncate(path.stat().st_size - 1)
    with pytest.raises(FrameError):
        look(path)


@pytest.mark.parametrize(
    "kind", [kind for kind in KINDS if kind[0] != "a.tif" and kind[3] != "none"], ids=str
)
def test_zeros_in_the_second_half_are_found_by_decoding(
    tmp_path: Path, kind: tuple[str, str, int, str]
) -> None:
    """Where the data is compressed: raw pixels of zero are a picture like any other."""
    path = written(tmp_path, kind)
    size = path.stat().st_size
    with path.open("r+b") as file:
        file.seek(size // 2)
        file.write(bytes(size - size // 2 - 12))
    with pytest.raises(FrameError):
        read_pixels(path)


def test_a_jpeg_that_is_cut_short_is_found(tmp_path: Path) -> None:
    write_jpegs(tmp_path, frames=range(1, 2))
    file = tmp_path / "shot 1.jpg"
    assert look(file).channels == ("R", "G", "B")
    cut(file, 0.7)
    with pytest.raises(FrameError, match="cut short"):
        look(file)


def test_half_a_tiff_is_said_to_be_half(tmp_path: Path) -> None:
    """Its one strip is not whole, and half of it is there."""
    path = tmp_path / "a.tif"
    tifffile.imwrite(path, np.zeros((400, 400, 3), np.uint8), photometric="rgb", rowsperstrip=400)
    cut(path)
    with pytest.raises(FrameError, match=r"about (49|50) %"):
        look(path)


def test_an_unfinished_exr_is_told_from_a_cut_one(tmp_path: Path) -> None:
    path = tmp_path / "a.exr"
    write_pixels(path, gradient(1, dtype="float16"))
    content = bytearray(path.read_bytes())
    first = next(
        at
        for at in range(len(content) - 8)
        if struct.unpack_from("<Q", content, at)[0] == at + 8 * 3
    )
    content[first : first + 24] = bytes(24)  # three chunks of sixteen lines
    path.write_bytes(content)
    with pytest.raises(FrameError, match="unfinished"):
        look(path)


def png_of_size(width: int, height: int) -> bytes:
    def chunk(name: bytes, body: bytes) -> bytes:
        return (
            struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))
        )

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    data = zlib.compress(bytes(64))
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", data) + chunk(b"IEND", b"")


def test_a_bomb_is_refused_before_memory_is_taken(tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    path.write_bytes(png_of_size(60_000, 60_000))
    with pytest.raises(FrameError, match="60000 × 60000"):
        read_pixels(path)


def test_a_picture_smaller_than_it_claims_is_damaged(tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    path.write_bytes(png_of_size(400, 400))
    with pytest.raises(FrameError, match="damaged"):
        read_pixels(path)


def test_something_behind_a_png_does_no_harm(tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    write_pixels(path, gradient(1))
    with path.open("ab") as file:
        file.write(b"a note from the renderer")
    assert look(path).width == 64


@pytest.mark.parametrize(
    ("content", "what"),
    [(b"", "empty"), (b"hello, I am text", "no picture"), (b"\x89PNG", "no picture")],
)
def test_what_is_no_picture_is_said(tmp_path: Path, content: bytes, what: str) -> None:
    path = tmp_path / "a.exr"
    path.write_bytes(content)
    with pytest.raises(FrameError, match=what):
        look(path)
    with pytest.raises(FrameError, match="not there"):
        look(tmp_path / "none.exr")


@given(data=st.data())
def test_mutated_files_never_raise_anything_else(
    data: st.DataObject, tmp_path_factory: pytest.TempPathFactory
) -> None:
    """Any bytes changed, anywhere: a picture or a FrameError, nothing else."""
    name, dtype, channels, compression = data.draw(st.sampled_from(KINDS))
    folder = tmp_path_factory.getbasetemp() / f"mutated-{os.getpid()}"
    folder.mkdir(exist_ok=True)
    path = folder / name
    picture = gradient(1, width=24, height=20, dtype=dtype, channels=max(3, channels))
    write_pixels(path, picture, compression=compression)
    content = bytearray(path.read_bytes())
    for _ in range(data.draw(st.integers(1, 6))):
        # Headers are the first place where a decoder can be led astray.
        at = data.draw(
            st.integers(0, min(len(content), 700) - 1) | st.integers(0, len(content) - 1)
        )
        content[at] = data.draw(st.integers(0, 255))
    path.write_bytes(content)
    with suppress(FrameError):
        assert read_pixels(path).values.shape[2] in (3, 4)
