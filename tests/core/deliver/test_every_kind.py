"""Every codec in every container, with and without alpha: sealed, and what was asked for."""

from __future__ import annotations

import itertools
from pathlib import Path

import numpy as np
import pytest

from tests.making import write_sequence, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.av_open import open_media
from waxseal.core.deliver.codecs import CODECS, Codec, codec_named
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.format.delivery_settings import reel_target_of
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.frames.movies.pixel_planes import read_planes
from waxseal.core.job.edits import change_delivery, change_reading, take_in
from waxseal.core.job.model import (
    Alpha,
    Colour,
    DeliveryState,
    Grade,
    Graded,
    Job,
    Origin,
    Outcome,
    Sequence,
    Space,
)
from waxseal.core.picture.inspection.colour_path import trace
from waxseal.core.picture.inspection.pixel_sample import sample
from waxseal.core.picture.target import Layout
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.mp4_boxes import read_boxes

WIDE, TALL, COUNT = 288, 270, 6


@pytest.fixture(scope="module")
def clip(tmp_path_factory: pytest.TempPathFactory) -> Job:
    """A disc with a soft edge on nothing, with sound."""
    folder = tmp_path_factory.mktemp("clip")
    rows, columns = np.mgrid[0:TALL, 0:WIDE]
    (folder / "disc").mkdir()
    for number in range(1, COUNT + 1):
        values = np.zeros((TALL, WIDE, 4), np.uint8)
        values[..., 0] = columns * 255 // WIDE
        values[..., 1] = rows * 255 // TALL
        values[..., 2] = (columns + number * 9) % 256
        away = np.hypot(columns - 90 - number * 9, rows - TALL // 2)
        values[..., 3] = np.clip((70 - away) * 8, 0, 255)
        write_pixels(folder / "disc" / f"disc.{number:04}.png", values)
    write_tone(folder / "disc.wav", seconds=COUNT / 24, channels=2)
    job = take_in(Job(), sources=scan([folder]).sources, folder=str(folder))
    return change_reading(job, source="s1", alpha=Alpha.STRAIGHT)


def delivered(job: Job, folder: Path, codec: str, **fields: object) -> tuple[Outcome, Path]:
    space = codec_named(codec).usual_space
    fields = {"codec": codec, "folder": str(folder), "name": "file", "space": space, **fields}
    job = change_delivery(job, delivery="d1", **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    return outcome, path_of(job.deliveries[0])


KINDS = [
    pytest.param(codec.name, container, alpha, id=f"{codec.name} {container} {alpha}")
    for codec in CODECS.values()
    for container in codec.containers
    for alpha in (Alpha.NONE, *(codec.alphas if container in codec.clear_containers else ()))
]


@pytest.mark.parametrize(("codec", "container", "alpha"), KINDS)
def test_every_kind_is_made_and_sealed(
    clip: Job, tmp_path: Path, codec: str, container: str, alpha: Alpha
) -> None:
    outcome, path = delivered(clip, tmp_path, codec, container=container, alpha=alpha)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert path.is_dir() == (container == "frames")
    if container in ("MP4", "MOV"):
        boxes = read_boxes(path)
        assert boxes is not None
        assert [track.kind for track in boxes.tracks] == ["vide", "soun"]
    lost = [note for note in outcome.notes if "alpha" in note]
    assert bool(lost) == (alpha is Alpha.NONE)  # never in silence


# Of each container one kind; test_segments has each codec.
ONE_EACH = list({kind.values[1]: kind for kind in KINDS}.values())


@pytest.mark.parametrize(("codec", "container", "alpha"), ONE_EACH)
def test_the_same_delivery_has_the_same_bytes(
    clip: Job, tmp_path: Path, codec: str, container: str, alpha: Alpha
) -> None:
    sums = set()
    for name in ("one", "other"):
        (tmp_path / name).mkdir()
        fields = {"container": container, "alpha": alpha}
        sums.add(delivered(clip, tmp_path / name, codec, **fields)[0].sha256)
    assert len(sums) == 1


@pytest.mark.parametrize("space", [Space.SRGB, Space.BT709])
def test_png_frames_say_what_their_codes_are(clip: Job, tmp_path: Path, space: Space) -> None:
    outcome, path = delivered(clip, tmp_path, "PNG", space=space)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    (again,) = (one for one in scan([path]).sources if isinstance(one, Sequence))
    colours = {Space.SRGB: Colour.SRGB, Space.BT709: Colour.BT709}
    assert again.reading.colour.value is colours[space]
    assert again.reading.colour.origin is Origin.WRITTEN


@pytest.mark.parametrize("codec", ["PNG", "TIFF 8"])
def test_untouched_frames_go_out_with_the_same_codes_and_alpha(
    clip: Job, tmp_path: Path, codec: str
) -> None:
    outcome, folder = delivered(clip, tmp_path, codec, alpha=Alpha.STRAIGHT)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    files = clip.sequences[0].files
    frames = [one for one in sorted(folder.iterdir()) if one.suffix != ".wav"]
    for number, path in enumerate(frames, 1):
        ours, theirs = read_pixels(path).values, read_pixels(files.path_of(number)).values
        np.testing.assert_array_equal(ours, theirs)


@pytest.mark.parametrize(
    ("codec", "container", "away"),
    [
        ("PNG movie", "MOV", 0),
        ("run-length", "MOV", 0),
        ("FFV1 8", "MKV", 0),
        ("ProRes 4444", "MOV", 2),
    ],
)
def test_alpha_in_a_movie_is_the_frames_own(
    clip: Job, tmp_path: Path, codec: str, container: str, away: int
) -> None:
    _, path = delivered(clip, tmp_path, codec, container=container, alpha=Alpha.STRAIGHT)
    files = clip.sequences[0].files
    with open_media(path) as movie:
        for number, frame in enumerate(movie.decode(video=0), 1):
            kept = read_planes(frame)[3]
            theirs = read_pixels(files.path_of(number)).values[..., 3].astype(float)
            scale = 255 / 1023 if kept.dtype == np.uint16 else 1.0
            assert np.abs(kept * scale - theirs).max() <= away


@pytest.mark.parametrize(
    ("fields", "sentence"),
    [
        ({"codec": "H.264", "alpha": Alpha.STRAIGHT}, "H.264 carries no alpha"),
        ({"codec": "EXR", "alpha": Alpha.STRAIGHT}, "EXR keeps alpha premultiplied: choose that."),
        (
            {"codec": "VP9", "container": "MP4", "alpha": Alpha.STRAIGHT},
            "VP9 loses its alpha in MP4: choose WebM or MKV.",
        ),
        ({"codec": "H.264", "container": "WebM"}, "H.264 does not go into WebM: choose MP4"),
    ],
)
def test_what_cannot_go_together_is_refused_with_what_can(
    clip: Job, tmp_path: Path, fields: dict[str, object], sentence: str
) -> None:
    outcome, _ = delivered(clip, tmp_path, **fields)  # type: ignore[arg-type]
    assert outcome.state is DeliveryState.REFUSED
    assert outcome.reasons[0].startswith(sentence)


def test_mxf_takes_the_rates_of_broadcast_only(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "a", frames=range(1, 5), width=320, height=270)
    job = take_in(Job(), sources=scan([folder]).sources, folder=str(tmp_path))
    job = change_reading(job, source="s1", rate=12)
    outcome, _ = delivered(job, tmp_path, "DNxHR SQ", container="MXF")
    assert "MXF takes no 12 fps: choose one of 23.976, 24, 25" in outcome.reasons[0]


@pytest.mark.parametrize("codec", ["VP9", "AV1", "MJPEG", "JPEG"])
def test_a_better_grade_is_a_larger_file(clip: Job, tmp_path: Path, codec: str) -> None:
    sizes = []
    for grade in Grade:
        (tmp_path / grade).mkdir()
        outcome, _ = delivered(clip, tmp_path / grade, codec, quality=Graded(grade=grade))
        assert outcome.state is DeliveryState.SEALED, outcome.reasons
        sizes.append(outcome.size_bytes)
    assert sizes == sorted(sizes)


@pytest.mark.parametrize("codec", CODECS)
def test_a_pixel_of_every_kind_is_looked_at(clip: Job, codec: str) -> None:
    """What a delivery will hold at a pixel, and on which way it got there."""
    known = codec_named(codec)
    alpha = known.alphas[0] if known.alphas else Alpha.NONE
    job = change_delivery(
        *(clip,), delivery="d1", codec=codec, space=known.usual_space, alpha=alpha
    )
    target = reel_target_of(job.reel_size, job.deliveries[0])
    made = programme(job).recipe(1)
    pixel = sample(made, target).at(98, 134)  # in the middle of the disc
    assert pixel is not None
    seen = pixel.delivered
    assert len(seen) == 3 + target.has_alpha
    if target.has_alpha:
        most = 1 if target.layout is Layout.LIGHT else (1 << target.layout.depth) - 1
        assert seen[3] == most
    *_, last = trace(made, target).at(98, 134)
    assert last.words.startswith("delivered: ")
    assert ("full" in last.words) == (target.layout.is_rgb or codec == "MJPEG")


MOVIES = [one for one in CODECS.values() if any(CONTAINERS[name].format for name in one.containers)]
SAID = ("color_primaries", "color_trc", "colorspace")
NOTHING = 2  # unspecified, by ITU-T H.273


@pytest.mark.parametrize("codec", MOVIES, ids=lambda codec: codec.name)
def test_what_frames_and_container_say_of_the_colour_is_never_another(
    tmp_path: Path, codec: Codec
) -> None:
    """Two frames: so few that the library has nothing but the container to go by."""
    write_sequence(tmp_path / "a", frames=range(1, 3), width=256, height=256)
    job = take_in(Job(), sources=scan([tmp_path / "a"]).sources, folder=str(tmp_path))
    movies = [one for one in codec.containers if CONTAINERS[one].format]
    kinds = itertools.product(movies, {Space.P3, Space.PQ} & set(codec.spaces))
    for number, (container, space) in enumerate(kinds):
        fields = {"container": container, "space": space, "name": f"file{number}"}
        outcome, path = delivered(job, tmp_path, codec.name, **fields)
        trouble = CONTAINERS[container].colour_trouble(space, codec)
        if trouble:
            assert outcome.state is DeliveryState.REFUSED
            assert trouble in outcome.reasons
            continue
        assert outcome.state is DeliveryState.SEALED, (fields, outcome.reasons)
        tags = CONTAINERS[container].tags_of(codec, space)
        with open_media(path) as movie:
            stream = movie.streams.video[0]
            told = [[int(getattr(stream.codec_context, one)) for one in SAID]]
            told += [[int(getattr(one, name)) for name in SAID] for one in movie.decode(stream)]
        assert len(told) == 3
        for all_three in told:
            for one, meant in zip(all_three, tags, strict=False):
                assert one in (NOTHING, meant), (fields, told, tags)
        heard = [max(set(one) - {NOTHING}, default=NOTHING) for one in zip(*told, strict=True)]
        assert heard == list(tags[:3]) or heard[2] == NOTHING, (fields, told)


def test_a_colour_that_a_file_cannot_say_is_refused_before_the_first_frame() -> None:
    mxf, mov = CONTAINERS["MXF"], CONTAINERS["MOV"]
    dnxhr, prores = codec_named("DNxHR HQX"), codec_named("ProRes HQ")
    assert mxf.colour_trouble(Space.P3, dnxhr) == (
        "DNxHR HQX in MXF cannot say that its colour is Display P3: choose MOV, "
        "or one of sRGB, BT.709, BT.2020 PQ, BT.2020 HLG."
    )
    assert mxf.colour_trouble(Space.P3, prores) == "", "its frames say it"
    assert mov.colour_trouble(Space.P3, dnxhr) == ""


def test_what_is_opaque_in_prores_is_wholly_opaque(tmp_path: Path) -> None:
    """And odd widths are taken. Of the libraries' two encoders only one does either."""
    (tmp_path / "a").mkdir()
    values = np.full((90, 161, 4), 255, np.uint8)
    write_pixels(tmp_path / "a" / "a.0001.png", values)
    job = take_in(Job(), sources=scan([tmp_path / "a"]).sources, folder=str(tmp_path))
    for alpha in (Alpha.STRAIGHT, Alpha.NONE):
        outcome, path = delivered(job, tmp_path, "ProRes 4444", alpha=alpha, name=alpha.name)
        assert outcome.state is DeliveryState.SEALED, outcome.reasons
        with open_media(path) as movie:
            frame = next(movie.decode(video=0))
        assert len(frame.planes) == (4 if alpha is Alpha.STRAIGHT else 3)
        if alpha is Alpha.STRAIGHT:
            plane = frame.planes[3]
            lines = np.frombuffer(memoryview(plane), np.uint16).reshape(plane.height, -1)
            assert set(lines[:, : plane.width].flat) == {4095}  # 12 bits, as its decoder gives them
