"""What a seal's comparison catches, and that it bears every honest encode."""

from __future__ import annotations

import io
import shutil
from bisect import bisect_left
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from tests.doc_tables import as_table, table_in
from tests.making import job_of, write_sequence
from waxseal.core.deliver.codecs import CODECS, StreamEncoder
from waxseal.core.deliver.encode.segments import segment_pictures
from waxseal.core.deliver.encode.segments.segment_pictures import video_frame
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.format.resolved_format import COARSE_PARTS, ResolvedFormat
from waxseal.core.deliver.run import delivery_run
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.frames.movies.pixel_planes import read_planes
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import ConstantQuality, DeliveryState, Job
from waxseal.core.picture.arrays import Planes
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.frame_sketches import (
    Coarseness,
    Sketch,
    Verdict,
    block_sums,
    compare_films,
    sketch,
    sketch_of_rgb,
)
from waxseal.core.seal.measure.measure_movie import measure_movie

WIDE, TALL, COUNT = 320, 180, 12
Film = list[Planes]
ROWS, COLUMNS = np.mgrid[0:TALL, 0:WIDE].astype(np.float32) * 2


def planes(red: Any, green: Any, blue: Any) -> Planes:
    """8-bit limited-range BT.709 (items 3.2 and 4.6), chroma of half the size."""
    luma = 0.2126 * red + 0.7152 * green + 0.0722 * blue

    def halved(plane: NDArray[np.float32]) -> NDArray[np.uint8]:
        mean = plane.reshape(TALL // 2, 2, WIDE // 2, 2).mean(axis=(1, 3))
        return np.asarray(np.clip(128.5 + 224 * mean, 0, 255), np.uint8)

    return (
        np.clip(16.5 + 219 * luma, 0, 255).astype(np.uint8),
        halved((blue - luma) / 1.8556),
        halved((red - luma) / 1.5748),
    )


def soft(at: int, speed: float = 0.7) -> Planes:
    """A slow pan over soft gradients."""
    x = COLUMNS + speed * at
    return planes(
        0.5 + 0.25 * np.sin(x / 90) + 0.1 * np.cos(ROWS / 70),
        0.45 + 0.2 * np.sin(x / 130 + ROWS / 100),
        0.4 + 0.2 * np.cos(x / 110 - ROWS / 160),
    )


def texture(at: int) -> Planes:
    random = np.random.default_rng(3).random((TALL, WIDE + 40, 3)).astype(np.float32)
    whole = cv2.GaussianBlur(random, (0, 0), 1.2)
    part = 0.4 + (whole - whole.mean()) / whole.std() * 0.15
    return planes(*np.moveaxis(np.clip(part[:, at : at + WIDE], 0, 1), -1, 0))


def noisy(at: int) -> Planes:
    grain = np.random.default_rng(at).normal(0, 0.08, (TALL, WIDE)).astype(np.float32)
    x = COLUMNS + at
    return planes(*(np.clip(0.5 + 0.3 * np.sin(x / part) + grain, 0, 1) for part in (90, 130, 70)))


def dark(at: int) -> Planes:
    x = COLUMNS + at
    return planes(*(0.02 + 0.01 * np.sin(x / part) for part in (90, 130, 70)))


def fading(at: int) -> Planes:
    """A texture that gets a little lighter: by less than half a code from frame to frame."""
    grain = np.random.default_rng(1).random((TALL, WIDE)).astype(np.float32)
    return planes(*(grain * (0.5 + 0.004 * at),) * 3)


def drifting(at: int) -> Planes:
    """Fine waves that move by a tenth of a pixel."""
    red, green = np.sin((COLUMNS + 0.2 * at) / 18), np.cos((ROWS + 0.15 * at) / 28)
    return planes(0.5 + 0.3 * red, 0.5 + 0.3 * green, np.full_like(red, 0.2))


MATERIALS: dict[str, Callable[[int], Planes]] = {
    "a soft slow pan": soft,
    "texture": texture,
    "grain": noisy,
    "darkness": dark,
    "a still": lambda _at: soft(0),
    "a fast pan": lambda at: soft(at, 25),
    "a slow fade": fading,
    "a slow drift": drifting,
}


def coded(film: Film, codec: str, figure: float) -> Film:
    """Encoded as a delivery is, 8 bits of 4:2:0, and decoded again."""
    coding = CODECS[codec].coding
    assert isinstance(coding, StreamEncoder)
    file, options = io.BytesIO(), coding.options_for(figure, len(film))
    with av.open(file, "w", format="matroska") as container:
        stream = container.add_stream(coding.library, rate=Fraction(24), options=options)
        assert isinstance(stream, av.VideoStream)
        stream.width, stream.height, stream.pix_fmt = WIDE, TALL, "yuv420p"
        for at, one in enumerate(film):
            frame = av.VideoFrame(WIDE, TALL, "yuv420p")
            for plane, values in zip(read_planes(frame), one, strict=True):
                plane.flags.writeable = True
                plane[:] = values
            frame.pts = at
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    file.seek(0)
    with av.open(file, "r") as decoded:
        return [
            tuple(plane.copy() for plane in read_planes(frame)) for frame in decoded.decode(video=0)
        ]


def verdict(made: Film, seen: Film, codec: str, figure: float) -> Verdict:
    """As a delivery of that quality is judged."""
    kind = CODECS[codec]
    sketches = dict(enumerate(sketch(one) for one in seen))
    return compare_films(
        *([sketch(one) for one in made], sketches, (WIDE, TALL)),
        coarse=Coarseness(bisect_left(COARSE_PARTS, kind.coarseness(figure))),
        least_step=kind.step_at(figure),
    )


def is_good(found: Verdict) -> bool:
    return not (found.faults or found.unlike or found.doubts)


@pytest.mark.parametrize(
    ("codec", "figures"),
    [
        ("H.264", (1, 10, 18, 28, 35, 42, 51)),
        ("H.265", (1, 10, 18, 28, 35, 42, 51)),
        ("VP9", (0, 12, 24, 33, 42, 63)),
        ("AV1", (1, 14, 26, 35, 45, 63)),
    ],
)
@pytest.mark.parametrize("material", MATERIALS)
def test_an_honest_encode_is_never_refused(
    material: str, codec: str, figures: tuple[float, ...]
) -> None:
    film = [MATERIALS[material](at) for at in range(COUNT)]
    found = {at: verdict(film, coded(film, codec, at), codec, at) for at in figures}
    assert not {at: one for at, one in found.items() if not is_good(one)}


@pytest.mark.parametrize("codec", ["ProRes proxy", "ProRes HQ", "DNxHR LB", "MJPEG"])
def test_darkness_that_gets_lighter_by_parts_of_a_code_is_sealed(
    tmp_path: Path, codec: str
) -> None:
    """What takes each picture by itself rounds as well: some come out as their neighbours."""
    columns = np.mgrid[:256, :256][1] / 256
    (tmp_path / "dark").mkdir()
    for at in range(12):
        light = np.clip(columns * 0.03 + 0.001 * at, 0, 1) ** 2.2
        picture = np.repeat(light[..., None], 3, axis=2).astype(np.float16)
        write_pixels(tmp_path / "dark" / f"dark.{at:04}.exr", picture)
    job = change_delivery(job_of(tmp_path / "dark"), delivery="d1", codec=codec, container="MOV")
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons


def each(change: Callable[[Planes], Planes]) -> Callable[[Film], Film]:
    return lambda film: [change(one) for one in film]


def added(plane: int, codes: int) -> Callable[[Planes], Planes]:
    def change(one: Planes) -> Planes:
        moved = list(one)
        moved[plane] = np.clip(one[plane].astype(int) + codes, 0, 255).astype(np.uint8)
        return tuple(moved)

    return change


def full_range(one: Planes) -> Planes:
    luma, *chroma = (plane.astype(float) for plane in one)
    wide = [(luma - 16) * 255 / 219, *((plane - 128) * 255 / 224 + 128 for plane in chroma)]
    return tuple(np.clip(plane + 0.5, 0, 255).astype(np.uint8) for plane in wide)


def rolled(by: int, axis: int) -> Callable[[Planes], Planes]:
    return lambda one: (
        np.roll(one[0], by, axis),
        *(np.roll(plane, by // 2, axis) for plane in one[1:]),
    )


FAULTS: dict[str, tuple[Callable[[Film], Film], str]] = {
    "two exchanged": (lambda film: [film[at] for at in (0, 1, 2, 4, 3, *range(5, COUNT))], ""),
    "one repeated": (lambda film: [film[at] for at in (0, 1, 2, 3, 3, *range(5, COUNT))], ""),
    "a frame late": (lambda film: [film[max(0, at - 1)] for at in range(COUNT)], ""),
    "2 pixels to the right": (each(rolled(2, 1)), "shifted"),
    "2 pixels down": (each(rolled(2, 0)), "shifted"),
    "luma + 6": (each(added(0, 6)), "brighter"),
    "luma - 6": (each(added(0, -6)), "darker"),
    "blue + 10": (each(added(1, 10)), "more blue"),
    "full range": (each(full_range), "contrast"),
    "Cb and Cr exchanged": (each(lambda one: (one[0], one[2], one[1])), "exchanged"),
    "no colour": (
        each(lambda one: (one[0], *(np.full_like(plane, 128) for plane in one[1:]))),
        "missing",
    ),
    "mirrored": (each(lambda one: tuple(plane[:, ::-1] for plane in one)), "mirrored"),
    "upside down": (each(lambda one: tuple(plane[::-1] for plane in one)), "upside down"),
}


ORDER = ("two exchanged", "one repeated")


FINE_FIGURES, COARSE_FIGURES, COARSEST_FIGURE = (1, 18), (28, 40), 51


@pytest.mark.parametrize("figure", FINE_FIGURES)
@pytest.mark.parametrize("fault", FAULTS)
def test_what_is_wrong_with_a_soft_slow_pan_is_said(fault: str, figure: float) -> None:
    """Neighbours that are exchanged are seen where they differ by more than codecs leave out."""
    speed = max(5.0, figure / 2.5) if fault in ORDER else max(0.7, figure / 4)
    film = [soft(at, speed=speed) for at in range(COUNT)]
    change, words = FAULTS[fault]
    found = verdict(film, coded(change(film), "H.264", figure), "H.264", figure)
    assert not is_good(found)
    assert words in " ".join(found.faults)


COARSE = [name for name in FAULTS if FAULTS[name][1] and "pixels" not in name]


@pytest.mark.parametrize("figure", COARSE_FIGURES)
@pytest.mark.parametrize("fault", COARSE)
def test_what_no_quality_does_is_said_at_every_quality(fault: str, figure: float) -> None:
    film = [soft(at) for at in range(COUNT)]
    change, words = FAULTS[fault]
    found = verdict(film, coded(change(film), "H.264", figure), "H.264", figure)
    assert words in " ".join(found.faults)


COARSEST = ("blue + 10", "Cb and Cr exchanged", "no colour", "mirrored", "upside down")


@pytest.mark.parametrize("fault", COARSEST)
def test_what_even_the_coarsest_encode_does_not_do(fault: str) -> None:
    test_what_no_quality_does_is_said_at_every_quality(fault, COARSEST_FIGURE)


NAME = "what sketches catch"


def table() -> str:
    """What the tests above hold, of H.264."""

    def last(fault: str) -> int:
        if fault in COARSEST:
            return COARSEST_FIGURE
        return (COARSE_FIGURES if fault in COARSE else FINE_FIGURES)[-1]

    by_figure: dict[int, list[str]] = {}
    for fault in FAULTS:
        by_figure.setdefault(last(fault), []).append(fault)
    rows = (
        (", ".join(by_figure[figure]), f"{FINE_FIGURES[0]} to {figure}")
        for figure in sorted(by_figure, reverse=True)
    )
    return as_table(("wrong", "is said at figures"), rows)


def test_the_table_in_the_docs_is_this_one() -> None:
    assert table_in("seal.md", NAME) == table()


def test_one_foreign_frame_in_a_coarse_film() -> None:
    film = [soft(at) for at in range(COUNT)]
    seen = coded(film, "H.264", 40)
    seen[5] = tuple(np.ascontiguousarray(255 - plane) for plane in seen[5])
    assert verdict(film, seen, "H.264", 40).unlike == (5,)


# ---- bit by bit ------------------------------------------------------------------------------


def film_at(folder: Path, figure: float, codec: str = "H.264") -> Job:
    job = job_of(write_sequence(folder / "frames", frames=range(1, 13)))
    quality = ConstantQuality(figure=figure)
    return change_delivery(job, delivery=job.deliveries[0].id, quality=quality, codec=codec)


def outcome_of(job: Job) -> tuple[DeliveryState, str]:
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    return outcome.state, " ".join(outcome.reasons)


CHANGED: dict[str, Callable[[Path], None]] = {
    "late": lambda folder: shift_names(folder, 1),
    "exchanged": lambda folder: exchange(folder, 4, 5),
}


def shift_names(folder: Path, by: int) -> None:
    for frame in range(12, by, -1):
        shutil.copy(folder / f"shot.{frame - by:04d}.png", folder / f"shot.{frame:04d}.png")


def exchange(folder: Path, one: int, other: int) -> None:
    first, second = (folder / f"shot.{frame:04d}.png" for frame in (one, other))
    kept = first.read_bytes()
    shutil.copy(second, first)
    second.write_bytes(kept)


@pytest.mark.parametrize("codec", ["H.264", "H.265"])
@pytest.mark.parametrize("figure", [18, 51])
@pytest.mark.parametrize("change", ["late", "exchanged"])
def test_another_film_in_the_file_is_refused_at_every_quality(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, codec: str, figure: float, change: str
) -> None:
    """It has the same count, rate, size and tags, and hardly another picture."""
    other = film_at(tmp_path / "other", figure, codec)
    CHANGED[change](tmp_path / "other" / "frames")
    assert outcome_of(other)[0] is DeliveryState.SEALED
    foreign = path_of(other.deliveries[0])
    job = film_at(tmp_path / "own", figure, codec)
    monkeypatch.setattr(
        delivery_run, "flush_to_disk", lambda partial: shutil.copy(foreign, partial)
    )
    state, reasons = outcome_of(job)
    assert state is DeliveryState.REFUSED
    assert "The pictures in the file are not those that were encoded." in reasons


@pytest.mark.parametrize("fault", ["Cb and Cr exchanged", "luma + 6", "2 pixels down"])
def test_what_reaches_the_encoder_is_what_was_made(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, fault: str
) -> None:
    change = FAULTS[fault][0]

    def wrong(picture: Any, form: ResolvedFormat) -> av.VideoFrame:
        frame = video_frame(picture, form)
        (changed,) = change([tuple(plane.copy() for plane in read_planes(frame))])
        for plane, values in zip(read_planes(frame), changed, strict=True):
            plane.flags.writeable = True
            plane[:] = values
        return frame

    monkeypatch.setattr(segment_pictures, "video_frame", wrong)
    state, reasons = outcome_of(film_at(tmp_path, 51))
    assert state is DeliveryState.REFUSED
    assert "not what the encoder was given" in reasons


def test_the_digest_of_a_stream_is_that_of_its_packets(tmp_path: Path) -> None:
    """And a bit of a picture that is flipped in the file makes it another."""
    job = film_at(tmp_path, 18)
    assert outcome_of(job)[0] is DeliveryState.SEALED
    path = path_of(job.deliveries[0])
    whole = measure_movie(path).stream
    assert len(whole) == 32
    content = bytearray(path.read_bytes())
    content[content.index(b"mdat") + 900] ^= 1
    path.write_bytes(content)
    assert measure_movie(path).stream != whole


def with_alpha(codes: int) -> Sketch:
    """A still of one grey, with alpha of one code."""
    grey = np.full((72, 128), 128, np.uint8)
    return sketch((grey, grey[::2, ::2], grey[::2, ::2], np.full((72, 128), codes, np.uint8)))


def test_alpha_that_is_another_is_a_fault() -> None:
    made = [with_alpha(200)] * 4
    same = compare_films(made, dict(enumerate([with_alpha(203)] * 4)), (128, 72))
    assert same.faults == ()
    other = compare_films(made, dict(enumerate([with_alpha(255)] * 4)), (128, 72))
    assert other.faults == ("The alpha is not that of the reel's pictures: 55 codes from it.",)


def test_pictures_of_rgb_are_judged_by_what_is_near_luma_and_chroma() -> None:
    """JPEG: what is exchanged or brighter is said, what the quality costs is not."""
    random = np.random.default_rng(3)
    rough = random.integers(40, 200, (9, 16, 3), np.uint8).repeat(8, 0).repeat(8, 1)
    planes = tuple(rough[..., at] for at in range(3))
    made = [sketch_of_rgb(planes)] * 4
    noisy = tuple(
        np.clip(one.astype(int) + random.integers(-6, 7, one.shape), 0, 255).astype(np.uint8)
        for one in planes
    )
    assert compare_films(made, dict(enumerate([sketch_of_rgb(noisy)] * 4)), (128, 72)).faults == ()
    turned = sketch_of_rgb(planes[::-1])
    found = compare_films(made, dict(enumerate([turned] * 4)), (128, 72)).faults
    assert "Blue and red are exchanged." in found


@pytest.mark.parametrize("codec", ["ProRes proxy", "ProRes LT", "ProRes HQ", "MJPEG", "H.264"])
def test_grain_that_a_codec_leaves_out_is_no_other_range(tmp_path: Path, codec: str) -> None:
    """Of pixels whose neighbours are all others a codec keeps less, and is honest all the same."""
    folder = tmp_path / "grain"
    folder.mkdir()
    ground = np.random.default_rng(0).integers(60, 180, (270, 480, 1)).astype(np.uint8)
    for number in range(1, 13):
        write_pixels(folder / f"g.{number:04}.png", np.roll(ground, number, 1).repeat(3, 2))
    job = change_delivery(job_of(folder), delivery="d1", codec=codec)
    state, reasons = outcome_of(job)
    assert state is DeliveryState.SEALED, reasons


@pytest.mark.parametrize("share", [219 / 255, 255 / 219])
def test_another_range_of_grain_is_found(share: float) -> None:
    """Grain without any large part that stands out: another range is seen there all the same."""
    random = np.random.default_rng(1)
    made, seen = [], []
    for _ in range(12):
        luma = random.integers(60, 180, (270, 480)).astype(np.float32)
        other = (luma - 120) * np.float32(share) + 120
        grey = np.full((135, 240), 128, np.uint8)
        made.append(sketch((luma.astype(np.uint8), grey, grey)))
        seen.append(sketch((np.clip(np.rint(other), 0, 255).astype(np.uint8), grey, grey)))
    verdict = compare_films(made, dict(enumerate(seen)), (480, 270))
    assert any("of the reel's contrast" in one for one in verdict.faults)


@pytest.mark.parametrize("shape", [(36, 64), (1080, 1920), (9252, 64), (9288, 64), (70, 90)])
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_block_sums_hold_the_brightest_picture(shape: tuple[int, int], dtype: type) -> None:
    """257 lines of white are the most that 16 bits hold."""
    most = int(np.iinfo(dtype).max)
    sums, each = block_sums(np.full(shape, most, dtype), 64, 36)
    assert (sums == most * each).all()
    assert each == (shape[0] // 36) * (shape[1] // 64)
