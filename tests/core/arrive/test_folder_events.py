"""The system tells what happens in folders; those that it tells nothing of are known."""

from __future__ import annotations

import threading
import time
from functools import partial
from pathlib import Path

from waxseal.core.arrive.folder_events import FolderEvents, kind_of_mount, silent_folders

PATIENCE = 20.0


def test_what_comes_grows_and_goes_is_told(tmp_path: Path) -> None:
    happened = threading.Event()
    events = FolderEvents(happened.set)
    file = tmp_path / "a.0001.png"
    try:
        assert events.watch([str(tmp_path)])
        assert not events.watch([str(tmp_path)]), "the same folders"
        time.sleep(0.5)  # until the system has been asked
        for act in (file.touch, partial(file.write_bytes, b"more"), file.unlink):
            happened.clear()
            act()
            assert happened.wait(PATIENCE)
            time.sleep(1.5)  # what is told at once is over
    finally:
        events.close()


def test_another_folder_is_heard_and_the_first_no_longer(tmp_path: Path) -> None:
    one, other = tmp_path / "one", tmp_path / "other"
    one.mkdir()
    other.mkdir()
    happened = threading.Event()
    events = FolderEvents(happened.set)
    try:
        events.watch([str(one)])
        events.watch([str(other)])
        (one / "a").touch()
        assert not happened.wait(3)
        (other / "a").touch()
        assert happened.wait(PATIENCE)
    finally:
        events.close()


def test_what_is_not_there_or_shared_has_to_be_asked(tmp_path: Path) -> None:
    gone = str(tmp_path / "gone")
    assert silent_folders([str(tmp_path), gone]) - {str(tmp_path)} == {gone}
    mounts = {"/": "ext4", "/srv": "nfs4", "/srv/here": "xfs"}
    assert kind_of_mount("/home", mounts) == "ext4"
    assert kind_of_mount("/srv/frames", mounts) == "nfs4"
    assert kind_of_mount("/srv/here/frames", mounts) == "xfs"
    assert kind_of_mount("/home", {}) == ""


def test_a_folder_that_is_not_there_is_said(tmp_path: Path) -> None:
    folder = tmp_path / "frames"
    happened = threading.Event()
    events = FolderEvents(happened.set)
    try:
        events.watch([str(folder)])  # it is not there: the system refuses
        assert happened.wait(PATIENCE)
        assert events.has_failed
    finally:
        events.close()
