"""The alpha that is put into frames of ProRes: that of the libraries' slow encoder, to the bit."""

from __future__ import annotations

import struct
from fractions import Fraction
from itertools import accumulate, pairwise

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from waxseal.core.deliver.codecs.prores_alpha import with_alpha
from waxseal.core.errors import WrongUse
from waxseal.core.frames.movies.pixel_planes import write_planes

Codes = NDArray[np.uint16]  # (height, width), 10 bits

SIZES = [(1920, 1080), (336, 100), (130, 50), (16, 16)]


def alphas(width: int, height: int) -> dict[str, Codes]:
    y, x = np.mgrid[:height, :width]
    random = np.random.default_rng(7)
    found = {
        "opaque": np.full((height, width), 1023),
        "clear": np.zeros((height, width)),
        "ramp": x * 1023 // (width - 1),
        "disc": np.clip((height / 3 - np.hypot(x - width / 2, y - height / 2)) * 300, 0, 1023),
        "soft": 512 + 400 * np.sin(x / 9) * np.cos(y / 7),
        # Values whose differences are just what is said in few bits, and just not; both ways.
        "small steps": 500 + np.where((x // 3) % 2, 1, 0) * random.integers(0, 3, (height, width)),
        "noise": random.integers(0, 1024, (height, width)),
        # The differences of 16 bits wrap around.
        "wrapping": np.where((x + y) % 2, 1023, 0),
    }
    return {name: values.astype(np.uint16) for name, values in found.items()}


def encode(library: str, kind: str, planes: list[Codes]) -> bytes:
    height, width = planes[0].shape
    context = av.CodecContext.create(library, "w")
    assert isinstance(context, av.VideoCodecContext)
    context.width, context.height, context.pix_fmt = width, height, kind
    context.time_base, context.options = Fraction(1, 24), {"profile": "4"}
    frame = av.VideoFrame(width, height, kind)
    write_planes(frame, tuple(planes))
    frame.pts = 0
    (packet,) = context.encode(frame) + context.encode(None)
    return bytes(packet)


def decode(coded: bytes, width: int, height: int) -> list[Codes]:
    """The planes of a frame, as 10 bits."""
    context = av.CodecContext.create("prores", "r")
    assert isinstance(context, av.VideoCodecContext)
    context.width, context.height = width, height
    (frame,) = context.decode(av.Packet(coded)) + context.decode(None)
    drop = 2 if "12" in frame.format.name else 0
    rows = (np.frombuffer(plane, "<u2").reshape(height, -1) for plane in map(bytes, frame.planes))
    return [np.asarray(one[:, :width] >> drop, np.uint16) for one in rows]


def alpha_of_slices(frame: bytes) -> list[bytes]:
    """What comes behind the colours of each slice."""
    at = 8 + struct.unpack_from(">H", frame, 8)[0]
    (count,) = struct.unpack_from(">H", frame, at + 5)
    table = at + (frame[at] >> 3)
    sizes = struct.unpack_from(f">{count}H", frame, table)
    bodies = frame[table + 2 * count :]
    slices = [bodies[a:b] for a, b in pairwise(accumulate(sizes, initial=0))]
    return [one[(one[0] >> 3) + sum(struct.unpack_from(">HHH", one, 2)) :] for one in slices]


def picture(width: int, height: int) -> list[Codes]:
    random = np.random.default_rng(1)
    small = random.integers(200, 800, (3, height // 8 + 1, width // 8 + 1)).astype(np.uint16)
    return list(small.repeat(8, 1).repeat(8, 2)[:, :height, :width])


@pytest.mark.parametrize(("width", "height"), SIZES)
def test_the_bits_are_those_of_the_slow_encoder(width: int, height: int) -> None:
    colours = picture(width, height)
    bare = encode("prores_aw", "yuv444p10le", colours)
    for name, alpha in alphas(width, height).items():
        slow = encode("prores_ks", "yuva444p10le", [*colours, alpha])
        assert alpha_of_slices(with_alpha(bare, alpha)) == alpha_of_slices(slow), name


@pytest.mark.parametrize(("width", "height"), SIZES)
def test_a_decoder_gives_alpha_back_and_the_colours_as_they_were(width: int, height: int) -> None:
    bare = encode("prores_aw", "yuv444p10le", picture(width, height))
    colours = decode(bare, width, height)
    for name, alpha in alphas(width, height).items():
        *there, clear = decode(with_alpha(bare, alpha), width, height)
        assert np.array_equal(clear, alpha), name
        assert all(np.array_equal(one, other) for one, other in zip(there, colours, strict=True))


def test_alpha_of_another_size_is_refused() -> None:
    bare = encode("prores_aw", "yuv444p10le", picture(130, 50))
    with pytest.raises(WrongUse, match="differ in size"):
        with_alpha(bare, np.zeros((50, 160), np.uint16))
