"""The boxes of an MP4 in both forms of the standard, against MediaInfo; and hostile ones."""

from __future__ import annotations

import struct
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from pymediainfo import MediaInfo

from waxseal.core.seal.measure.mp4_boxes import Boxes, read_boxes

Box = tuple[bytes, bytes]
PARENTS = (b"moov", b"trak", b"mdia", b"minf", b"stbl", b"edts")


def write(path: Path, *, frames: int = 12, timescale: int = 1_323_000_000) -> Path:
    """A movie at 29.97, its index behind its pictures: its boxes may change their length."""
    options = {"movie_timescale": str(timescale), "fflags": "+bitexact"}
    with av.open(str(path), "w", format="mp4", container_options=options) as container:
        stream = container.add_stream("libx264", rate=Fraction(30_000, 1001))
        assert isinstance(stream, av.VideoStream)
        stream.width, stream.height, stream.pix_fmt = 64, 36, "yuv420p"
        for at in range(frames):
            frame = av.VideoFrame.from_ndarray(np.full((54, 64), at, np.uint8), "yuv420p")
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def boxes_in(body: bytes) -> list[Box]:
    found, at = [], 0
    while at < len(body):
        length, name = struct.unpack_from(">I4s", body, at)
        found.append((name, body[at + 8 : at + length]))
        at += length
    return found


def packed(boxes: list[Box]) -> bytes:
    return b"".join(struct.pack(">I4s", 8 + len(body), name) + body for name, body in boxes)


def rewritten(path: Path, change: dict[bytes, object]) -> Path:
    """Boxes by their names changed by functions of their bodies, at any depth of `moov`."""

    def walk(body: bytes) -> bytes:
        made = []
        for name, content in boxes_in(body):
            content = walk(content) if name in PARENTS else content
            does = change.get(name)
            made.append((name, does(content) if callable(does) else content))
        return packed(made)

    whole = boxes_in(path.read_bytes())
    assert [name for name, _ in whole][-1] == b"moov"
    path.write_bytes(packed([(n, walk(b) if n == b"moov" else b) for n, b in whole]))
    return path


def wide_head(head: bytes) -> bytes:
    """`mvhd` and `mdhd` of version 1: the times and the length have 64 bits (8.2.2, 8.4.2)."""
    made, changed, scale, length = struct.unpack_from(">IIII", head, 4)
    return b"\1" + head[1:4] + struct.pack(">QQIQ", made, changed, scale, length) + head[20:]


def wide_track(head: bytes) -> bytes:
    made, changed, number, nothing, length = struct.unpack_from(">IIIII", head, 4)
    start = struct.pack(">QQIIQ", made, changed, number, nothing, length)
    return b"\1" + head[1:4] + start + head[24:]


def wide_edits(edits: bytes) -> bytes:
    (count,) = struct.unpack_from(">I", edits, 4)
    entries = b""
    for number in range(count):
        length, start, rate = struct.unpack_from(">IiI", edits, 8 + 12 * number)
        entries += struct.pack(">QqI", length, start, rate)
    return b"\1" + edits[1:8] + entries


WIDE = {b"mvhd": wide_head, b"mdhd": wide_head, b"tkhd": wide_track, b"elst": wide_edits}


@pytest.mark.parametrize("wide", [(), (b"mvhd",), (b"mdhd", b"elst"), tuple(WIDE)])
def test_both_forms_say_the_same_as_mediainfo(tmp_path: Path, wide: tuple[bytes, ...]) -> None:
    path = rewritten(write(tmp_path / "a.mp4"), {name: WIDE[name] for name in wide})
    ours = read_boxes(path)
    assert ours is not None
    (track,) = ours.tracks
    theirs = next(one for one in MediaInfo.parse(str(path)).tracks if one.track_type == "Video")
    assert track.samples == int(theirs.frame_count) == 12
    assert track.durations == (track.timescale * 1001 // 30_000,)
    assert track.shown is not None
    assert float(track.shown) == pytest.approx(float(theirs.duration) / 1000, abs=0.001)
    assert track.shown == Fraction(12 * 1001, 30_000)


def test_a_long_movie_of_441_at_a_1001_rate(tmp_path: Path) -> None:
    """Its length in units of both rates needs 64 bits from about ten minutes on."""
    seconds = 1000
    units = seconds * 1_323_000_000

    def longer(head: bytes) -> bytes:
        wide = wide_head(head)
        return wide[:24] + struct.pack(">Q", units) + wide[32:]

    def longer_edits(edits: bytes) -> bytes:
        wide = wide_edits(edits)
        return wide[:8] + struct.pack(">Q", units) + wide[16:]

    path = rewritten(write(tmp_path / "a.mp4"), {b"mvhd": longer, b"elst": longer_edits})
    ours = read_boxes(path)
    assert ours is not None
    assert ours.tracks[0].shown == seconds


def nested(depth: int) -> bytes:
    body = b""
    for _ in range(depth):
        body = packed([(b"edts", body)])
    return body


HOSTILE = {
    "no head": {b"mvhd": lambda _: b""},
    "no time scale": {b"mvhd": lambda head: head[:12] + b"\0\0\0\0" + head[16:]},
    "no time scale of its own": {b"mdhd": lambda head: head[:12] + b"\0\0\0\0" + head[16:]},
    "an edit list that is longer than it is": {b"elst": lambda e: e[:4] + b"\xff" * 4 + e[8:]},
    "more times than there are": {b"stts": lambda t: t[:4] + b"\xff" * 4 + t[8:]},
    "boxes in boxes": {b"stts": lambda t: t, b"edts": lambda _: nested(5000)},
}


@pytest.mark.parametrize("name", HOSTILE)
def test_damaged_boxes_are_no_boxes(tmp_path: Path, name: str) -> None:
    path = rewritten(write(tmp_path / "a.mp4"), dict(HOSTILE[name]))
    assert read_boxes(path) is None


def test_a_table_of_millions_takes_no_memory_to_speak_of(tmp_path: Path) -> None:
    import tracemalloc

    count = 5_000_000
    table = np.tile(np.array([1, 1001], ">u4"), count).tobytes()

    def many(head: bytes) -> bytes:
        return head[:4] + struct.pack(">I", count) + table

    path = rewritten(write(tmp_path / "a.mp4"), {b"stts": many})
    tracemalloc.start()
    ours = read_boxes(path)
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert isinstance(ours, Boxes)
    assert ours.tracks[0].samples == count
    assert most < 8 * path.stat().st_size
