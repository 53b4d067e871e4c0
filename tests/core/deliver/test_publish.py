"""A file and its seal get their names in one act, whenever it is stopped; no note is obeyed."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from tests.making import dead_process, job_of, write_sequence
from waxseal.core.atomic_write import partial_name
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.publish.publish_file import (
    clear_up,
    finish_publishing,
    is_unfinished,
    name_trouble,
    publish,
)
from waxseal.core.deliver.publish.target_record import (
    MadeFile,
    PublishNote,
    TargetRecord,
    identity_of,
)
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.run.preflight import preflight
from waxseal.core.errors import DeliveryRefused
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import DeliveryState
from waxseal.core.process_identity import process_name
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.record import seal_path


class Killed(BaseException):
    """As when the power is cut: nothing after it is done."""


CONTENT = MadeFile("ab" * 32, "job#1")
CALLS = ("link", "rename", "replace", "unlink", "fsync", "open")


@pytest.fixture(params=["file", "folder"])
def kind(request: pytest.FixtureRequest) -> str:
    return str(request.param)


def make(path: Path, kind: str, content: str) -> None:
    if kind == "file":
        path.write_text(content)
        return
    path.mkdir()
    (path / "a.0001.exr").write_text(content)


def content_of(path: Path) -> str:
    if path.is_dir():
        return (path / "a.0001.exr").read_text()
    return path.read_text() if path.exists() else ""


def pair_of(target: Path) -> tuple[str, str]:
    return content_of(target), content_of(seal_path(target))


def stopping_at(number: int) -> Iterator[Callable[..., Any]]:
    """Wrappers of system calls that all count; the call with that number kills."""
    count = 0

    def wrap(real: Callable[..., Any]) -> Callable[..., Any]:
        def call(*args: Any, **more: Any) -> Any:
            nonlocal count
            count += 1
            if count == number:
                raise Killed
            return real(*args, **more)

        return call

    while True:
        yield wrap


@pytest.mark.parametrize("overwrite", [True, False])
@pytest.mark.parametrize("after", [False, True])
def test_at_each_system_call_the_old_pair_or_the_new(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, kind: str, *, overwrite: bool, after: bool
) -> None:
    """Stopped before each call that changes something; the next run does the rest.

    after: whether what is found then is what `recover` leaves, or was there before it.
    """
    for number in range(1, 40):
        folder = tmp_path / str(number)
        folder.mkdir()
        target = folder / "film"
        partial = partial_name(target)
        make(partial, kind, "new")
        if overwrite:
            make(target, kind, "old")
            seal_path(target).write_text("old seal")
        old = pair_of(target)
        was_killed = False
        with monkeypatch.context() as patched:
            wrap = next(stopping_at(number))
            for name in CALLS:
                patched.setattr(os, name, wrap(getattr(os, name)))
            try:
                publish(partial, b"new seal", target, may_replace=overwrite, content=CONTENT)
            except Killed:
                was_killed = True
        if after:
            finish_publishing(target)
        elif was_killed and not is_unfinished(target):
            assert pair_of(target) in (old, ("new", "new seal"))
        if after:
            assert pair_of(target) in (old, ("new", "new seal"))
            assert not is_unfinished(target)
        if not was_killed:
            assert pair_of(target) == ("new", "new seal")
            assert sorted(os.listdir(folder)) == ["film", "film.seal.json"]  # noqa: PTH208
            return
    pytest.fail("it never came to its end")


def test_a_name_that_was_taken_meanwhile_keeps_its_file_and_its_seal(
    tmp_path: Path, kind: str
) -> None:
    target = tmp_path / "film"
    make(target, kind, "old")
    seal_path(target).write_text("old seal")
    partial = partial_name(target)
    make(partial, kind, "new")
    with pytest.raises(FileExistsError):
        publish(partial, b"new seal", target, may_replace=False, content=CONTENT)
    assert pair_of(target) == ("old", "old seal")


def test_without_hard_links_a_file_still_gets_its_name(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def no_links(_source: Path, _target: Path) -> None:
        raise OSError(1, "Operation not permitted")

    monkeypatch.setattr("waxseal.core.deliver.publish.publish_file.os.link", no_links)
    partial = partial_name(tmp_path / "film")
    partial.write_text("new")
    publish(partial, b"new seal", tmp_path / "film", may_replace=False, content=CONTENT)
    assert pair_of(tmp_path / "film") == ("new", "new seal")


def pending(target: Path, kind: str) -> PublishNote:
    """A publishing that was stopped before its first step, by a process that is gone."""
    process = dead_process()
    partial = partial_name(target, process)
    make(partial, kind, "new")
    made = identity_of(partial)
    assert made is not None
    note = PublishNote(process, made, identity_of(target), may_replace=True, content=CONTENT)
    partial_name(seal_path(target), process).write_text("new seal")
    TargetRecord(target).begin_publishing(note)
    return note


def test_an_unfinished_publishing_is_finished_by_the_next_delivery(
    tmp_path: Path, kind: str
) -> None:
    target = tmp_path / "film"
    make(target, kind, "old")
    pending(target, kind)
    clear_up(target)
    assert pair_of(target) == ("new", "new seal")
    assert sorted(os.listdir(tmp_path)) == ["film", "film.seal.json", "home"]  # noqa: PTH208
    assert TargetRecord(target).made == CONTENT


def test_what_is_not_what_the_note_is_about_is_left_alone(tmp_path: Path, kind: str) -> None:
    """The hidden names hold something else by now: of whoever was quicker."""
    target = tmp_path / "film"
    make(target, kind, "mine")
    note = pending(target, kind)
    partial = partial_name(target, note.process)
    stranger = tmp_path / "stranger"
    make(stranger, kind, "a stranger's, and longer")
    partial.rename(tmp_path / "taken away")
    stranger.rename(partial)
    old = partial.with_name(f"{partial.name}.old")
    old.write_text("precious")
    finish_publishing(target)
    assert content_of(target) == "mine"
    assert not seal_path(target).exists()
    assert content_of(partial) == "a stranger's, and longer"
    assert old.read_text() == "precious"
    assert not is_unfinished(target)


def test_what_was_replaced_comes_back_when_its_successor_is_gone(tmp_path: Path) -> None:
    target = tmp_path / "film"
    make(target, "folder", "old")
    note = pending(target, "folder")
    partial = partial_name(target, note.process)
    target.rename(partial.with_name(f"{partial.name}.old"))  # so far it came
    (partial / "a.0001.exr").unlink()
    partial.rmdir()
    finish_publishing(target)
    assert content_of(target) == "old"


@pytest.mark.parametrize("text", ["", "{}", "[1]", "[" * 20_000, '{"process": "..", "made": [1]}'])
def test_a_damaged_note_is_no_note(tmp_path: Path, text: str) -> None:
    target = tmp_path / "film"
    record = TargetRecord(target)
    with record.locked():
        pass
    (lock,) = (tmp_path / "home" / "state" / "waxseal" / "targets").iterdir()
    lock.with_suffix(".publishing").write_text(text)
    assert record.publishing is None
    clear_up(target)


# ---- one at a time, and what is left of those that died ----------------------------------------


def test_a_target_is_delivered_to_by_one_at_a_time(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 4)))
    link = tmp_path / "link"
    delivery = job.deliveries[0]
    link.symlink_to(delivery.folder, target_is_directory=True)
    with TargetRecord(path_of(delivery)).locked():
        other = change_delivery(job, delivery=delivery.id, folder=str(link))
        for one in (job, other):
            outcome = make_delivery(one, one.deliveries[0], silent, CancelToken())
            assert outcome.state is DeliveryState.REFUSED
            assert "is being delivered already" in outcome.reasons[0]
    assert make_delivery(job, job.deliveries[0], silent, CancelToken()).state is (
        DeliveryState.SEALED
    )


def test_what_a_process_left_that_is_no_longer_there_is_removed(tmp_path: Path) -> None:
    target, dead = tmp_path / "film.mp4", dead_process()
    gone = [partial_name(one, dead) for one in (target, seal_path(target))]
    kept = [
        partial_name(target, process_name(os.getppid())),
        partial_name(tmp_path / "another.mp4", dead),
        tmp_path / ".film.mp4.notes.partial",
    ]
    stranger = partial_name(target, f"{os.getpid()}-1")  # of a process that never wrote for it
    kept.append(stranger)
    for path in (*gone[:1], *kept):
        path.write_text("half")
    for process in (dead, process_name(os.getppid())):
        TargetRecord(target).begin_writing(process)
    clear_up(target)
    assert not any(path.exists() for path in gone)
    assert all(path.exists() for path in kept)


# ---- names that cannot be ----------------------------------------------------------------------


def test_names_that_are_too_long_or_lead_nowhere_are_refused_before_the_first_frame(
    tmp_path: Path,
) -> None:
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 4)))
    delivery = job.deliveries[0].id
    long = change_delivery(job, delivery=delivery, name="ö" * 125)
    with pytest.raises(DeliveryRefused, match="too long by"):
        preflight(long, long.deliveries[0])
    fitting = change_delivery(job, delivery=delivery, name="ö" * 120)
    outcome = make_delivery(fitting, fitting.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED
    assert name_trouble(tmp_path / ("a" * 246)) != ""
    folder = Path(job.deliveries[0].folder)
    for name, end in (("nowhere.mp4", "gone"), ("loop.mp4", "loop.mp4")):
        (folder / name).symlink_to(folder / end)
        linked = change_delivery(job, delivery=delivery, name=name.removesuffix(".mp4"))
        with pytest.raises(DeliveryRefused, match="leads nowhere"):
            preflight(linked, linked.deliveries[0])


def test_a_link_that_lies_where_something_is_written_is_not_followed(tmp_path: Path) -> None:
    precious = tmp_path / "precious"
    precious.write_text("mine")
    target = tmp_path / "film.mp4"
    partial_name(seal_path(target)).symlink_to(precious)
    partial_name(target).write_text("new")
    with pytest.raises(FileExistsError):
        publish(partial_name(target), b"new seal", target, may_replace=False, content=CONTENT)
    assert precious.read_text() == "mine"


def test_a_name_that_asks_for_another_container_is_refused(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 4)))
    for name, words in (("film.mov", "not MOV. Call it film.mp4"), ("a.b.mkv", "Call it a.b.mp4")):
        named = change_delivery(job, delivery=job.deliveries[0].id, name=name)
        with pytest.raises(DeliveryRefused, match=words):
            preflight(named, named.deliveries[0])
    for name in ("film.v002", "film.mp4", "24.98"):
        named = change_delivery(job, delivery=job.deliveries[0].id, name=name)
        assert preflight(named, named.deliveries[0])
