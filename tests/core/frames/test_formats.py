"""Every format that arrives: what its header says, its pixels, and its end."""

from __future__ import annotations

import struct
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import OpenImageIO
import pytest
import tifffile
from numpy.typing import NDArray

from tests.making import cut, gradient, write_with
from waxseal.core.errors import FrameError
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.frames.headers import Format, look
from waxseal.core.frames.headers.exr_parts import parts_of
from waxseal.core.job.model import Alpha


def psd(picture: NDArray[np.uint8]) -> bytes:
    """A flattened PSD of raw 8-bit planes. Source: the format's published specification."""
    height, width, channels = picture.shape
    head = struct.pack(">4sH6xHIIHH", b"8BPS", 1, channels, height, width, 8, 3)
    planes = np.ascontiguousarray(picture.transpose(2, 0, 1)).tobytes()
    return head + bytes(4) + bytes(4) + bytes(4) + struct.pack(">H", 0) + planes


OTHERS = [
    ("a.dpx", "uint8", 3, Format.DPX, Alpha.NONE),
    ("a.dpx", "uint16", 3, Format.DPX, Alpha.NONE),
    ("a.tga", "uint8", 3, Format.TGA, Alpha.NONE),
    ("a.tga", "uint8", 4, Format.TGA, Alpha.STRAIGHT),
    ("a.iff", "uint8", 3, Format.IFF, Alpha.NONE),
    ("a.iff", "uint8", 4, Format.IFF, Alpha.PREMULTIPLIED),
    ("a.iff", "uint16", 4, Format.IFF, Alpha.PREMULTIPLIED),
    ("a.bmp", "uint8", 3, Format.BMP, Alpha.NONE),
    ("a.psd", "uint8", 3, Format.PSD, Alpha.NONE),
]


def written(folder: Path, name: str, dtype: str, channels: int) -> tuple[Path, NDArray[Any]]:
    picture = gradient(3, width=48, height=32, dtype=dtype, channels=channels)
    if name.endswith(".psd"):
        (folder / name).write_bytes(psd(picture))
    else:
        write_pixels(folder / name, picture, compression="none")
    return folder / name, picture


@pytest.mark.parametrize(("name", "dtype", "channels", "kind", "alpha"), OTHERS)
def test_every_format_is_known_by_its_content(
    tmp_path: Path, name: str, dtype: str, channels: int, kind: Format, alpha: Alpha
) -> None:
    path, picture = written(tmp_path, name, dtype, channels)
    if kind is not Format.TGA:  # which has no mark of its own
        path = path.rename(path.with_suffix(".exr"))
    header = look(path)
    assert (header.format, header.width, header.height) == (kind, 48, 32)
    assert (len(header.channels), header.depth, header.alpha) == (channels, dtype, alpha)
    np.testing.assert_array_equal(read_pixels(path).values, picture)


@pytest.mark.parametrize(("name", "dtype", "channels", "kind", "alpha"), OTHERS)
@pytest.mark.parametrize("share", [0.02, 0.4, 0.88])
def test_every_format_is_found_when_it_is_cut_short(
    tmp_path: Path, name: str, dtype: str, channels: int, kind: Format, alpha: Alpha, share: float
) -> None:
    path, _ = written(tmp_path, name, dtype, channels)
    cut(path, share)
    with pytest.raises(FrameError):
        read_pixels(path)


def test_a_webp_is_read(tmp_path: Path) -> None:
    path = tmp_path / "a.webp"
    write_pixels(path, gradient(1), compression="lossless:100")
    header = look(path)
    assert (header.format, header.width, header.channels) == (Format.WEBP, 64, ("R", "G", "B"))
    away = np.abs(read_pixels(path).values.astype(int) - gradient(1))
    assert np.median(away) <= 4
    cut(path, 0.9)
    with pytest.raises(FrameError, match="cut short"):
        look(path)


def test_a_scan_of_film_says_that_it_is_log(tmp_path: Path) -> None:
    path = tmp_path / "a.dpx"
    kind = {"oiio:BitsPerSample": 10, "dpx:Transfer": "Printing density"}
    picture = gradient(1, dtype="uint16")
    write_pixels(path, picture, attributes=kind)
    assert look(path).is_log
    # Ten bits of sixteen are kept: the values differ by less than one of them.
    assert np.abs(read_pixels(path).values.astype(int) - picture).max() < 64
    write_pixels(path, picture, attributes={"dpx:Transfer": "Linear"})
    assert not look(path).is_log


# The trade's eight: how a stored picture is turned to be looked at (TIFF 6.0, tag 274).
TURNS = {
    1: lambda seen: seen,
    2: lambda seen: seen[:, ::-1],
    3: lambda seen: seen[::-1, ::-1],
    4: lambda seen: seen[::-1],
    5: lambda seen: seen.transpose(1, 0, 2),
    6: lambda seen: np.rot90(seen, 1),
    7: lambda seen: seen[::-1, ::-1].transpose(1, 0, 2),
    8: lambda seen: np.rot90(seen, -1),
}


@pytest.mark.parametrize("orientation", range(1, 9))
@pytest.mark.parametrize("name", ["a.tif", "a.jpg"])
def test_a_turned_picture_comes_upright(tmp_path: Path, name: str, orientation: int) -> None:
    seen = np.zeros((16, 32, 3), np.uint8)
    seen[:8, :16] = (200, 60, 20)
    seen[8:, 16:] = (20, 90, 180)
    stored = np.ascontiguousarray(TURNS[orientation](seen))
    write_pixels(tmp_path / name, stored, attributes={"Orientation": orientation})
    header = look(tmp_path / name)
    assert (header.width, header.height) == (32, 16)
    away = np.abs(read_pixels(tmp_path / name).values.astype(int) - seen)
    assert away.max() == 0 if name == "a.tif" else np.median(away) <= 2


@pytest.mark.parametrize(
    "compression", ["none", "rle", "zips", "zip", "piz", "pxr24", "b44", "b44a", "dwaa", "dwab"]
)
@pytest.mark.parametrize("tile", [0, 32])
def test_every_exr_compression_is_read_and_its_end_seen(
    tmp_path: Path, compression: str, tile: int
) -> None:
    spec = OpenImageIO.ImageSpec(100, 70, 4, "half")
    spec.attribute("compression", compression)
    if tile:
        spec.tile_width = spec.tile_height = tile
    picture = gradient(3, width=100, height=70, dtype="float16", channels=4)
    path = tmp_path / "a.exr"
    write_with(path, spec, picture)
    away = np.abs(read_pixels(path).values.astype(np.float64) - picture)
    lossy = compression in ("b44", "b44a", "dwaa", "dwab")
    assert away.max() <= (0.08 if lossy else 0.0)
    with path.open("r+b") as file:
        file.truncate(path.stat().st_size - 1)
    with pytest.raises(FrameError, match="cut short"):
        look(path)


def parts_written(path: Path) -> dict[str, NDArray[Any]]:
    """Beauty, diffuse and depth as three parts, by the OpenEXR package."""
    beauty = gradient(1, dtype="float16", channels=4)
    diffuse = gradient(2, dtype="float16")
    depth = np.full((36, 64), 7.5, np.float32)
    head = {"type": OpenEXR.scanlineimage, "compression": OpenEXR.ZIP_COMPRESSION}
    parts = [
        OpenEXR.Part(head | {"name": "beauty"}, {"RGBA": beauty}, "beauty"),
        OpenEXR.Part(head | {"name": "diffuse"}, {"RGB": diffuse}, "diffuse"),
        OpenEXR.Part(head | {"name": "depth"}, {"Z": depth}, "depth"),
    ]
    OpenEXR.File(parts).write(str(path))
    return {"beauty": beauty, "diffuse": diffuse, "depth": depth}


def test_each_part_of_an_exr_is_a_picture(tmp_path: Path) -> None:
    path = tmp_path / "a.exr"
    pictures = parts_written(path)
    header = look(path)
    assert [part.name for part in header.parts] == ["beauty", "diffuse", "depth"]
    np.testing.assert_array_equal(read_pixels(path).values, pictures["beauty"])
    np.testing.assert_array_equal(read_pixels(path, part="diffuse").values, pictures["diffuse"])
    depth = read_pixels(path, part="depth").values
    assert depth.dtype == np.float32
    assert (depth == 7.5).all()
    with pytest.raises(FrameError, match="no part “shadow”"):
        read_pixels(path, part="shadow")


@pytest.mark.parametrize("share", [0.1, 0.5, 0.8, 0.99])
def test_a_cut_exr_of_several_parts_is_found(tmp_path: Path, share: float) -> None:
    path = tmp_path / "a.exr"
    parts_written(path)
    cut(path, share)
    with pytest.raises(FrameError, match="cut short"):
        look(path)


def test_channel_groups_of_one_part_are_pictures(tmp_path: Path) -> None:
    names = ("R", "G", "B", "A", "Z", "diffuse.R", "diffuse.G", "diffuse.B", "N.X", "N.Y", "N.Z")
    spec = OpenImageIO.ImageSpec(8, 4, len(names), "half")
    spec.channelnames = names
    values = np.arange(8 * 4 * len(names), dtype=np.float16).reshape(4, 8, len(names))
    path = tmp_path / "a.exr"
    write_with(path, spec, values)
    assert {part.name for part in look(path).parts} == {"", "Z", "diffuse", "N"}
    np.testing.assert_array_equal(read_pixels(path).values, values[..., :4])
    np.testing.assert_array_equal(read_pixels(path, part="diffuse").values, values[..., 5:8])
    np.testing.assert_array_equal(read_pixels(path, part="N").values, values[..., 8:])
    np.testing.assert_array_equal(
        read_pixels(path, part="Z").values, np.repeat(values[..., 4:5], 3, axis=2)
    )


@pytest.mark.parametrize(
    ("channels", "parts"),
    [
        (("R", "G", "B"), [("", ("R", "G", "B"))]),
        (("B", "G", "R", "A"), [("", ("R", "G", "B", "A"))]),
        (("Y",), [("", ("Y",))]),
        (("Z",), [("Z", ("Z",))]),
        (("c.R", "c.G", "c.B", "c.A"), [("c", ("c.R", "c.G", "c.B", "c.A"))]),
        (("sh.blue", "sh.green", "sh.red"), [("sh", ("sh.red", "sh.green", "sh.blue"))]),
        (("motion.u", "motion.v"), [("motion", ("motion.u", "motion.v"))]),
        (("id.hair",), [("id", ("id.hair",))]),
        (("id.hair", "id.skin"), [("id.hair", ("id.hair",)), ("id.skin", ("id.skin",))]),
        (("a.b.R", "a.b.G", "a.b.B"), [("a.b", ("a.b.R", "a.b.G", "a.b.B"))]),
    ],
)  # fmt: skip
def test_channels_are_grouped_by_their_names(
    channels: tuple[str, ...], parts: list[tuple[str, tuple[str, ...]]]
) -> None:
    assert [(part.name, part.channels) for part in parts_of([("", channels)])] == parts


@pytest.mark.parametrize("points", [(0.0,) * 8, (float("nan"),) * 8, (0.64, 0.33) * 4, (1e9,) * 8])
def test_primaries_that_are_none_are_not_believed(
    tmp_path: Path, points: tuple[float, ...]
) -> None:
    path = tmp_path / "a.exr"
    write_pixels(path, gradient(1, dtype="float16"), attributes={"chromaticities": points})
    assert look(path).chromaticities is None


@pytest.mark.parametrize("rate", [Fraction(100_000), Fraction(1, 1000)])
def test_a_rate_that_no_programme_has_is_not_believed(tmp_path: Path, rate: Fraction) -> None:
    path = tmp_path / "a.exr"
    write_pixels(path, gradient(1, dtype="float16"), rate=rate)
    assert look(path).rate is None


def test_parts_of_one_name_are_told_apart() -> None:
    names = [part.name for part in parts_of([("", ("R", "G", "B")), ("", ("R", "G", "B"))])]
    assert len(set(names)) == 2


def test_the_pages_of_a_tiff_are_pictures(tmp_path: Path) -> None:
    path = tmp_path / "a.tif"
    pages = [gradient(n) for n in (1, 2, 3)]
    with tifffile.TiffWriter(path) as file:
        for page in pages:
            file.write(page, photometric="rgb", contiguous=False)
    header = look(path)
    assert [part.name for part in header.parts] == ["page 1", "page 2", "page 3"]
    np.testing.assert_array_equal(read_pixels(path).values, pages[0])
    np.testing.assert_array_equal(read_pixels(path, part="page 3").values, pages[2])
    cut(path, 0.9)
    with pytest.raises(FrameError, match="cut short"):
        look(path)


@pytest.mark.parametrize("compression", [None, "deflate"])
@pytest.mark.parametrize("dtype", ["float16", "float32"])
def test_a_tiff_of_floats_is_scene_light(
    tmp_path: Path, dtype: str, compression: str | None
) -> None:
    picture = gradient(1, dtype=dtype)
    tifffile.imwrite(tmp_path / "a.tif", picture, photometric="rgb", compression=compression)
    np.testing.assert_array_equal(read_pixels(tmp_path / "a.tif").values, picture)


@pytest.mark.parametrize(
    ("ratio", "shape"), [(1.0, None), (2.0, Fraction(2)), (1.0667, Fraction(16, 15))]
)
def test_the_pixel_shape_of_an_exr_is_read(
    tmp_path: Path, ratio: float, shape: Fraction | None
) -> None:
    path = tmp_path / "a.exr"
    write_pixels(path, gradient(1, dtype="float16"), attributes={"PixelAspectRatio": ratio})
    assert look(path).pixel_shape == shape
