"""Images of unusual kinds, as other libraries write them: read, or said not to be.

*Damaged* is kept for what lost data. Read back with Pillow, where it reads them.
"""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import FrameError
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.headers import look
from waxseal.core.job.model import FindingKind, Health, Sequence

WIDE, TALL = 64, 36


def picture() -> Image.Image:
    ramp = np.tile(np.arange(WIDE, dtype=np.uint8) * 4, (TALL, 1))
    down = np.tile(np.arange(TALL, dtype=np.uint8)[:, None] * 7, (1, WIDE))
    return Image.fromarray(np.dstack([ramp, down, 255 - ramp]))


def tiff(bits: int, samples: int, photometric: int, kind: int = 1) -> bytes:
    """A TIFF of one strip, whose values count up. Source: TIFF Revision 6.0."""
    row = np.arange(WIDE * samples) % (1 << min(bits, 16))
    lines = b"".join(packed(row, bits) for _ in range(TALL))
    entries, extra = [], b""
    tags = [(256, WIDE), (257, TALL), (258, bits), (259, 1), (262, photometric), (273, 0)]
    tags += [(277, samples), (278, TALL), (279, len(lines)), (339, kind)]
    behind = 8 + 2 + 12 * len(tags) + 4
    for tag, value in tags:
        if tag in (258, 339) and samples > 2:
            entries.append(struct.pack("<HHII", tag, 3, samples, behind + len(extra)))
            extra += struct.pack(f"<{samples}H", *[value] * samples)
        else:
            entries.append(struct.pack("<HHII", tag, 4, 1, value))
    entries[5] = struct.pack("<HHII", 273, 4, 1, behind + len(extra))
    head = struct.pack("<2sHIH", b"II", 42, 8, len(tags))
    return head + b"".join(entries) + bytes(4) + extra + lines


def packed(row: np.ndarray, bits: int) -> bytes:
    """Numbers one behind the other, the highest bit first; whole bytes low byte first."""
    if bits in (16, 32, 64):
        return row.astype(f"<u{bits // 8}").tobytes()
    places = np.arange(bits)[::-1]
    return np.packbits((row[:, None] >> places & 1).astype(np.uint8).ravel()).tobytes()


def bmp(bits: int, compression: int, data: bytes, colours: int) -> bytes:
    table = b"".join(bytes((one, one, one, 0)) for one in range(colours))
    place = 54 + len(table)
    head = struct.pack("<2sIHHI", b"BM", place + len(data), 0, 0, place)
    facts = (40, WIDE, TALL, 1, bits, compression, len(data), 0, 0, colours, 0)
    return head + struct.pack("<IiiHHIIiiII", *facts) + table + data


def jpeg(tmp_path: Path) -> bytes:
    picture().save(tmp_path / "made.jpg", quality=90)
    return (tmp_path / "made.jpg").read_bytes()


@pytest.mark.parametrize("bits", [1, 2, 4, 8, 10, 12, 14, 16])
@pytest.mark.parametrize("samples", [1, 3])
def test_a_tiff_of_any_usual_depth_is_read(tmp_path: Path, bits: int, samples: int) -> None:
    if bits == 1 and samples == 3:
        return  # nobody writes it
    path = tmp_path / "a.0001.tif"
    path.write_bytes(tiff(bits, samples, 2 if samples == 3 else 1))
    values = read_pixels(path).values
    most = (1 << bits) - 1
    wanted = np.arange(WIDE * samples).reshape(WIDE, samples) % (1 << bits) / most
    scale = np.iinfo(values.dtype).max
    found = values[0].astype(np.float64) / scale
    assert np.abs(found - wanted).max() <= 1 / scale + 1e-9


@pytest.mark.parametrize("where", [b"\xff\xdb", b"\xff\xc4", b"\xff\xda"])
def test_a_jpeg_with_stray_bytes_is_read_and_is_to_be_looked_at(
    tmp_path: Path, where: bytes
) -> None:
    content = jpeg(tmp_path)
    place = content.index(where)
    folder = tmp_path / "frames"
    folder.mkdir()
    path = folder / "a.0001.jpg"
    path.write_bytes(content[:place] + b"abcd" + content[place:])
    with Image.open(tmp_path / "made.jpg") as image:
        wanted = np.asarray(image)
    np.testing.assert_array_equal(read_pixels(path).values, wanted)
    (source,) = scan([folder]).sources
    assert isinstance(source, Sequence)
    assert source.health is Health.WHOLE
    (finding,) = source.findings
    assert finding.kind is FindingKind.ODD_FILE
    assert str(tmp_path) not in finding.what


def test_what_follows_the_end_of_a_jpeg_is_nobodys_loss(tmp_path: Path) -> None:
    content = jpeg(tmp_path)
    path = tmp_path / "a.0001.jpg"
    path.write_bytes(content + bytes(50_000))
    assert read_pixels(path).values.shape == (TALL, WIDE, 3)
    path.write_bytes(content[: len(content) * 2 // 3])
    with pytest.raises(FrameError) as caught:
        read_pixels(path)
    assert not caught.value.is_not_read


NOT_READ = {
    "cmyk.jpg": "convert it to RGB",
    "cmyk.tif": "convert it to RGB",
    "lab.tif": "convert it to RGB",
    "whole32.tif": "convert it to 8 or 16 bits",
    "signed16.tif": "convert it to 8 or 16 bits",
    "double.tif": "convert it to 8 or 16 bits",
    "rle8.bmp": "convert it to PNG",
    "rle4.bmp": "convert it to PNG",
}


def write_kind(path: Path) -> None:
    runs = bytes((WIDE, 9, 0, 0)) * TALL + b"\0\1"
    kinds = {
        "whole32": lambda: tiff(32, 1, 1),
        "signed16": lambda: tiff(16, 1, 1, kind=2),
        "double": lambda: tiff(64, 1, 1, kind=3),
        "rle8": lambda: bmp(8, 1, runs, 256),
        "rle4": lambda: bmp(4, 2, runs, 16),
    }
    stem = path.name.split(".")[0]
    if stem in kinds:
        path.write_bytes(kinds[stem]())
    else:
        picture().convert(stem.upper()).save(path)


@pytest.mark.parametrize("name", NOT_READ)
def test_what_is_not_read_says_what_to_convert_it_to_and_is_not_damaged(
    tmp_path: Path, name: str
) -> None:
    stem, suffix = name.split(".")
    path = tmp_path / f"{stem}.0001.{suffix}"
    write_kind(path)
    with pytest.raises(FrameError, match=NOT_READ[name]) as caught:
        look(path)
    assert caught.value.is_not_read
    assert str(caught.value).startswith("not read: ")
    (source,) = scan([tmp_path]).sources
    assert isinstance(source, Sequence)
    assert source.health is Health.NOT_READ
    assert source.to_rerender == ()
    assert source.damaged == ()
    assert source.unreadable == {1}


def test_no_library_speaks_through_our_sentences(tmp_path: Path) -> None:
    """A damaged file is said in our words, without its path and without a library's."""
    path = tmp_path / "a.0001.png"
    picture().save(path)
    content = bytearray(path.read_bytes())
    place = content.index(b"IDAT") + 40
    content[place : place + 30] = bytes(30)
    path.write_bytes(content)
    with pytest.raises(FrameError) as caught:
        read_pixels(path)
    assert str(caught.value) == "damaged: its pixels cannot be decoded"
