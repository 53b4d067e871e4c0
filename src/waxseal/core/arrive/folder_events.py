"""What happens in folders, told by the system; and which folders it tells nothing of."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterable
from pathlib import Path

import psutil
from watchfiles import watch

__all__ = ["FolderEvents", "silent_folders"]

STEP_MS, TOGETHER_MS = 200, 1000  # from one look for events to the next; what is told at once
CLOSES_S = 2.0
# Of file systems of this machine alone: what others do to a shared one, the system does not see.
TELLING = {
    *("bcachefs", "btrfs", "exfat", "ext2", "ext3", "ext4", "f2fs", "hfsplus", "jfs", "msdos"),
    *("ntfs", "ntfs3", "overlay", "ramfs", "reiserfs", "tmpfs", "udf", "vfat", "xfs", "zfs"),
}


def silent_folders(folders: Iterable[str]) -> set[str]:
    """Those of which the system tells nothing: not there, or on a file system that is shared."""
    mounts = {one.mountpoint: one.fstype for one in psutil.disk_partitions(all=True)}
    return {
        folder
        for folder in folders
        if not os.path.isdir(folder) or kind_of_mount(folder, mounts) not in TELLING  # noqa: PTH112
    }


def kind_of_mount(folder: str, mounts: dict[str, str]) -> str:
    """The file system that a folder is on; empty where that is not known."""
    path = Path(os.path.realpath(folder))
    return next((mounts[str(one)] for one in (path, *path.parents) if str(one) in mounts), "")


class FolderEvents:
    """tell: called on a thread whenever something happened in one of the folders."""

    def __init__(self, tell: Callable[[], None]) -> None:
        self._tell = tell
        self._folders: frozenset[str] = frozenset()
        self._stop = threading.Event()
        self._threads: list[threading.Thread] = []
        self.has_failed = False  # the system has no room for so many

    def watch(self, folders: Iterable[str]) -> bool:
        """These from now on. True: they are others than before, and what happened to them
        meanwhile may have been missed.
        """
        wanted = frozenset(folders)
        if wanted == self._folders:
            return False
        self._stop.set()
        self._folders, self._stop, self.has_failed = wanted, threading.Event(), False
        self._threads = [one for one in self._threads if one.is_alive()]
        if wanted:
            run = threading.Thread(
                target=self._run, args=(wanted, self._stop), name="folders", daemon=True
            )
            run.start()
            self._threads.append(run)
        return True

    def _run(self, folders: frozenset[str], stop: threading.Event) -> None:
        try:
            for _ in watch(
                *folders,
                watch_filter=None,
                debounce=TOGETHER_MS,
                step=STEP_MS,
                stop_event=stop,
                recursive=False,
            ):
                self._tell()
        except (OSError, RuntimeError):  # a folder went away, or there are too many
            if not stop.is_set():
                self.has_failed = True
                self._tell()

    def close(self) -> None:
        """Stop listening. Takes up to STEP_MS."""
        self._stop.set()
        self._folders = frozenset()
        for thread in self._threads:
            thread.join(CLOSES_S)
