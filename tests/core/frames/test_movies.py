"""Frames of movies by number: exact in every container and codec that comes."""

from __future__ import annotations

import re
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pymediainfo import MediaInfo

from tests.making import cut, number_in, numbered, write_movie
from waxseal.core.arrive.movie_sources import movie_source
from waxseal.core.errors import FrameError, UnreadableInput
from waxseal.core.frames.movies import movie_facts, read_movie_frame
from waxseal.core.frames.movies.movie_facts import rate_of
from waxseal.core.frames.movies.ycbcr import PlaneCoding, rgb_of_planes
from waxseal.core.job.model import FindingKind
from waxseal.core.seal.measure.measure_movie import measure_movie

N24, N30 = Fraction(24_000, 1001), Fraction(30_000, 1001)
DNXHR = {"profile": "dnxhr_sq"}
ALPHA = {"auto-alt-ref": "0"}
MOVIES: list[tuple[str, dict[str, Any]]] = [
    ("a.mp4", {}),
    ("b.mkv", {"rate": N24}),
    ("m.mov", {"rate": N30}),
    ("n.ts", {"rate": Fraction(25)}),
    ("o.mpg", {"codec": "mpeg2video", "rate": Fraction(25)}),
    ("q.avi", {"options": {"bf": "0"}}),
    ("c.webm", {"codec": "libvpx-vp9"}),
    ("d.webm", {"codec": "libvpx-vp9", "kind": "yuva420p", "options": ALPHA}),
    ("e.mov", {"codec": "prores_ks", "kind": "yuva444p10le", "options": {"alpha_bits": "16"}}),
    ("f.mov", {"codec": "png", "kind": "rgba"}),
    ("g.mov", {"codec": "qtrle", "kind": "argb"}),
    ("i.avi", {"codec": "ffv1", "kind": "bgra"}),
    ("l.mkv", {"codec": "libx265", "kind": "yuv420p10le"}),
    ("j.mxf", {"codec": "dnxhd", "kind": "yuv422p", "rate": Fraction(25), "options": DNXHR}),
    ("r.mov", {"codec": "v210", "kind": "yuv422p10le"}),
]  # fmt: skip
ORDER = (1, 40, 7, 8, 9, 31, 30, 2, 40, 1, 24, 25, 16)


@pytest.mark.parametrize(("name", "how"), MOVIES, ids=lambda value: str(value)[:12])
def test_every_frame_is_found_by_its_number(tmp_path: Path, name: str, how: dict[str, Any]) -> None:
    path = write_movie(tmp_path / name, **how)
    facts = movie_facts(path)
    assert (facts.frames, facts.rate, facts.uneven) == (40, how.get("rate", 24), 0)
    assert (facts.width, facts.height) == (320, 180)
    assert facts.share > 0.999
    for frame in ORDER:
        assert number_in(read_movie_frame(path, frame)) == frame - 1
    has_alpha = "a" in how.get("kind", "yuv420p").replace("gray", "")
    values = read_movie_frame(path, 7)
    assert facts.has_alpha is has_alpha
    assert values.shape == (180, 320, 4 if has_alpha else 3)
    away = np.abs(values / (np.iinfo(values.dtype).max / 255) - numbered(6)[..., : values.shape[2]])
    assert away[40:].mean() < 1.2


@pytest.mark.parametrize("name", ["f.mov", "g.mov", "i.avi"])
def test_what_is_kept_without_loss_comes_back_exactly(tmp_path: Path, name: str) -> None:
    path = write_movie(tmp_path / name, **dict(MOVIES)[name])
    np.testing.assert_array_equal(read_movie_frame(path, 12), numbered(11))


def test_threads_that_ask_out_of_order_get_their_frames(tmp_path: Path) -> None:
    path = write_movie(tmp_path / "a.mp4")
    order = [frame for pair in range(1, 40, 2) for frame in (pair + 1, pair)]
    with ThreadPoolExecutor(4) as pool:
        found = list(pool.map(partial(read_movie_frame, path), order))
    assert [number_in(values) + 1 for values in found] == order


def test_a_variable_rate_is_said(tmp_path: Path) -> None:
    times = [at * 40 + (at % 5) * 7 for at in range(40)]
    facts = movie_facts(write_movie(tmp_path / "v.mp4", times_ms=times))
    assert not facts.is_constant
    assert float(facts.rate) == pytest.approx(39 / (times[-1] / 1000), rel=1e-3)
    assert number_in(read_movie_frame(tmp_path / "v.mp4", 23)) == 22


def test_the_pixel_shape_is_read(tmp_path: Path) -> None:
    path = write_movie(tmp_path / "a.mp4", shape=Fraction(16, 11))
    assert movie_facts(path).pixel_shape == Fraction(16, 11)


@pytest.mark.parametrize("degrees", [90, 180, 270])
def test_a_turned_movie_comes_upright(tmp_path: Path, degrees: int) -> None:
    """MediaInfo says by how much a player turns the picture with the clock."""
    path = tmp_path / "a.mp4"
    stored = np.zeros((32, 64, 3), np.uint8)
    stored[:16, :32] = 255
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("libx264", rate=24)
        stream.width, stream.height, stream.pix_fmt = 64, 32, "yuv420p"
        stream.set_display_rotation(degrees)
        for frame in range(3):
            picture = av.VideoFrame.from_ndarray(stored, "rgb24")
            picture.pts = frame
            container.mux(stream.encode(picture))
        container.mux(stream.encode(None))
    clockwise = round(float(MediaInfo.parse(path).video_tracks[0].rotation))
    seen = np.rot90(stored, -clockwise // 90)
    facts = movie_facts(path)
    assert (facts.height, facts.width) == seen.shape[:2]
    assert np.median(np.abs(read_movie_frame(path, 2) / 257 - seen)) < 3


CUT = {
    "a.mkv": ("libx264", "yuv420p", {}),
    "a.webm": ("libvpx-vp9", "yuv420p", {}),
    "a.mp4": ("libx264", "yuv420p", {"movflags": "faststart"}),
    "a.mov": ("prores_ks", "yuv422p10le", {"movflags": "faststart"}),
    "a.avi": ("mjpeg", "yuvj422p", {}),
    "a.mxf": ("mpeg2video", "yuv420p", {}),
    "a.gif": ("gif", "rgb8", {}),
}


def write_held(path: Path, *, held: float = 1.0, options: dict[str, str] | None = None) -> Path:
    """Eight frames; held: how many times as long the last one is shown."""
    codec, kind, more = CUT[path.name]
    with av.open(str(path), "w", options={**more, **(options or {})}) as container:
        stream: Any = container.add_stream(codec, rate=24)
        stream.width, stream.height, stream.pix_fmt = 320, 180, kind
        for number in range(8):
            frame = av.VideoFrame.from_ndarray(numbered(number), format="rgba")
            frame = frame.reformat(format=kind)
            frame.pts, frame.time_base = number, Fraction(1, 24)
            for packet in stream.encode(frame):
                container.mux(packet)
        for packet in stream.encode(None):
            container.mux(packet)
    return path


@pytest.mark.parametrize("name", CUT)
@pytest.mark.parametrize("share", [0.6, 0.95])
def test_a_movie_that_is_cut_short_says_so(tmp_path: Path, name: str, share: float) -> None:
    """Some containers just give fewer frames; of others what they list is not there."""
    path = cut(write_held(tmp_path / name), share)
    try:
        facts = movie_facts(path)
    except FrameError:
        return  # it does not open: said as well
    assert facts.is_cut or facts.frames == 8  # else only what stands behind the frames is missing


@pytest.mark.parametrize("name", CUT)
def test_a_whole_movie_is_whole(tmp_path: Path, name: str) -> None:
    facts = movie_facts(write_held(tmp_path / name))
    assert (facts.frames, facts.is_cut) == (8, False)


@pytest.mark.parametrize("name", ["a.mkv", "a.webm"])
def test_a_stated_length_is_a_hint(tmp_path: Path, name: str) -> None:
    """Eight frames whose last one is held: its length is longer, and nothing is missing."""
    path = write_held(tmp_path / name)
    content = path.read_bytes()
    stated = re.search(rb"00:00:00\.\d{9}", content)
    assert stated is not None
    path.write_bytes(content.replace(stated[0], b"00:00:00.390000000"))
    facts = movie_facts(path)
    assert facts.share < 0.9
    assert not facts.is_cut
    (finding,) = movie_source(path).findings
    assert finding.kind is FindingKind.HELD


@pytest.mark.parametrize("name", ["a.mp4", "a.mov"])
def test_a_movie_without_its_index_does_not_open(tmp_path: Path, name: str) -> None:
    path = cut(write_movie(tmp_path / name), 0.6)
    with pytest.raises(FrameError):
        movie_facts(path)


@pytest.mark.parametrize("content", [b"", b"no movie at all", bytes(5000)])
def test_what_is_no_movie_is_said(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "a.mp4"
    path.write_bytes(content)
    with pytest.raises(FrameError):
        movie_facts(path)
    with pytest.raises(FrameError, match="not there"):
        read_movie_frame(tmp_path / "none.mp4", 1)


def test_a_codec_that_nobody_knows_is_said(tmp_path: Path) -> None:
    path = write_movie(tmp_path / "a.mp4")
    content = path.read_bytes()
    assert content.count(b"avc1") > 1
    path.write_bytes(content.replace(b"avc1", b"zzzz"))
    with pytest.raises(FrameError, match="codec"):
        movie_facts(path)


@pytest.mark.parametrize("word", [b"isom", b"VideoHandler", b"Lavf"])
def test_words_in_an_old_encoding_stop_nobody(tmp_path: Path, word: bytes) -> None:
    path = write_movie(tmp_path / "a.mp4")
    content = path.read_bytes()
    assert word in content
    path.write_bytes(content.replace(word, word[:-1] + b"\x80"))  # never valid UTF-8
    assert movie_facts(path).frames == 40
    assert measure_movie(path).frames == 40


def test_sound_in_an_unknown_codec_is_not_checked(tmp_path: Path) -> None:
    path = write_movie(tmp_path / "a.mp4", sound_seconds=0.5)
    content = bytearray(path.read_bytes().replace(b"mp4a", b"zzzz"))
    # Of the object type too, ISO 14496-1: the byte after the decoder's tag and length.
    kind = content.index(b"\x04\x80\x80\x80", content.index(b"esds")) + 5
    assert content[kind] == 0x40  # AAC
    content[kind] = 0xFE
    path.write_bytes(content)
    with pytest.raises(UnreadableInput, match="its sound is in a codec"):
        measure_movie(path)


def test_a_frame_beyond_the_end_is_not_there(tmp_path: Path) -> None:
    path = write_movie(tmp_path / "a.mp4")
    for frame in (0, 41):
        with pytest.raises(FrameError, match="frames 1 to 40"):
            read_movie_frame(path, frame)


def test_a_movie_that_was_written_again_is_read_again(tmp_path: Path) -> None:
    path = write_movie(tmp_path / "a.mp4", count=20)
    assert movie_facts(path).frames == 20
    write_movie(path, count=30)
    assert movie_facts(path).frames == 30


rates = st.sampled_from([Fraction(n) for n in (12, 15, 24, 25, 30, 50, 60)] + [N24, N30])


@given(rate=rates, count=st.integers(2, 400), unit=st.sampled_from([1000, 90_000, 24_000]))
def test_rounded_times_still_tell_the_rate(rate: Fraction, count: int, unit: int) -> None:
    times = [round(at / rate * unit) for at in range(count)]
    found, uneven = rate_of(times, Fraction(1, unit), [rate])
    assert uneven == 0
    assert abs(float(found / rate) - 1) < 1e-3


@pytest.mark.parametrize(
    "coding",
    [
        PlaneCoding(1, 8, is_full=False),
        PlaneCoding(6, 10, is_full=False),
        PlaneCoding(9, 12, is_full=True),
    ],
)
def test_grey_and_primaries_come_back_from_their_codes(coding: PlaneCoding) -> None:
    """Against the matrix in float64, inverted: no formula of ours."""
    from waxseal.core.frames.movies.ycbcr import MATRICES

    red, blue = MATRICES[coding.matrix].red, MATRICES[coding.matrix].blue
    luma = np.array([red, 1 - red - blue, blue])
    to_codes = np.array(
        [luma, ([0, 0, 1] - luma) / (2 * (1 - blue)), ([1, 0, 0] - luma) / (2 * (1 - red))]
    )
    colours = np.array([[0.5, 0.5, 0.5], [1, 0, 0], [0, 1, 0], [0, 0, 1], [0.2, 0.7, 0.4]])
    codes = colours @ to_codes.T
    step, most = 2 ** (coding.bits - 8), 2**coding.bits - 1
    scale, low = ((most, most), 0) if coding.is_full else ((219 * step, 224 * step), 16 * step)
    planes = tuple(
        np.rint(codes[None, :, at] * scale[min(at, 1)] + (low if at == 0 else 128 * step)).astype(
            np.uint8 if coding.bits == 8 else np.uint16
        )
        for at in range(3)
    )
    found = rgb_of_planes(planes, coding)[0] / 65_535
    assert np.abs(found - colours).max() < 1.5 / (219 * step)
