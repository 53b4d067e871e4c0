"""How bright a film in PQ gets, and that its file says so in every box that knows."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest

from tests.making import job_of
from waxseal.core.deliver.encode.writers.light_boxes import state_light
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.errors import WrongUse
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import DeliveryState, Job, Size, Space
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.lightlevels import levels_of, light_levels
from waxseal.core.seal.measure.mp4_boxes import read_boxes
from waxseal.core.seal.record import check, read_seal

# SMPTE ST 2084: the codes of 10 bits, limited range, of some luminances, from memory.
CODES = {0: 64, 100: 509, 203: 573, 1000: 723, 4000: 855, 10_000: 940}


def grey(code: int, shape: tuple[int, int] = (8, 16)) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    chroma = np.full((shape[0] // 2, shape[1] // 2), 512, np.uint16)
    return np.full(shape, code, np.uint16), chroma, chroma.copy()


@pytest.mark.parametrize(("nits", "code"), list(CODES.items()))
def test_grey_is_as_bright_as_its_code(nits: int, code: int) -> None:
    brightest, mean = levels_of(grey(code)) / 4
    assert brightest == pytest.approx(nits, rel=0.01, abs=0.3)
    assert mean == pytest.approx(nits, rel=0.01, abs=0.3)


def test_one_pixel_counts_for_the_brightest_and_little_for_the_mean() -> None:
    planes = grey(64)
    planes[0][3, 5] = 723
    brightest, mean = levels_of(planes) / 4
    assert brightest == pytest.approx(1000, rel=0.01)
    assert mean == pytest.approx(1000 / 128, rel=0.05)


def test_the_largest_of_three_colours_counts() -> None:
    """BT.2100: red at 1000 cd/m² alone has the luma of 0.2627 of its code."""
    signal = (723 - 64) / 876
    luma, cr, cb = 0.2627 * signal, (1 - 0.2627) * signal / 1.4746, -0.2627 * signal / 1.8814
    planes = (
        np.full((4, 4), round(64 + 876 * luma), np.uint16),
        np.full((2, 2), round(512 + 896 * cb), np.uint16),
        np.full((2, 2), round(512 + 896 * cr), np.uint16),
    )
    assert levels_of(planes)[0] / 4 == pytest.approx(1000, rel=0.02)


def test_a_film_has_the_most_of_its_frames() -> None:
    frames = [np.array([400, 40], np.uint16), np.array([4001, 8], np.uint16)]
    assert light_levels(frames) == (1001, 10)


@pytest.fixture
def job(tmp_path: Path) -> Job:
    """Scene-linear light: a dim ground, and a square that is brighter with every frame."""
    folder = tmp_path / "lamp"
    folder.mkdir()
    for number in range(1, 13):
        light = np.full((90, 160, 3), 0.05, np.float16)
        light[20:60, 40:100] = number / 6
        write_pixels(folder / f"lamp.{number:04}.exr", light)
    return change_delivery(job_of(folder), delivery="d1", space=Space.PQ, codec="H.265")


def delivered(job: Job, **fields: object) -> Path:
    job = change_delivery(job, delivery="d1", **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return path_of(job.deliveries[0])


@pytest.mark.parametrize(
    ("codec", "container"),
    [
        *(("H.265", "MP4"), ("H.265", "MOV"), ("AV1", "MP4"), ("ProRes HQ", "MOV")),
        ("DNxHR HQX", "MOV"),  # its entry closes with four bytes of 0
    ],
)
def test_the_file_says_how_bright_it_gets(job: Job, codec: str, container: str) -> None:
    large = {"size": Size(width=480, height=270)} if codec == "DNxHR HQX" else {}
    path = delivered(job, codec=codec, container=container, **large)
    boxes = read_boxes(path)
    assert boxes is not None
    assert boxes.is_quick_start
    (light,) = [track.light for track in boxes.tracks if track.kind == "vide"]
    assert light is not None
    brightest, mean = light
    # 2.0 of light is white twice over: 203 cd/m² for graphics, so somewhere above it.
    assert 150 < brightest < 1000
    assert 0 < mean < brightest / 2
    assert (read_seal(path) or {})["light_levels"] == {"max_cll": brightest, "max_fall": mean}
    # Another level in the file breaks the seal.
    content = bytearray(path.read_bytes())
    at = content.index(b"clli")
    content[at + 4 : at + 6] = struct.pack(">H", brightest + 1)
    path.write_bytes(content)
    checked = check(path)
    assert checked.state is DeliveryState.SEAL_BROKEN
    assert any("light_levels" in reason for reason in checked.reasons)


@pytest.mark.parametrize(
    "fields", [{"space": Space.HLG}, {"container": "MKV"}, {"space": Space.BT709}]
)
def test_what_has_no_words_for_it_says_nothing(job: Job, fields: dict[str, object]) -> None:
    path = delivered(job, **fields)
    assert b"clli" not in path.read_bytes()
    assert "light_levels" not in (read_seal(path) or {})


def test_the_same_bytes_out_of_the_store(job: Job) -> None:
    path = delivered(job)
    first = path.read_bytes()
    path.unlink()
    assert delivered(job).read_bytes() == first


def test_what_has_no_index_is_left_as_it_is(tmp_path: Path) -> None:
    path = tmp_path / "x.mp4"
    path.write_bytes(struct.pack(">I4s", 16, b"ftyp") + bytes(8))
    with pytest.raises(WrongUse):
        state_light(path, (1, 1), "")
    assert path.stat().st_size == 16
