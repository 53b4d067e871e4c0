"""Delivered files and read frames against readers and writers that are not our code."""

from __future__ import annotations

import subprocess
from base64 import b64decode, b64encode
from fractions import Fraction
from pathlib import Path

import fileseq
import numpy as np
import OpenEXR
import pytest
import soundfile
import tifffile
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat
from pymediainfo import MediaInfo
from skimage.metrics import peak_signal_noise_ratio, structural_similarity

from tests.making import gradient, job_of, write_sequence, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_reading, set_reel_size
from waxseal.core.job.model import Alpha, Colour, DeliveryState, Job, Sequence, Size
from waxseal.core.picture.make import make
from waxseal.core.picture.scale_weights import weights
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import recipe
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.likeness import psnr, ssim
from waxseal.core.seal.signing import is_genuine, signer_of


def delivered(job: Job) -> Path:
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return path_of(job.deliveries[0])


@pytest.fixture
def film(tmp_path: Path) -> Path:
    write_tone(tmp_path / "frames" / "tone.wav", seconds=2)
    folder = write_sequence(tmp_path / "frames", frames=range(1, 49), width=320, height=180)
    return delivered(change_reading(job_of(folder), source="s1", rate=Fraction(24_000, 1001)))


def test_mediainfo_reads_what_was_ordered(film: Path) -> None:
    tracks = {track.track_type: track for track in MediaInfo.parse(film).tracks}
    video, audio = tracks["Video"], tracks["Audio"]
    assert (video.format, video.format_profile.split("@")[0]) == ("AVC", "High")
    assert (video.width, video.height, int(video.frame_count)) == (320, 180, 48)
    assert Fraction(int(video.framerate_num), int(video.framerate_den)) == Fraction(24_000, 1001)
    assert video.frame_rate_mode == "CFR"
    # ITU-T H.273: primaries, transfer and matrix 1 are BT.709.
    assert (video.color_primaries, video.transfer_characteristics, video.matrix_coefficients) == (
        "BT.709",
        "BT.709",
        "BT.709",
    )
    assert video.color_range == "Limited"
    assert (video.chroma_subsampling, int(video.bit_depth)) == ("4:2:0", 8)
    assert (audio.format, audio.sampling_rate, audio.channel_s) == ("AAC", 48_000, 2)
    assert int(audio.duration) == pytest.approx(48 * 1001 / 24, abs=1)


def test_the_index_stands_before_the_pictures(film: Path) -> None:
    """ISO/IEC 14496-12: for progressive download moov comes before mdat."""
    content = film.read_bytes()
    assert content.index(b"moov") < content.index(b"mdat")


def test_the_level_is_that_of_annex_a(film: Path, tmp_path: Path) -> None:
    """ITU-T H.264, Table A-1, from memory: 1280 × 720 at 30 fits 3.1, 1920 × 1080 at 25 fits 4."""
    for size, rate, level in (((1280, 720), 30, "L3.1"), ((1920, 1080), 25, "L4")):
        folder = write_sequence(
            tmp_path / level / "f", frames=range(1, 4), width=size[0], height=size[1]
        )
        job = change_reading(job_of(folder), source="s1", rate=Fraction(rate))
        (video,) = MediaInfo.parse(delivered(job)).video_tracks
        assert video.format_profile == f"High@{level}"


def test_clicks_in_the_sound_stay_on_their_frame(tmp_path: Path) -> None:
    """The picture's bar and the sound's click are at the same second in the file."""
    import av

    folder = write_sequence(tmp_path / "frames", frames=range(1, 49), width=64, height=36)
    samples = np.zeros((96_000, 2), np.float32)
    samples[48_000 - 10 : 48_000 + 10] = 0.9
    soundfile.write(folder / "click.wav", samples, 48_000)
    film = delivered(job_of(folder))
    heard = []
    with av.open(str(film)) as container:
        for frame in container.decode(audio=0):
            values = np.abs(frame.to_ndarray()[0])
            if values.max() > 0.3:
                heard.append((frame.time or 0) + int(values.argmax()) / 48_000)
    assert heard[0] == pytest.approx(1.0, abs=0.001)


# ---- frames --------------------------------------------------------------------------------


def only(folder: Path) -> Sequence:
    (source,) = scan([folder]).sources
    assert isinstance(source, Sequence)
    return source


def test_exr_of_the_openexr_package(tmp_path: Path) -> None:
    """OpenEXR's own conventions: associated alpha, framesPerSecond, scene-linear."""
    values = gradient(3, dtype="float16", channels=4)
    header = {
        "compression": OpenEXR.PIZ_COMPRESSION,
        "type": OpenEXR.scanlineimage,
    }
    with OpenEXR.File(header, {"RGBA": values}) as file:
        file.write(str(tmp_path / "a.0001.exr"))
    source = only(tmp_path)
    assert source.reading.alpha.value is Alpha.PREMULTIPLIED
    assert source.reading.colour.value is Colour.LINEAR
    np.testing.assert_array_equal(read_pixels(tmp_path / "a.0001.exr").values, values)


def test_our_exr_is_read_by_the_openexr_package(tmp_path: Path) -> None:
    values = gradient(3, dtype="float16", channels=4)
    write_pixels(tmp_path / "a.exr", values, rate=Fraction(24_000, 1001))
    with OpenEXR.File(str(tmp_path / "a.exr")) as file:
        rate = file.header()["framesPerSecond"]
        assert Fraction(rate) == Fraction(24_000, 1001)
        np.testing.assert_array_equal(file.channels()["RGBA"].pixels, values)


@pytest.mark.parametrize("compression", [None, "deflate", "lzw"])
@pytest.mark.parametrize("dtype", ["uint8", "uint16"])
def test_tiff_of_tifffile(tmp_path: Path, dtype: str, compression: str | None) -> None:
    values = gradient(3, dtype=dtype)
    try:
        tifffile.imwrite(tmp_path / "a.0001.tif", values, compression=compression)
    except (ValueError, KeyError, ImportError):
        assert compression == "lzw"  # tifffile writes LZW only with a codec package beside it
        write_pixels(tmp_path / "a.0001.tif", values, compression="lzw")
    source = only(tmp_path)
    assert source.found.depth == dtype
    np.testing.assert_array_equal(read_pixels(tmp_path / "a.0001.tif").values, values)


def test_our_tiff_is_read_by_tifffile(tmp_path: Path) -> None:
    values = gradient(3, dtype="uint16", channels=4)
    write_pixels(tmp_path / "a.tif", values, compression="none")
    np.testing.assert_array_equal(tifffile.imread(tmp_path / "a.tif"), values)


def test_sequences_are_those_that_fileseq_finds(tmp_path: Path) -> None:
    write_sequence(tmp_path, "a.%04d.png", frames=range(1, 30, 3))
    write_sequence(tmp_path, "b_%03d.png", frames=range(95, 105))
    ours = {
        (source.files.prefix, source.files.padding, source.files.count)
        for source in scan([tmp_path]).sources
        if isinstance(source, Sequence)
    }
    theirs = {
        (found.basename(), found.zfill(), len(found))
        for found in fileseq.findSequencesOnDisk(str(tmp_path))
    }
    assert ours == theirs


# ---- pictures ------------------------------------------------------------------------------


def test_psnr_against_scikit_image() -> None:
    random = np.random.default_rng(4)
    one = random.integers(0, 256, (36, 64), np.uint8)
    other = np.clip(one + random.normal(0, 4, one.shape), 0, 255).astype(np.uint8)
    reference = peak_signal_noise_ratio(one, other, data_range=255)
    assert psnr(one, other) == pytest.approx(reference, abs=1e-3)


@pytest.mark.parametrize("noise", [0, 2, 20])
def test_ssim_against_scikit_image(noise: float) -> None:
    """The window of Wang et al. 2004, by scikit-image; ten bits count as eight."""
    random = np.random.default_rng(4)
    one = (np.linspace(0, 1, 200)[None, :] * np.linspace(80, 250, 90)[:, None]).astype(np.uint8)
    other = np.clip(one + random.normal(0, noise, one.shape), 0, 255).astype(np.uint8)
    reference = structural_similarity(
        one, other, data_range=255, gaussian_weights=True, sigma=1.5, use_sample_covariance=False
    )
    assert ssim(one, other) == pytest.approx(reference, abs=2e-4)
    ten = (one.astype(np.uint16) * 4, other.astype(np.uint16) * 4)
    assert ssim(*ten) == pytest.approx(reference, abs=2e-4)


def test_a_delivered_frame_is_like_its_source(film: Path) -> None:
    """SSIM by scikit-image, of what an independent process decodes."""
    import av

    with av.open(str(film)) as container:
        first = next(container.decode(video=0)).to_ndarray(format="gray")
    folder = film.parent.parent / "frames"
    picture = make(recipe(job_of(folder), 1), Target(320, 180, Layout.YUV420)).planes[0]
    limited = (picture.astype(float) - 16) / 219
    seen = first.astype(float) / 255
    if seen.min() > 0.05:
        seen = (first.astype(float) - 16) / 219
    assert structural_similarity(limited, seen, data_range=1.0) > 0.97


def test_scaling_against_a_float64_reference(tmp_path: Path) -> None:
    """The same Lanczos weights applied in float64 as dense matrices."""
    values = np.random.default_rng(6).random((60, 90, 3)).astype(np.float16)
    (tmp_path / "frames").mkdir()
    write_pixels(tmp_path / "frames" / "a.exr", values)
    job = set_reel_size(job_of(tmp_path / "frames"), size=Size(width=45, height=30))
    screen = make(recipe(job, 1), Target(45, 30, Layout.SCREEN)).planes[0][..., 2::-1]

    def dense(length: int, to: int) -> np.ndarray:
        made = weights(length, to=to, first=0, last=to - 1)
        matrix = np.zeros((to, length))
        for row, start in enumerate(made.starts):
            matrix[row, start : start + made.values.shape[1]] += made.values[row]
        return matrix

    light = np.einsum("ai,ijc,bj->abc", dense(60, 30), values.astype(float), dense(90, 45))
    light = np.clip(light, 0, 1)
    encoded = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    assert np.abs(screen - encoded * 255).max() <= 0.6


def test_the_seal_s_checksum_is_that_of_sha256sum(film: Path) -> None:
    import json

    record = json.loads((film.parent / f"{film.name}.seal.json").read_text())
    done = subprocess.run(["sha256sum", str(film)], capture_output=True, text=True, check=True)
    assert done.stdout.split()[0] == record["sha256"]


def test_signatures_against_rfc_8032() -> None:
    """Source: RFC 8032, 7.1, TEST 2 (a message of one byte)."""
    secret = bytes.fromhex("4ccd089b28ff96da9db6c346ec114e0f5b8a319f35aba624da8cf6ed4fb8a6fb")
    public = bytes.fromhex("3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c")
    signature = bytes.fromhex(
        "92a009a9f0d4cab8720e820b5f642540a2b27b5416503f8fb3762223ebdb69da"
        "085ac1e43e15996e458f3613d0f11d8c387b2eaeb4302aeeb00d291612bb0c00"
    )
    key = Ed25519PrivateKey.from_private_bytes(secret)
    pem = key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption())
    signer = signer_of(pem, Path("key.pem"))
    assert b64decode(signer.public) == public
    assert b64decode(signer.sign(b"\x72")) == signature
    assert is_genuine(signer.public, b64encode(signature).decode(), b"\x72")
    assert not is_genuine(signer.public, b64encode(signature).decode(), b"\x73")
