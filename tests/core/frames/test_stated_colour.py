"""What a file states of its colour is honoured, or said."""

from __future__ import annotations

import io
import struct
import warnings
import zlib
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageCms

from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import FrameError
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.frames.headers import look
from waxseal.core.frames.headers.colour_metadata import by_profile
from waxseal.core.frames.headers.icc_profile import COLORANTS, curve_of, is_srgb_curve
from waxseal.core.job.edits import add_sources, put_on_reel
from waxseal.core.job.model import Colour, ColourReference, FindingKind, Job, Origin, Sequence
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import recipe

with warnings.catch_warnings():
    warnings.simplefilter("ignore")  # of libraries for plots that are not there
    import colour
    from colour.adaptation import matrix_chromatic_adaptation_VonKries


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
    "code points of PQ": ((chunk(b"cICP", bytes((9, 16, 0, 1))),), Colour.PQ, ""),
    "code points of PQ in P3": ((chunk(b"cICP", bytes((12, 16, 0, 1))),), Colour.PQ, ""),
    "code points of HLG": ((chunk(b"cICP", bytes((9, 18, 0, 1))),), Colour.HLG, ""),
    "code points of BT.2020": ((chunk(b"cICP", bytes((9, 14, 0, 1))),), Colour.BT709, ""),
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
    "PQ of a limited range": ((chunk(b"cICP", bytes((9, 16, 0, 0))),), "code points 9, 16, 0"),
    "a gamma": ((gamma(1 / 1.8),), "a gamma of 1.80"),
    "a profile that is none": ((profile_chunk(b"nonsense"),), "cannot be read"),
    "a damaged profile": ((chunk(b"iCCP", b"profile\0\0nonsense"),), "cannot be read"),
}


@pytest.mark.parametrize("name", SAID)
def test_what_cannot_be_honoured_is_said(tmp_path: Path, name: str) -> None:
    chunks, words = SAID[name]
    source = png(tmp_path, *chunks)
    assert source.reading.colour.origin is Origin.HABIT
    kinds = (FindingKind.STATED_COLOUR, FindingKind.HIGH_RANGE)
    (finding,) = [one for one in source.findings if one.kind in kinds]
    assert words in finding.what
    assert source.is_of_unread_range is ("PQ" in name)


def test_the_gamma_that_everybody_means_srgb_by_is_no_finding(tmp_path: Path) -> None:
    source = png(tmp_path, gamma(0.45455), chunk(b"cHRM", BT709_POINTS))
    assert source.findings == ()
    assert source.reading.colour.value is Colour.SRGB


def test_p3_is_shown_in_its_own_colour(tmp_path: Path) -> None:
    """The green of P3 is outside BT.709, its white is white, and it is graphics."""
    source = png(tmp_path, chunk(b"cICP", bytes((12, 13, 0, 1))), code=255)
    assert source.reading.taken_as is ColourReference.GRAPHICS
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


def fixed(*values: float) -> bytes:
    return struct.pack(f">{len(values)}i", *(round(value * 65_536) for value in values))


def gamma_curve(gamma: float) -> bytes:
    return b"curv\0\0\0\0" + struct.pack(">IH", 1, round(gamma * 256))


def sampled(curve: Callable[[float], float], count: int = 1024) -> bytes:
    values = [round(65_535 * curve(at / (count - 1))) for at in range(count)]
    return b"curv\0\0\0\0" + struct.pack(f">I{count}H", count, *values)


def parametric(kind: int, *numbers: float) -> bytes:
    return b"para\0\0\0\0" + struct.pack(">HH", kind, 0) + fixed(*numbers)


LINEAR_CURVE = b"curv\0\0\0\0" + struct.pack(">I", 0)
SRGB_CURVE = parametric(3, 2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)


def colorants(name: str) -> tuple[tuple[float, ...], ...]:
    """X, Y, Z of red, green and blue under D50, worked out by another library."""
    if name == OPRGB:  # IEC 61966-2-5; its white is that of sRGB
        primaries = np.array([[0.64, 0.33], [0.21, 0.71], [0.15, 0.06]])
        whitepoint = colour.RGB_COLOURSPACES[BT709].whitepoint
    else:
        space = colour.RGB_COLOURSPACES[name]
        primaries, whitepoint = space.primaries, space.whitepoint
    white = colour.xy_to_XYZ(whitepoint)
    to_xyz = colour.normalised_primary_matrix(primaries, whitepoint)
    adapt = matrix_chromatic_adaptation_VonKries(white, [0.9642, 1.0, 0.8249], transform="Bradford")
    return tuple(tuple(float(part) for part in column) for column in (adapt @ to_xyz).T)


def matrix_profile(
    curve: bytes, primaries: tuple[tuple[float, ...], ...], name: str = "a monitor"
) -> bytes:
    """A small ICC profile, version 4: primaries, one curve, and a name that may say anything."""
    words = name.encode("utf-16-be")
    text = struct.pack(">II2s2sII", 1, 12, b"en", b"US", len(words), 28) + words
    tags = {
        b"desc": b"mluc\0\0\0\0" + text,
        b"cprt": b"mluc\0\0\0\0" + text,
        b"wtpt": b"XYZ \0\0\0\0" + fixed(0.9642, 1.0, 0.8249),
    }
    for letter, values in zip((b"r", b"g", b"b"), primaries, strict=True):
        tags[letter + b"XYZ"] = b"XYZ \0\0\0\0" + fixed(*values)
    tags |= dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), curve)
    table, content = b"", b""
    start = 132 + 12 * len(tags)
    for tag, value in tags.items():
        table += struct.pack(">4sII", tag, start + len(content), len(value))
        content += value + b"\0" * (-len(value) % 4)
    size = start + len(content)
    header = struct.pack(">I4xI4s4s4s", size, 0x04300000, b"mntr", b"RGB ", b"XYZ ")
    header = header.ljust(36, b"\0") + b"acsp"
    header = header.ljust(68, b"\0") + fixed(0.9642, 1.0, 0.8249)
    return header.ljust(128, b"\0") + struct.pack(">I", len(tags)) + table + content


def srgb_light(x: float) -> float:
    return float(colour.models.eotf_sRGB(x))


BT709, P3, OPRGB = "sRGB", "Display P3", "opRGB"
MEASURED = {
    "sRGB as a formula": (SRGB_CURVE, BT709, "anything", "sRGB", Colour.SRGB),
    "sRGB as a table": (sampled(srgb_light), BT709, "", "sRGB", Colour.SRGB),
    "a linear profile that is called sRGB": (
        *(LINEAR_CURVE, BT709, "sRGB IEC61966-2.1", "linear light", Colour.LINEAR),
    ),
    "linear, by a gamma of 1": (gamma_curve(1.0), BT709, "sRGB", "linear light", Colour.LINEAR),
    "linear Display P3": (LINEAR_CURVE, P3, "Display P3", "linear light", Colour.LINEAR),
    "linear Display P3 as a table": (
        *(sampled(lambda x: x), P3, "Display P3 Linear", "linear light", Colour.LINEAR),
    ),
    "Display P3 by another name": (SRGB_CURVE, P3, "a monitor", "Display P3", Colour.OWN),
    "opRGB": (gamma_curve(563 / 256), OPRGB, "a monitor", "opRGB", Colour.OWN),
    "opRGB's primaries, linear": (LINEAR_CURVE, OPRGB, "opRGB", "opRGB", None),
    "sRGB's primaries, opRGB's gamma and name": (gamma_curve(1.8), BT709, "sRGB", "sRGB", None),
}


@pytest.mark.parametrize("kind", MEASURED)
def test_a_profile_is_believed_by_what_it_does(kind: str) -> None:
    curve, space, name, words, read_as = MEASURED[kind]
    stated = by_profile(matrix_profile(curve, colorants(space), name))
    assert stated is not None
    assert words in stated.words
    assert stated.colour is read_as


def test_a_gamma_of_2_2_in_a_profile_is_what_everybody_means_by_srgb() -> None:
    assert by_profile(matrix_profile(gamma_curve(2.2), colorants(BT709))) is None


@pytest.mark.parametrize("name", ["sRGB", "Display P3", "ITU-R BT.2020", OPRGB])
def test_the_primaries_that_are_known_are_those_of_another_library(name: str) -> None:
    ours = {"sRGB": "BT.709", "Display P3": "P3", "ITU-R BT.2020": "BT.2020"}.get(name, "opRGB")
    np.testing.assert_allclose(COLORANTS[ours], colorants(name), atol=1.1e-3)


@pytest.mark.parametrize("length", [0, 100, 132, 140, 200, 300])
def test_a_profile_that_is_cut_is_said(length: int) -> None:
    content = matrix_profile(SRGB_CURVE, colorants(BT709))[:length]
    stated = by_profile(content)
    assert stated is not None
    assert stated.colour is None


@given(st.binary(max_size=80), st.sampled_from([b"curv", b"para", b"", b"mft2"]))
def test_no_curve_stops_anything(content: bytes, kind: bytes) -> None:
    curve = curve_of(kind + content)
    if curve is not None:
        assert is_srgb_curve(curve) in (True, False)
