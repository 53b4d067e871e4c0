from __future__ import annotations

import json
import shutil
from pathlib import Path

import numpy as np
import pytest

from tests.making import job_of, write_sequence
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.errors import UnreadableInput
from waxseal.core.job.model import DeliveryState
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.likeness import Likeness, Sketch, compare_sketches, psnr, sketch
from waxseal.core.seal.measure.mp4_boxes import read_boxes
from waxseal.core.seal.record import check, record_digest, seal_path


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A sealed file of 24 frames."""
    folder = tmp_path_factory.mktemp("seal")
    job = job_of(write_sequence(folder / "frames", frames=range(1, 25)))
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return path_of(job.deliveries[0])


@pytest.fixture
def video(made: Path, tmp_path: Path) -> Path:
    shutil.copy(made, tmp_path)
    shutil.copy(seal_path(made), tmp_path)
    return tmp_path / made.name


def test_an_unchanged_file_is_sealed(video: Path) -> None:
    checked = check(video)
    assert checked.state is DeliveryState.SEALED
    assert checked.measured is not None
    assert checked.measured.frames == 24
    assert checked.measured.rate == 24


@pytest.mark.parametrize("place", [*range(0, 64, 3), 0.01, 0.1, 0.4, 0.7, 0.999])
def test_one_changed_byte_breaks_the_seal(video: Path, place: float) -> None:
    """Also where nothing can open the file any more."""
    content = bytearray(video.read_bytes())
    content[int(len(content) * place) if isinstance(place, float) else place] ^= 0xFF
    video.write_bytes(content)
    checked = check(video)
    assert checked.state is DeliveryState.SEAL_BROKEN
    assert "The file is not the one that was sealed: its checksum differs." in checked.reasons


def test_another_file_under_the_name_breaks_the_seal(video: Path, tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "other" / "frames", frames=range(1, 13)))
    make_delivery(job, job.deliveries[0], silent, CancelToken())
    shutil.copy(path_of(job.deliveries[0]), video)
    checked = check(video)
    assert checked.state is DeliveryState.SEAL_BROKEN
    assert any("The seal says 24 frames, found 12." in reason for reason in checked.reasons)


@pytest.mark.parametrize("content", ["", "{", "[]", '{"kind": "other"}', "[" * 10_000])
def test_a_damaged_seal_is_a_broken_one(video: Path, content: str) -> None:
    seal_path(video).write_text(content)
    assert check(video).state is DeliveryState.SEAL_BROKEN


def test_without_a_seal_it_is_unsealed(video: Path) -> None:
    seal_path(video).unlink()
    assert check(video).state is DeliveryState.UNSEALED


def test_a_file_cut_short_is_said(video: Path) -> None:
    with video.open("r+b") as file:
        file.truncate(video.stat().st_size // 2)
    assert check(video).state is DeliveryState.SEAL_BROKEN
    seal_path(video).unlink()
    with pytest.raises(UnreadableInput, match=video.name):
        check(video)


@pytest.mark.parametrize("content", [b"", b"no video", b"\0" * 1000])
def test_what_is_no_video_is_said(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "film.mp4"
    path.write_bytes(content)
    with pytest.raises(UnreadableInput, match=r"film\.mp4"):
        check(path)
    with pytest.raises(UnreadableInput, match="not there"):
        check(tmp_path / "none.mp4")


def test_the_seal_holds_the_facts_and_no_clock(made: Path) -> None:
    record = json.loads(seal_path(made).read_text())
    assert record["frames"] == 24
    assert record["rate"] == "24"
    assert record["likeness"]["compared_whole"] == 12
    assert record["sources"][0]["frames"] == "1-24"
    assert not any("time" in key or "date" in key for key in record)


def test_the_container_says_it_itself(made: Path) -> None:
    container = read_boxes(made)
    assert container is not None
    assert container.is_quick_start
    (track,) = container.tracks
    assert track.samples == 24
    assert len(track.durations) == 1
    assert track.colour == (1, 1, 1, False)
    assert track.shown == 1


def test_boxes_of_rubbish_are_no_container(tmp_path: Path, made: Path) -> None:
    path = tmp_path / "a.mp4"
    content = made.read_bytes()
    for bad in (b"", b"\0\0\0\x04moov", content[:100], b"\0\0\0\x10moov" + b"\xff" * 8):
        path.write_bytes(bad)
        assert read_boxes(path) is None


def planes(seed: int, *, noise: float = 0.0) -> tuple[np.ndarray, ...]:
    random = np.random.default_rng(seed)
    shapes = ((72, 128), (36, 64), (36, 64))
    coarse = [random.integers(16, 235, (9, 16)) for _ in shapes]
    made = []
    for (height, width), blocks in zip(shapes, coarse, strict=True):
        whole = np.kron(blocks, np.ones((height // 9, width // 16)))
        jitter = np.random.default_rng(1).normal(0, noise, (height, width)) if noise else 0
        made.append(np.clip(whole + jitter, 0, 255).astype(np.uint8))
    return tuple(made)


def compare(made: list[Sketch], decoded: list[Sketch]) -> Likeness:
    return compare_sketches(made, dict(enumerate(decoded)), size=(128, 72))


def test_likeness_bears_coding_noise_and_finds_other_pictures() -> None:
    made = [sketch(planes(seed)) for seed in range(6)]
    coded = [sketch(planes(seed, noise=6)) for seed in range(6)]
    alike = compare(made, coded)
    assert alike.unlike == alike.doubts == ()
    assert alike.farthest < 4
    swapped = [coded[0], coded[2], coded[1], *coded[3:]]
    assert compare(made, swapped).doubts == (2, 3)
    foreign = [*coded[:4], sketch(planes(99)), coded[5]]
    assert compare(made, foreign).unlike == (5,)


def test_psnr_of_equal_planes_is_infinite() -> None:
    plane = planes(1)[0]
    assert psnr(plane, plane) == float("inf")
    assert psnr(plane, plane + np.uint8(1)) == pytest.approx(48.13, abs=0.01)


EDITED: dict[str, tuple[str, object]] = {
    "frames": ("frames", 25),
    "rate": ("rate", "25"),
    "size": ("size", [1920, 1080]),
    "colour": ("colour", None),
    "notes": ("notes", ["Everything is fine."]),
    "sources": ("sources", []),
    "who sealed it": ("sealed_by", "somebody"),
}


@pytest.mark.parametrize("name", EDITED)
def test_a_record_that_was_edited_is_a_broken_seal(video: Path, name: str) -> None:
    path = seal_path(video)
    record = json.loads(path.read_text())
    fact, value = EDITED[name]
    record[fact] = value
    path.write_text(json.dumps(record))
    checked = check(video)
    assert checked.state is DeliveryState.SEAL_BROKEN
    assert "was changed after it was written" in checked.reasons[0]


def test_a_record_in_another_layout_is_the_same_record(video: Path) -> None:
    path = seal_path(video)
    record = json.loads(path.read_text())
    path.write_text(json.dumps(dict(reversed(record.items())), indent=7))
    assert check(video).state is DeliveryState.SEALED


def test_facts_that_do_not_hold_are_said_though_the_record_is_whole(video: Path) -> None:
    """Somebody who can write a digest can write a fact: the file itself is measured."""
    path = seal_path(video)
    record = json.loads(path.read_text())
    record["frames"] += 1
    record["record_sha256"] = record_digest(record)
    path.write_text(json.dumps(record))
    checked = check(video)
    assert checked.state is DeliveryState.SEAL_BROKEN
    assert f"found {record['frames'] - 1}" in checked.reasons[0]


def test_a_seal_of_before_there_were_levels_is_whole(video: Path) -> None:
    path = seal_path(video)
    record = json.loads(path.read_text())
    assert record.pop("level")
    record["record_sha256"] = record_digest(record)
    path.write_text(json.dumps(record))
    assert check(video).state is DeliveryState.SEALED
