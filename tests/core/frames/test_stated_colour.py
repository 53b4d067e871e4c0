"""What a file states of its colour is honoured, or said."""

from __future__ import annotations

import io
import struct
import zlib
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageCms

from waxseal.core.arrive.sources import scan
from waxseal.core.errors import FrameError
from waxseal.core.frames.headers import look
from waxseal.core.frames.headers.stated import by_profile, gamma_of
from waxseal.core.frames.writing import write_pixels
from waxseal.core.job.edits import add_sources, put_on_reel
from waxseal.core.job.model import Colour, FindingKind, Job, Origin, Referred, Sequence
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import recipe


def chunk(name: bytes, content: bytes) -> bytes:
    end = struct.pack(">I", zlib.crc32(name + content))
    return struct.pack(">I", len(content)) + name + content + end


def png(folder: Path, *chunks: bytes, code: int = 120) -> Sequence:
    """A PNG with chunks of its own before the pixels, as a source."""
    path = folder / "a.0001.png"
    write_pixels(path, np.full((8, 16, 3), code, np.uint8))
    whole = path.read_bytes()
    kept = whole[:33] + b"".join(chunks)
    at = whole.index(b"IDAT") - 4
    path.write_bytes(kept + whole[at:])
    return source_in(folder)


def source_in(folder: Path) -> Sequence:
    (found,) = scan([folder]).sources
    assert isinstance(found, Sequence)
    return found


def gamma(value: float) -> bytes:
    return chunk(b"gAMA", struct.pack(">I", round(value * 100_000)))


def profile_chunk(profile: bytes) -> bytes:
    return chunk(b"iCCP", b"profile\0\0" + zlib.compress(profile))


def srgb_profile() -> bytes:
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


BT709_POINTS = struct.pack(">8I", 31270, 32900, 64000, 33000, 30000, 60000, 15000, 6000)
HONOURED = {
    "sRGB": ((chunk(b"sRGB", b"\0"),), Colour.SRGB, ""),
    "code points of sRGB": ((chunk(b"cICP", bytes((1, 13, 0, 1))),), Colour.SRGB, ""),
    "code points of BT.709": ((chunk(b"cICP", bytes((1, 1, 0, 1))),), Colour.BT709, ""),
    "code points of P3": (
        (chunk(b"cICP", bytes((12, 13, 0, 1))),),
        Colour.OWN,
        "sRGB Encoded P3-D65",
    ),
    "linear light": ((gamma(1.0),), Colour.LINEAR, ""),
    "the profile of sRGB": ((profile_chunk(srgb_profile()),), Colour.SRGB, ""),
    "code points before a profile": (
        (chunk(b"cICP", bytes((1, 8, 0, 1))), profile_chunk(srgb_profile())),
        Colour.LINEAR,
        "",
    ),
}


@pytest.mark.parametrize("name", HONOURED)
def test_what_is_stated_is_honoured(tmp_path: Path, name: str) -> None:
    chunks, colour, space = HONOURED[name]
    reading = png(tmp_path, *chunks).reading
    assert (reading.colour.value, reading.colour.origin) == (colour, Origin.WRITTEN)
    assert reading.space.value == space
    assert "the file states" in reading.colour.why


SAID = {
    "PQ": ((chunk(b"cICP", bytes((9, 16, 0, 1))),), "BT.2020 PQ"),
    "a gamma": ((gamma(1 / 1.8),), "a gamma of 1.80"),
    "a profile that is none": ((profile_chunk(b"nonsense"),), "cannot be read"),
    "a damaged profile": ((chunk(b"iCCP", b"profile\0\0nonsense"),), "cannot be read"),
}


@pytest.mark.parametrize("name", SAID)
def test_what_cannot_be_honoured_is_said(tmp_path: Path, name: str) -> None:
    chunks, words = SAID[name]
    source = png(tmp_path, *chunks)
    assert source.reading.colour.origin is Origin.HABIT
    (finding,) = [one for one in source.findings if one.kind is FindingKind.STATED_COLOUR]
    assert words in finding.what


def test_the_gamma_that_everybody_means_srgb_by_is_no_finding(tmp_path: Path) -> None:
    source = png(tmp_path, gamma(0.45455), chunk(b"cHRM", BT709_POINTS))
    assert source.findings == ()
    assert source.reading.colour.value is Colour.SRGB


def test_p3_is_shown_in_its_own_colour(tmp_path: Path) -> None:
    """The green of P3 is outside BT.709, its white is white, and it is graphics."""
    source = png(tmp_path, chunk(b"cICP", bytes((12, 13, 0, 1))), code=255)
    assert source.reading.taken_as is Referred.GRAPHICS
    job = put_on_reel(add_sources(Job(), sources=[source]), sources=["s1"])
    shown = make(recipe(job, 1), Target(16, 8, Layout.SCREEN)).planes[0]
    assert shown[4, 8, :3].min() >= 254


def test_profiles_of_jpeg_and_tiff(tmp_path: Path) -> None:
    picture = Image.fromarray(np.full((8, 16, 3), 90, np.uint8))
    for name in ("a.jpg", "a.tif"):
        folder = tmp_path / name
        folder.mkdir()
        picture.save(folder / name, icc_profile=srgb_profile())
        reading = source_in(folder).reading
        assert (reading.colour.value, reading.colour.origin) == (Colour.SRGB, Origin.WRITTEN)


def test_cmyk_is_refused_in_words(tmp_path: Path) -> None:
    picture = Image.new("CMYK", (16, 8), (10, 20, 30, 40))
    for name in ("a.jpg", "a.tif"):
        picture.save(tmp_path / name)
        with pytest.raises(FrameError, match="CMYK"):
            look(tmp_path / name)


def test_floats_are_scene_linear_by_habit_but_for_exr(tmp_path: Path) -> None:
    for name, origin in (("a.0001.tif", Origin.HABIT), ("b.0001.exr", Origin.WRITTEN)):
        folder = tmp_path / name
        folder.mkdir()
        write_pixels(folder / name, np.full((8, 16, 3), 0.5, np.float32))
        reading = source_in(folder).reading
        assert (reading.colour.value, reading.colour.origin) == (Colour.LINEAR, origin)


def test_a_profile_that_unpacks_to_gigabytes_is_cut(tmp_path: Path) -> None:
    packed = io.BytesIO()
    packer = zlib.compressobj(9)
    for _ in range(256):
        packed.write(packer.compress(bytes(1 << 20)))
    packed.write(packer.flush())
    source = png(tmp_path, chunk(b"iCCP", b"profile\0\0" + packed.getvalue()))
    assert "cannot be read" in source.findings[0].what


def matrix_profile(gamma: float, red: tuple[float, float, float]) -> bytes:
    """A small ICC profile, version 2: primaries, one gamma, a name that says nothing."""

    def fixed(*values: float) -> bytes:
        return struct.pack(f">{len(values)}i", *(round(value * 65_536) for value in values))

    words = b"a monitor\0"
    tags = {
        b"desc": b"desc\0\0\0\0" + struct.pack(">I", len(words)) + words + b"\0" * 78,
        b"cprt": b"text\0\0\0\0free\0",
        b"wtpt": b"XYZ \0\0\0\0" + fixed(0.9642, 1.0, 0.8249),
        b"rXYZ": b"XYZ \0\0\0\0" + fixed(*red),
        b"gXYZ": b"XYZ \0\0\0\0" + fixed(0.20528, 0.62567, 0.06087),
        b"bXYZ": b"XYZ \0\0\0\0" + fixed(0.14919, 0.06322, 0.74457),
    }
    curve = b"curv\0\0\0\0" + struct.pack(">IH", 1, round(gamma * 256))
    tags |= dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), curve)
    table, content = b"", b""
    start = 132 + 12 * len(tags)
    for name, value in tags.items():
        value += b"\0" * (-len(value) % 4)
        table += struct.pack(">4sII", name, start + len(content), len(value))
        content += value
    size = start + len(content)
    header = struct.pack(">I4xI4s4s4s", size, 0x02100000, b"mntr", b"RGB ", b"XYZ ")
    header = header.ljust(36, b"\0") + b"acsp"
    header = header.ljust(68, b"\0") + fixed(0.9642, 1.0, 0.8249)
    return header.ljust(128, b"\0") + struct.pack(">I", len(tags)) + table + content


@pytest.mark.parametrize(
    ("gamma", "red", "is_known"),
    [
        (563 / 256, (0.60974, 0.31111, 0.01947), True),  # IEC 61966-2-5, from memory
        (1.0, (0.60974, 0.31111, 0.01947), False),
        (563 / 256, (0.4361, 0.2225, 0.0139), False),
    ],
)
def test_a_profile_of_oprgb_is_known_by_what_it_does(
    gamma: float, red: tuple[float, float, float], is_known: bool
) -> None:
    stated = by_profile(matrix_profile(gamma, red))
    assert stated is not None
    assert (stated.words == "opRGB") is is_known
    assert (stated.colour is Colour.OWN) is is_known
    assert gamma_of(matrix_profile(gamma, red)[:140]) == 0.0
