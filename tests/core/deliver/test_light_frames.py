"""Deliveries as frames: EXR of scene-linear light in a folder of their own."""

from __future__ import annotations

import errno
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import pytest

from tests.making import gradient, job_of, write_sequence, write_tone
from waxseal.core.deliver.format.delivery_settings import form_of
from waxseal.core.deliver.format.output_path import aside_of, path_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.frame_writer import write_light, write_pixels
from waxseal.core.job.corrections import Exposure
from waxseal.core.job.edits import (
    change_colourway,
    change_delivery,
    mark,
    set_correction,
    set_reel_rate,
)
from waxseal.core.job.model import DeliveryState, Job, Outcome, Space, Working
from waxseal.core.job.primaries import PRIMARIES
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.progress import CancelToken, Progress, silent
from waxseal.core.seal.measure.measure_frames import measure_frames
from waxseal.core.seal.record import check, read_seal


@pytest.fixture
def job(tmp_path: Path) -> Job:
    write_sequence(tmp_path / "a", "a.%04d.exr", frames=range(1, 7), dtype="float16")
    return ordered(job_of(tmp_path / "a"), codec="EXR", space=Space.LINEAR, name="light")


def ordered(job: Job, **fields: object) -> Job:
    return change_delivery(job, delivery="d1", **fields)


def delivered(
    job: Job, token: CancelToken | None = None, *, overwrite: bool = False, origin: str = ""
) -> Outcome:
    token = token or CancelToken()
    return make_delivery(job, job.deliveries[0], silent, token, overwrite=overwrite, origin=origin)


def form_in(job: Job) -> ResolvedFormat:
    return form_of(timeline_of(job), job.deliveries[0])


def folder_of(job: Job) -> Path:
    return path_of(job.deliveries[0])


def test_untouched_light_comes_out_bit_for_bit(job: Job) -> None:
    outcome = delivered(job)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    names = sorted(file.name for file in folder_of(job).iterdir())
    assert names == [f"light.{frame:04d}.exr" for frame in range(1, 7)]
    for frame in range(1, 7):
        made = read_pixels(folder_of(job) / f"light.{frame:04d}.exr")
        was = gradient(frame, dtype="float16")
        np.testing.assert_array_equal(made.values.view(np.uint16), was.view(np.uint16))
        assert made.header.rate == job.reel_rate


def test_the_openexr_package_reads_the_primaries_of_the_working_light(job: Job) -> None:
    job = change_colourway(job, working=Working.ACESCG)
    assert delivered(job).state is DeliveryState.SEALED
    with OpenEXR.File(str(folder_of(job) / "light.0001.exr")) as file:
        primaries = file.header()["chromaticities"]
        values = file.channels()["RGB"].pixels
    np.testing.assert_allclose(primaries, PRIMARIES["ACEScg"], atol=1e-6)
    grey = gradient(1, dtype="float32")[5, 3]  # white and grey are in both what they are
    assert values[5, 3].mean() == pytest.approx(grey.mean(), rel=0.02)


def test_light_beyond_white_and_finishes_go_out(job: Job) -> None:
    job = set_correction(job, of="a1", correction=Exposure(stops=3))
    assert delivered(job).state is DeliveryState.SEALED
    made = read_pixels(folder_of(job) / "light.0002.exr").values.astype(np.float32)
    np.testing.assert_allclose(made, gradient(2, dtype="float32") * 8, rtol=2e-3, atol=1e-4)
    assert made.max() > 7


def test_what_no_half_holds_is_cut_and_what_is_no_number_is_black(tmp_path: Path) -> None:
    values = np.full((36, 64, 3), 0.5, np.float32)
    values[0, 0], values[0, 1], values[0, 2] = 1e9, np.nan, -1e9
    (tmp_path / "a").mkdir()
    write_pixels(tmp_path / "a" / "a.0001.exr", values)
    job = ordered(job_of(tmp_path / "a"), codec="EXR", space=Space.LINEAR, name="light")
    job = mark(job, first=1, last=1)
    assert delivered(job).state is DeliveryState.SEALED
    made = read_pixels(folder_of(job) / "light.0001.exr").values
    assert made[0, :3, 0].tolist() == [65504, 0, -65504]


def test_frames_are_numbered_as_the_reel_is_and_held_ones_are_written_each(job: Job) -> None:
    job = mark(set_reel_rate(job, rate=job.reel_rate * 2), first=3, last=6)
    assert delivered(job).state is DeliveryState.SEALED
    files = sorted(folder_of(job).iterdir())
    assert [file.name for file in files] == [f"light.{frame:04d}.exr" for frame in range(3, 7)]
    first, again = (read_pixels(file).values for file in files[:2])
    np.testing.assert_array_equal(first, again)


def test_a_seal_breaks_with_any_frame(job: Job) -> None:
    assert delivered(job).state is DeliveryState.SEALED
    assert check(folder_of(job)).state is DeliveryState.SEALED
    record = read_seal(folder_of(job))
    assert record is not None
    assert (record["frames"], record["codec"], record["pixels"]) == (6, "exr", "RGB")
    write_pixels(folder_of(job) / "light.0004.exr", gradient(9, dtype="float16"))
    checked = check(folder_of(job))
    assert checked.state is DeliveryState.SEAL_BROKEN
    (folder_of(job) / "light.0004.exr").unlink()
    assert any("frames" in reason for reason in check(folder_of(job)).reasons)


def test_nothing_is_written_over_that_is_not_to_be(job: Job, tmp_path: Path) -> None:
    into_source = ordered(job, name="a", folder=str(tmp_path))
    assert "holds frames of a source" in delivered(into_source, overwrite=True).reasons[0]
    assert delivered(job).state is DeliveryState.SEALED
    assert "is there already" in delivered(job).reasons[0]
    (folder_of(job) / "notes.txt").write_text("mine")
    over = delivered(job, overwrite=True)
    assert "holds more than delivered frames (notes.txt)" in over.reasons[0]
    (folder_of(job) / "notes.txt").unlink()
    shorter = mark(job, first=1, last=2)
    assert delivered(shorter, overwrite=True).state is DeliveryState.SEALED
    assert len(list(folder_of(job).iterdir())) == 2  # nothing of the old ones is left
    folder_of(job).rename(tmp_path / "elsewhere")
    folder_of(job).write_text("a file")
    assert "no folder" in delivered(job, overwrite=True).reasons[0]


def test_a_folder_is_made_again_over_its_own(job: Job) -> None:
    assert delivered(job, origin="job").state is DeliveryState.SEALED
    shorter = mark(job, first=1, last=3)
    assert delivered(shorter, origin="job").state is DeliveryState.SEALED
    assert len(list(folder_of(job).iterdir())) == 3
    (folder_of(job) / "notes.txt").write_text("mine")
    assert "is there already" in delivered(shorter, origin="job").reasons[0]


def test_what_came_into_the_folder_meanwhile_is_not_lost(job: Job) -> None:
    """The look before the start was an hour ago."""
    assert delivered(job).state is DeliveryState.SEALED

    def put_something_in(progress: Progress) -> None:
        (folder_of(job) / "notes.txt").write_text("mine")

    outcome = make_delivery(job, job.deliveries[0], put_something_in, CancelToken(), overwrite=True)
    assert outcome.state is DeliveryState.REFUSED
    assert (folder_of(job) / "notes.txt").read_text() == "mine"
    assert len(list(folder_of(job).iterdir())) == 7
    assert measure_frames(folder_of(job)).frames == 6


def test_a_lut_is_left_out_and_it_is_said(job: Job, tmp_path: Path) -> None:
    lut = tmp_path / "dark.cube"
    lut.write_text("LUT_1D_SIZE 2\n0 0 0\n0.5 0.5 0.5\n")
    outcome = delivered(ordered(job, lut=str(lut)))
    assert "EXR carries light: dark.cube is left out." in outcome.notes
    made = read_pixels(folder_of(job) / "light.0001.exr").values
    np.testing.assert_array_equal(made, gradient(1, dtype="float16"))


def test_a_stopped_delivery_leaves_nothing(job: Job) -> None:
    token = CancelToken()

    def stop(progress: Progress) -> None:
        if progress.done == 2:
            token.cancel()

    before = sorted(Path(job.deliveries[0].folder).iterdir())
    outcome = make_delivery(job, job.deliveries[0], stop, token)
    assert outcome.state is DeliveryState.STOPPED
    assert sorted(Path(job.deliveries[0].folder).iterdir()) == before


def test_a_full_disk_is_said_and_nothing_is_left(job: Job, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*_args: object, **_more: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("waxseal.core.deliver.codecs.exr_codec.write_light", full)
    before = sorted(Path(job.deliveries[0].folder).iterdir())
    outcome = delivered(job)
    assert outcome.reasons[0].startswith("The disk is full")
    assert sorted(Path(job.deliveries[0].folder).iterdir()) == before


def test_a_frame_that_changed_on_its_way_to_the_disk_is_refused(
    job: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    write, bars = write_light, [gradient(3, dtype="float16")]

    def wrongly(path: Path, values: np.ndarray, **rest: Any) -> None:
        if any(np.array_equal(values, one) for one in bars):
            values = values + np.float16(0.01)
        write(path, values, **rest)

    monkeypatch.setattr("waxseal.core.deliver.codecs.exr_codec.write_light", wrongly)
    outcome = delivered(job)
    assert outcome.state is DeliveryState.REFUSED
    assert outcome.reasons == (
        "Frame 3 does not look like the reel's picture.",
        "It was put aside as light.refused.",
    )
    assert not folder_of(job).exists()
    assert len(list(aside_of(job.deliveries[0]).iterdir())) == 6
    assert delivered(job).reasons[1] == "It was put aside as light.refused."  # over the first
    # No try takes the wrong frame out of the store.
    bars.clear()
    assert delivered(job).state is DeliveryState.SEALED


def test_the_same_delivery_has_the_same_seal(job: Job) -> None:
    first = delivered(job)
    second = delivered(job, overwrite=True)
    assert first.sha256 == second.sha256 != ""


def test_sound_and_odd_sizes(tmp_path: Path) -> None:
    write_sequence(
        tmp_path / "a", "a.%04d.exr", frames=range(1, 25), width=65, height=37, dtype="float16"
    )
    write_tone(tmp_path / "a" / "a.wav")
    job = ordered(job_of(tmp_path / "a"), codec="EXR", space=Space.LINEAR, name="light")
    outcome = delivered(job)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert (folder_of(job) / "light.wav").is_file()
    assert read_pixels(folder_of(job) / "light.0001.exr").values.shape == (37, 65, 3)


def test_alpha_that_is_not_delivered_is_said(tmp_path: Path) -> None:
    frames = write_sequence(tmp_path / "clear", frames=range(1, 3), channels=4)
    job = job_of(frames)
    outcome = delivered(ordered(job, codec="EXR", space=Space.LINEAR))
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert any("The alpha of" in note and "#000000" in note for note in outcome.notes)


def test_what_is_no_part_of_a_sealed_folder_breaks_its_seal(job: Job, tmp_path: Path) -> None:
    assert delivered(job).state is DeliveryState.SEALED
    folder = folder_of(job)
    assert check(folder).state is DeliveryState.SEALED
    stranger = folder / "notes.txt"
    stranger.write_text("of somebody")
    checked = check(folder)
    assert checked.state is DeliveryState.SEAL_BROKEN
    assert "notes.txt is no part of what was sealed" in " ".join(checked.reasons)
    stranger.unlink()
    frame = sorted(folder.iterdir())[2]
    frame.rename(tmp_path / frame.name)
    frame.symlink_to(tmp_path / frame.name)
    checked = check(folder)
    assert checked.state is DeliveryState.SEAL_BROKEN
    assert frame.name in " ".join(checked.reasons)
