"""What the program keeps for itself is read from folders of this user alone."""

from __future__ import annotations

import os
import stat
from pathlib import Path

import pytest

from tests.making import job_of, write_sequence
from waxseal.core.arrive.measure_cache import MeasureCache
from waxseal.core.deliver.encode.segments.segment_store import SegmentStore
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.folders import autosave_folder, segments_folder, targets_folder
from waxseal.core.job.autosave import keep, leftovers
from waxseal.core.job.model import DeliveryState
from waxseal.core.private_folder import (
    NotPrivate,
    folder_troubles,
    is_private,
    private_folder,
)
from waxseal.core.progress import CancelToken, silent

NOBODY = 65_534


@pytest.mark.parametrize("umask", [0o000, 0o077, 0o277])
def test_a_folder_is_made_for_this_user_alone(umask: int) -> None:
    before = os.umask(umask)
    try:
        folder = private_folder(segments_folder())
    finally:
        os.umask(before)
    for one in (folder, folder.parent):
        assert stat.S_IMODE(one.stat().st_mode) == 0o700
    assert is_private(folder)
    assert folder_troubles() == ()


@pytest.mark.parametrize("level", [0, 1])
@pytest.mark.parametrize("mode", [0o777, 0o720, 0o702])
def test_a_folder_that_others_may_write_to_is_not_used(mode: int, level: int) -> None:
    folder = private_folder(segments_folder())
    loose = (folder, folder.parent)[level]
    loose.chmod(mode)
    assert not is_private(folder)
    with pytest.raises(NotPrivate, match="Other users may write to"):
        private_folder(folder)
    assert len(folder_troubles()) == 1
    assert str(loose) in folder_troubles()[0]


@pytest.mark.skipif(os.geteuid() != 0, reason="only root gives folders away")
def test_a_folder_of_another_user_is_not_used(tmp_path: Path) -> None:
    folder = private_folder(autosave_folder())
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 3)))
    keep(job, folder=folder, origin=None)
    os.chown(folder, NOBODY, NOBODY)
    assert "belongs to another user" in " ".join(folder_troubles())
    assert leftovers(folder) == ()
    with pytest.raises(NotPrivate):
        keep(job, folder=folder, origin=None)


@pytest.mark.skipif(os.geteuid() != 0, reason="only root gives links away")
def test_a_link_of_another_user_is_not_followed(tmp_path: Path) -> None:
    mine = tmp_path / "mine"
    mine.mkdir(mode=0o700)
    top = segments_folder().parent
    top.parent.mkdir(parents=True)
    top.symlink_to(mine)
    assert is_private(top)
    os.lchown(top, NOBODY, NOBODY)
    assert not is_private(top)
    with pytest.raises(NotPrivate):
        private_folder(segments_folder())
    assert not any(mine.iterdir())


def test_no_segment_comes_out_of_a_folder_that_others_may_write_to(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 5)))
    folder = private_folder(segments_folder())
    folder.chmod(0o777)
    for _ in range(2):
        made = make_delivery(job, job.deliveries[0], silent, CancelToken(), overwrite=True)
        assert made.state is DeliveryState.SEALED
        assert (made.segments_made, made.segments_kept) == (1, 0)
    assert not any(folder.iterdir())


@pytest.mark.parametrize("kind", ["pipe", "folder", "link"])
def test_what_is_called_like_a_segment_and_is_no_file_keeps_nobody_waiting(
    tmp_path: Path, kind: str
) -> None:
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 5)))
    first = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert first.state is DeliveryState.SEALED
    (segment,) = segments_folder().glob("*.segment")
    segment.unlink()
    if kind == "pipe":
        os.mkfifo(segment)
    elif kind == "folder":
        segment.mkdir()
    else:
        segment.symlink_to("/dev/zero")
    again = make_delivery(job, job.deliveries[0], silent, CancelToken(), overwrite=True)
    assert again.state is DeliveryState.SEALED
    assert again.sha256 == first.sha256
    assert again.segments_made == 1


def test_without_a_folder_of_its_own_a_delivery_is_still_made(tmp_path: Path) -> None:
    """What is remembered of a target makes it safer; without it the file is asked about."""
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 5)))
    private_folder(targets_folder()).chmod(0o777)
    first = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert first.state is DeliveryState.SEALED
    again = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert again.state is DeliveryState.REFUSED
    assert "is there already" in again.reasons[0]


def test_measures_of_others_are_not_believed(tmp_path: Path) -> None:
    folder = tmp_path / "measures"
    folder.mkdir(mode=0o700)
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 3)))
    memory = MeasureCache(folder)
    memory.keep(job.sequences[0], {})
    assert any(folder.iterdir())
    folder.chmod(0o777)
    (folder / "x").touch()
    assert memory.recall(job.sequences[0]) == {}
    assert SegmentStore(folder).find("x") is None
