"""Delivered files of every kind read by MediaInfo, OpenCV and OpenImageIO, which are not ours."""

from __future__ import annotations

import os
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
import OpenImageIO as oiio
import pytest
import soundfile
from pymediainfo import MediaInfo

from tests.making import number_in, numbered, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.codecs import codec_named
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery, change_reading, take_in
from waxseal.core.job.model import Alpha, Colour, DeliveryState, Job, Sequence, Space
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.record import check

COUNT = 12


@pytest.fixture(scope="module")
def reel(tmp_path_factory: pytest.TempPathFactory) -> Job:
    """Frames with their numbers in them, clear below the middle; 25 fps; stereo sound."""
    folder = tmp_path_factory.mktemp("reel")
    (folder / "a").mkdir()
    for number in range(1, COUNT + 1):
        values = np.zeros((270, 480, 4), np.uint8)
        values[:180, :320] = numbered(number)
        values[:180, :320, 3] = 255
        write_pixels(folder / "a" / f"a.{number:04}.png", values)
    write_tone(folder / "a.wav", seconds=COUNT / 25, channels=2)
    job = take_in(Job(), sources=scan([folder]).sources, folder=str(folder))
    return change_reading(job, source="s1", rate=25, alpha=Alpha.STRAIGHT)


def delivered(job: Job, folder: Path, codec: str, **fields: object) -> Path:
    space = codec_named(codec).usual_space
    job = change_delivery(
        job, delivery="d1", **{"codec": codec, "folder": str(folder), "space": space, **fields}
    )
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return path_of(job.deliveries[0])


# MediaInfo's names: of the container, the pictures, the sound.
@pytest.mark.parametrize(
    ("codec", "container", "names"),
    [
        ("H.264", "MOV", ("MPEG-4", "AVC", "PCM")),
        ("H.264", "MKV", ("Matroska", "AVC", "FLAC")),
        ("H.265", "MKV", ("Matroska", "HEVC", "FLAC")),
        ("VP9", "WebM", ("WebM", "VP9", "Opus")),
        ("AV1", "MP4", ("MPEG-4", "AV1", "AAC")),
        ("AV1", "WebM", ("WebM", "AV1", "Opus")),
        ("MJPEG", "AVI", ("AVI", "JPEG", "PCM")),
        ("ProRes HQ", "MOV", ("MPEG-4", "ProRes", "PCM")),
        ("ProRes 422", "MXF", ("MXF", "ProRes", "PCM")),
        ("DNxHR HQX", "MOV", ("MPEG-4", "VC-3", "PCM")),
        ("DNxHR SQ", "MXF", ("MXF", "VC-3", "PCM")),
        ("FFV1", "MKV", ("Matroska", "FFV1", "FLAC")),
        ("PNG movie", "MOV", ("MPEG-4", "PNG", "PCM")),
        ("run-length", "MOV", ("MPEG-4", "RLE", "PCM")),
    ],
)
def test_what_mediainfo_says(
    reel: Job, tmp_path: Path, codec: str, container: str, names: tuple[str, str, str]
) -> None:
    facts = MediaInfo.parse(delivered(reel, tmp_path, codec, container=container))
    (general,), (video,) = facts.general_tracks, facts.video_tracks
    (audio,) = facts.audio_tracks
    assert (general.format, video.format, audio.format) == names
    assert (video.width, video.height) == (480, 270)
    assert float(video.frame_rate) == pytest.approx(25)
    assert (audio.channel_s, audio.sampling_rate) == (2, 48_000)


@pytest.mark.parametrize(
    ("codec", "container"),
    [
        *(("H.264", "MKV"), ("VP9", "WebM"), ("MJPEG", "AVI"), ("ProRes HQ", "MOV")),
        *(("DNxHR HQ", "MXF"), ("FFV1 8", "MKV"), ("PNG movie", "MOV"), ("run-length", "MOV")),
    ],
)
def test_opencv_finds_every_frame_in_its_place(
    reel: Job, tmp_path: Path, codec: str, container: str
) -> None:
    movie = cv2.VideoCapture(os.fspath(delivered(reel, tmp_path, codec, container=container)))
    numbers = []
    while True:
        is_there, frame = movie.read()
        if not is_there:
            break
        numbers.append(number_in(frame[:180, :320, ::-1]))
    movie.release()
    assert numbers == list(range(1, COUNT + 1))


@pytest.mark.parametrize(
    ("codec", "suffix", "kind"),
    [
        ("PNG", ".png", "uint8"),
        ("PNG 16", ".png", "uint16"),
        ("TIFF", ".tif", "uint16"),
        ("DPX", ".dpx", "uint16"),
        ("JPEG", ".jpg", "uint8"),
        ("EXR", ".exr", "half"),
    ],
)
def test_openimageio_reads_the_frames(
    reel: Job, tmp_path: Path, codec: str, suffix: str, kind: str
) -> None:
    alphas = codec_named(codec).alphas
    alpha = alphas[0] if alphas else Alpha.NONE
    there = sorted(delivered(reel, tmp_path, codec, alpha=alpha).iterdir())
    sounds = [path for path in there if path.suffix == ".wav"]
    assert [soundfile.info(path).subtype for path in sounds] == ["PCM_24"]
    files = [path for path in there if path not in sounds]
    assert [path.suffix for path in files] == [suffix] * COUNT
    pixels = oiio.ImageBuf(str(files[4]))
    spec = pixels.spec()
    assert (spec.width, spec.height, str(spec.format)) == (480, 270, kind)
    assert spec.nchannels == (4 if alpha is not Alpha.NONE else 3)
    if codec == "DPX":
        assert spec["oiio:BitsPerSample"] == 10
        assert spec["dpx:FrameRate"] == pytest.approx(25)
        assert str(tmp_path) not in files[4].read_bytes()[:768].decode("latin-1")
    if codec == "PNG":
        codes = np.asarray(pixels.get_pixels(oiio.UINT8))
        assert number_in(codes[:180, :320, :3]) == 5
        np.testing.assert_array_equal(codes[200:, :, 3], 0)


def test_mediainfo_sees_the_alpha_of_webm(reel: Job, tmp_path: Path) -> None:
    """Its name for the mode that browsers look for: AlphaMode 1 of the Matroska specification."""
    path = delivered(reel, tmp_path, "VP9", container="WebM", alpha=Alpha.STRAIGHT)
    raw = path.read_bytes()
    assert b"\x53\xc0\x81\x01" in raw  # AlphaMode, one byte, 1


def test_opencv_reads_an_animated_png_bit_for_bit(reel: Job, tmp_path: Path) -> None:
    """W3C, Portable Network Graphics, third edition: APNG, read by OpenCV's own decoder."""
    path = delivered(reel, tmp_path, "animated PNG", alpha=Alpha.STRAIGHT)
    ok, animation = cv2.imreadanimation(str(path))
    assert ok
    assert len(animation.frames) == COUNT
    assert list(animation.durations) == [40] * COUNT  # milliseconds, at 25 fps
    for number, frame in enumerate(animation.frames, 1):
        source = cv2.imread(reel.sequences[0].files.path_of(number), cv2.IMREAD_UNCHANGED)
        assert source is not None
        clear = source[..., 3] == 0  # what is clear has no colour there
        np.testing.assert_array_equal(frame[..., 3], source[..., 3])
        np.testing.assert_array_equal(frame[~clear], source[~clear])


@pytest.mark.parametrize("rate", [Fraction(24), Fraction(30_000, 1001), Fraction(12)])
def test_an_animated_png_says_its_rate_exactly(reel: Job, tmp_path: Path, rate: Fraction) -> None:
    path = delivered(reel, tmp_path, "animated PNG", rate=rate)
    checked = check(path)
    assert checked.state is DeliveryState.SEALED
    assert checked.measured is not None
    assert checked.measured.rate == rate
    assert checked.measured.sound is None


def test_a_rate_that_an_animated_png_cannot_say_is_refused_before(
    reel: Job, tmp_path: Path
) -> None:
    fields = {"codec": "animated PNG", "folder": str(tmp_path), "rate": Fraction(100_000, 4167)}
    job = change_delivery(reel, delivery="d1", **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.REFUSED
    assert "APNG cannot say 100000/4167 fps exactly" in outcome.reasons[0]


def test_a_dpx_of_bt709_says_its_transfer(reel: Job, tmp_path: Path) -> None:
    """SMPTE ST 268-1, from memory: transfer and colorimetric at 801 and 802, 6 is BT.709."""
    folder = delivered(reel, tmp_path, "DPX", space=Space.BT709)
    head = next(one for one in sorted(folder.iterdir()) if one.suffix == ".dpx").read_bytes()
    assert (head[801], head[802]) == (6, 6)
    (source,) = [one for one in scan([folder]).sources if isinstance(one, Sequence)]
    assert source.reading.colour.value is Colour.BT709
