"""Deliveries whose pixels are not square: squeezed when made, tagged, and judged."""

from __future__ import annotations

import io
import struct
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import OpenImageIO as oiio
import pytest
from pymediainfo import MediaInfo

from tests.making import job_of
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.codecs import CODECS
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.format.delivery_settings import target_of
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.match import State, match
from waxseal.core.deliver.preview.delivery_preview import make_poster
from waxseal.core.deliver.preview.file_view import FileView
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.specs.apply_spec import file_troubles, spec_from, spec_troubles
from waxseal.core.deliver.specs.spec import Spec
from waxseal.core.deliver.specs.spec_book import write_spec
from waxseal.core.errors import JobError
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.frames.headers import look
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import (
    Delivery,
    DeliveryState,
    Framing,
    Job,
    Outcome,
    Sequence,
    Size,
    Space,
    Subject,
    change,
    make,
)
from waxseal.core.picture.framing import Box
from waxseal.core.picture.pixel_shape import around_subject
from waxseal.core.plan.programme import programme
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.measure_movie import measure_movie
from waxseal.core.seal.record import check, read_seal

SHAPE = Fraction(64, 45)
WIDE, TALL = 512, 288
MIDDLE, RADIUS = (256, 144), 100


@pytest.fixture(scope="module")
def reel(tmp_path_factory: pytest.TempPathFactory) -> Job:
    """A white disc in a frame of 512 × 288, seen in square pixels; four frames at 25 fps."""
    folder = tmp_path_factory.mktemp("disc") / "disc"
    folder.mkdir()
    down, across = np.mgrid[:TALL, :WIDE]
    distance = np.hypot(across + 0.5 - MIDDLE[0], down + 0.5 - MIDDLE[1])
    edge = np.clip(RADIUS + 0.5 - distance, 0, 1)
    for number in range(1, 5):
        values = np.repeat((edge * (250 - number) + 4)[..., None], 3, axis=2)
        write_pixels(folder / f"disc.{number:04}.png", values.astype(np.uint8))
    return job_of(folder)


def delivered(job: Job, folder: Path, **fields: object) -> tuple[Outcome, Path]:
    fields = {"pixel_shape": SHAPE, "folder": str(folder), **fields}
    job = change_delivery(job, delivery="d1", **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    return outcome, path_of(job.deliveries[0])


def first_frame(path: Path) -> np.ndarray:
    with av.open(str(path)) as file:
        return next(file.decode(video=0)).to_ndarray(format="rgb24")


def sides(values: np.ndarray) -> tuple[int, int]:
    """How wide and how high what is white is, through its middle."""
    white = values[..., 0] > 128
    return int(white[white.shape[0] // 2].sum()), int(white[:, white.shape[1] // 2].sum())


@pytest.mark.parametrize(
    ("codec", "container"),
    [
        *(("H.264", "MP4"), ("H.265", "MP4"), ("AV1", "MP4"), ("VP9", "MP4")),
        *(("ProRes 422", "MOV"), ("DNxHR HQ", "MOV"), ("PNG movie", "MOV"), ("MJPEG", "MOV")),
    ],
)
def test_a_disc_is_round_again_where_the_file_says_its_pixel_shape(
    reel: Job, tmp_path: Path, codec: str, container: str
) -> None:
    outcome, path = delivered(reel, tmp_path, codec=codec, container=container)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert "The pixels are 64:45: 360 × 288 pixels are seen as 512 × 288." in outcome.notes
    values = first_frame(path)
    assert values.shape[:2] == (288, 360)
    across, down = sides(values)
    assert across * SHAPE == pytest.approx(2 * RADIUS, abs=3)
    assert down == pytest.approx(2 * RADIUS, abs=2)
    (picture,) = (one for one in MediaInfo.parse(path).tracks if one.track_type == "Video")
    assert float(picture.pixel_aspect_ratio) == pytest.approx(float(SHAPE), abs=1e-3)
    record = read_seal(path)
    assert record is not None
    assert record["pixel_shape"] == "64/45"
    assert check(path).state is DeliveryState.SEALED


def test_the_file_comes_in_again_as_it_is_seen(reel: Job, tmp_path: Path) -> None:
    _, path = delivered(reel, tmp_path, codec="PNG movie", container="MOV")
    (source,) = scan([path]).sources
    assert isinstance(source, Sequence)
    assert source.shown_size == Size(width=WIDE, height=TALL)


def test_squeezed_pixels_are_those_of_a_library_s_resize(reel: Job, tmp_path: Path) -> None:
    """In light, as scaling is done here; OpenCV's area filter is another, so by the mean."""
    _, path = delivered(reel, tmp_path, codec="PNG movie", container="MOV")
    codes = read_pixels(reel.sequences[0].files.path_of(1)).values[..., :3].astype(np.float64) / 255
    light = np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)
    small = np.clip(cv2.resize(light, (360, 288), interpolation=cv2.INTER_AREA), 0, 1)
    shown = np.where(small <= 0.0031308, small * 12.92, 1.055 * small ** (1 / 2.4) - 0.055) * 255
    apart = np.abs(first_frame(path).astype(np.float64) - shown)
    assert apart.mean() < 1.0


# By hand: what is seen is 320 × 180 in the first three, kept in 240 × 180 pixels of 4:3.
@pytest.mark.parametrize(
    ("reel_size", "size", "framing", "box"),
    [
        ((320, 180), None, Framing.FIT, (0, 0, 240, 180)),
        ((180, 180), (240, 180), Framing.FIT, (52, 0, 136, 180)),  # 52.5 to 187.5, even for chroma
        ((320, 320), (240, 180), Framing.FILL, (0, -70, 240, 320)),
        ((320, 180), (240, 240), Framing.STRETCH, (0, 0, 240, 240)),
        ((640, 360), (240, 180), Framing.FIT, (0, 0, 240, 180)),
    ],
)
def test_the_reel_is_framed_as_it_is_seen(
    reel: Job,
    reel_size: tuple[int, int],
    size: tuple[int, int] | None,
    framing: Framing,
    box: tuple[int, int, int, int],
) -> None:
    own = Size(width=size[0], height=size[1]) if size else None
    job = change_delivery(
        reel, delivery="d1", size=own, framing=framing, pixel_shape=Fraction(4, 3)
    )
    whole = Size(width=reel_size[0], height=reel_size[1])
    target = target_of(whole, job.deliveries[0])
    assert target.is_stretched
    assert (target.placed or Box(0, 0, target.width, target.height)) == Box(*box)


def test_what_is_kept_of_a_shot_is_kept_of_what_is_seen(reel: Job) -> None:
    """320 × 320 in 240 × 180 of 4:3: its upper edge when the subject is there."""
    size = Size(width=240, height=180)
    job = change_delivery(
        reel, delivery="d1", size=size, framing=Framing.FILL, pixel_shape=Fraction(4, 3)
    )
    target = target_of(Size(width=320, height=320), job.deliveries[0])
    assert target.placed is not None
    assert around_subject(target, target.placed, Subject(x=0.5, y=0.0)) == Box(0, 0, 240, 320)


def test_ground_and_picture_in_a_squeezed_frame(reel: Job, tmp_path: Path) -> None:
    """512 × 288 seen as a whole in 360 × 360 of 64:45: seen 512 × 360, so 36 rows of ground."""
    outcome, path = delivered(
        *(reel, tmp_path), codec="PNG movie", container="MOV", size=Size(width=360, height=360)
    )
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    values = first_frame(path)
    assert (values[:36] == 0).all()
    assert (values[-36:] == 0).all()
    assert values[36:-36, :20].min() > 0
    across, down = sides(values)
    assert across * SHAPE == pytest.approx(down, abs=3)


def test_exr_frames_say_it_too(reel: Job, tmp_path: Path) -> None:
    outcome, folder = delivered(reel, tmp_path, codec="EXR", space=Space.LINEAR)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    for path in folder.glob("*.exr"):
        picture = oiio.ImageBuf(str(path))
        assert picture.spec().getattribute("PixelAspectRatio") == pytest.approx(float(SHAPE))
        assert (picture.spec().width, picture.spec().height) == (360, 288)


@pytest.mark.parametrize("codec", ["EXR", "DPX"])
def test_another_shape_of_the_same_pixels_is_written_anew(
    reel: Job, tmp_path: Path, codec: str
) -> None:
    """Stretched into the same size, the pictures are the same; what was kept says another shape."""
    same: dict[str, object] = {
        "codec": codec,
        "size": Size(width=360, height=288),
        "framing": Framing.STRETCH,
    }
    if codec == "EXR":
        same["space"] = Space.LINEAR
    for shape in (SHAPE, Fraction(4, 3), Fraction(1)):
        place = tmp_path / f"{float(shape):.2f}"
        place.mkdir()
        outcome, folder = delivered(reel, place, pixel_shape=shape, **same)
        assert outcome.state is DeliveryState.SEALED, outcome.reasons
        for path in (one for one in folder.iterdir() if one.suffix in (".exr", ".dpx")):
            assert (look(path).pixel_shape or 1) == shape


def order_of(head: bytes) -> str:
    """Of the bytes in a DPX. SMPTE ST 268-1: the magic number is read in both orders."""
    return {b"SDPX": ">", b"XPDS": "<"}[head[:4]]


def test_dpx_frames_say_it_too(reel: Job, tmp_path: Path) -> None:
    """By two whole numbers, which another library reads as their quotient."""
    outcome, folder = delivered(reel, tmp_path, codec="DPX")
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    paths = list(folder.glob("*.dpx"))
    assert len(paths) == 4
    for path in paths:
        head = path.read_bytes()[:2048]
        assert struct.unpack(order_of(head) + "2I", head[1628:1636]) == (64, 45)
        spec = oiio.ImageBuf(str(path)).spec()
        assert spec.getattribute("PixelAspectRatio") == pytest.approx(float(SHAPE))
        across, down = sides(read_pixels(path).values >> 8)
        assert across * SHAPE == pytest.approx(down, abs=3)
    (source,) = scan([folder]).sources
    assert isinstance(source, Sequence)
    assert source.shown_size == Size(width=WIDE, height=TALL)
    with paths[0].open("r+b") as file:
        order = order_of(file.read(4))
        file.seek(1628)
        file.write(struct.pack(order + "2I", 1, 1))
    broken = check(folder)
    assert broken.state is DeliveryState.SEAL_BROKEN, broken.reasons


@pytest.mark.parametrize(
    ("codec", "container"), [("H.264", "MKV"), ("VP9", "WebM"), ("MJPEG", "AVI"), ("PNG", "frames")]
)
def test_what_cannot_say_it_is_refused_and_says_why(
    reel: Job, tmp_path: Path, codec: str, container: str
) -> None:
    outcome, path = delivered(reel, tmp_path, codec=codec, container=container)
    assert outcome.state is DeliveryState.REFUSED
    assert any("which shape its pixels have: choose MP4, MOV" in one for one in outcome.reasons)
    assert not path.exists()
    with pytest.raises(JobError, match="which shape its pixels have"):
        make(
            *(Spec,),
            name="x",
            purpose="to be kept",
            codec=codec,
            container=container,
            pixel_shape="64:45",
        )


def test_a_shape_that_no_file_says_exactly_is_refused(reel: Job, tmp_path: Path) -> None:
    fine = Fraction(100_001, 90_000)
    outcome, _ = delivered(reel, tmp_path, pixel_shape=fine)
    assert any("cannot be said exactly" in one for one in outcome.reasons)
    frames, exr = CONTAINERS["frames"], CODECS["EXR"]
    assert frames.pixel_shape_trouble(Fraction(201, 200), exr)
    assert not frames.pixel_shape_trouble(SHAPE, exr)


def test_the_match_table_says_what_is_done(reel: Job) -> None:
    job = change_delivery(reel, delivery="d1", pixel_shape=SHAPE)
    rows = {row.what: row for row in match(programme(job), job.deliveries[0])}
    shape = rows["pixel shape"]
    assert (shape.sources, shape.reel, shape.file) == ("1", "1", "64:45")
    assert shape.done == "stored as 360 × 288, seen as 512 × 288"
    assert shape.state is State.CHANGED
    assert rows["size"].file == "360 × 288"
    assert rows["size"].state is State.SAME


def test_a_spec_wants_a_pixel_shape(reel: Job) -> None:
    spec = make(
        *(Spec,),
        name="old wide",
        purpose="to be looked at",
        codec="H.264",
        sizes=("1440x1080", "360x288"),
        shapes=("16:9",),
        pixel_shape="64:45",
    )
    timeline = timeline_of(reel)
    settings = spec.settings(timeline)
    assert settings["pixel_shape"] == SHAPE
    assert settings["size"] is None  # narrowed it is one of them
    job = change_delivery(reel, delivery="d1", **settings)
    assert not list(spec_troubles(spec, timeline, job.deliveries[0]))
    square = change(job.deliveries[0], pixel_shape=Fraction(1), size=Size(width=360, height=288))
    assert "old wide wants the pixel shape 64:45, not square." in spec_troubles(
        spec, timeline, square
    )
    again = spec_from(job.deliveries[0], "again")
    assert again.pixel_shape == SHAPE
    assert 'pixel_shape = "64:45"' in write_spec(again)
    assert "pixels 64:45" in again.gives()


def test_a_file_is_held_to_a_spec_s_pixel_shape(reel: Job, tmp_path: Path) -> None:
    _, path = delivered(reel, tmp_path)
    spec = make(Spec, name="old wide", purpose="to be looked at", codec="H.264")
    told = "old wide wants the pixel shape square, not 64:45."
    assert told in file_troubles(spec, measure_movie(path), ".mp4")
    wide = change(spec, pixel_shape=SHAPE)
    assert not [one for one in file_troubles(wide, measure_movie(path), ".mp4") if "shape" in one]


def test_a_poster_is_in_square_pixels(reel: Job, tmp_path: Path) -> None:
    job = change_delivery(reel, delivery="d1", pixel_shape=SHAPE, folder=str(tmp_path))
    values = read_pixels(make_poster(job, job.deliveries[0], 1)).values
    assert values.shape[:2] == (TALL, WIDE)


def test_it_is_looked_at_as_it_is_seen(reel: Job) -> None:
    job = change_delivery(reel, delivery="d1", pixel_shape=SHAPE)
    beside = FileView(programme(job), job.deliveries[0], None)
    assert beside.size == Size(width=WIDE, height=TALL)


def test_square_pixels_leave_keys_and_bytes_as_they_were(reel: Job, tmp_path: Path) -> None:
    delivery = reel.deliveries[0]
    assert isinstance(delivery, Delivery)
    assert change(delivery, pixel_shape=Fraction(1)).key == delivery.key
    assert change(delivery, pixel_shape=SHAPE).key != delivery.key
    _, path = delivered(reel, tmp_path, pixel_shape=Fraction(1))
    record = read_seal(path)
    assert record is not None
    assert "pixel_shape" not in record
    assert b"pasp" not in io.BytesIO(path.read_bytes()).getvalue()
