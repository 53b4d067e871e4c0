from __future__ import annotations

import json
import os
import stat
from pathlib import Path

import pytest

from tests.making import dead_process, job_of, write_sequence, write_tone
from waxseal.core.errors import JobError
from waxseal.core.job.autosave import forget, keep, leftovers
from waxseal.core.job.job_file import document_of, load, quick_text, read_job, save, write_job
from waxseal.core.job.migrations import VERSION
from waxseal.core.job.model import Job
from waxseal.core.process_identity import process_name


def test_a_saved_job_comes_back_the_same(tmp_path: Path) -> None:
    write_tone(tmp_path / "frames" / "tone.wav")
    job = job_of(write_sequence(tmp_path / "frames"), name="Film")
    save(job, tmp_path / "film.waxseal")
    assert load(tmp_path / "film.waxseal") == job


def test_paths_are_kept_relative_to_the_job(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "a" / "frames"))
    save(job, tmp_path / "a" / "film.waxseal")
    text = (tmp_path / "a" / "film.waxseal").read_text()
    assert str(tmp_path) not in text
    (tmp_path / "a").rename(tmp_path / "b")
    moved = load(tmp_path / "b" / "film.waxseal")
    assert moved.sequences[0].files.folder == str(tmp_path / "b" / "frames")


def test_names_that_are_no_text_survive(tmp_path: Path) -> None:
    folder = Path(os.fsdecode(os.fsencode(tmp_path) + b"/bad\xff"))
    write_sequence(tmp_path / "good").rename(folder)
    job = job_of(folder)
    save(job, tmp_path / "film.waxseal")
    assert load(tmp_path / "film.waxseal") == job


def test_a_saved_job_keeps_its_mode_and_its_link(tmp_path: Path) -> None:
    (tmp_path / "kept").mkdir()
    kept, link = tmp_path / "kept" / "film.waxseal", tmp_path / "film.waxseal"
    save(Job(name="before"), kept)
    kept.chmod(0o640)
    link.symlink_to(kept)
    save(Job(name="after"), link)
    assert link.is_symlink()
    assert load(kept).name == "after"
    assert stat.S_IMODE(kept.stat().st_mode) == 0o640
    assert [one.name for one in kept.parent.iterdir()] == ["film.waxseal"]


def test_paths_of_a_job_behind_a_link_are_relative_to_where_it_lies(tmp_path: Path) -> None:
    """Else it could not be opened any more from there, nor through the link."""
    job = job_of(write_sequence(tmp_path / "show" / "frames"))
    (tmp_path / "desk" / "today" / "here").mkdir(parents=True)
    link = tmp_path / "desk" / "today" / "here" / "film.waxseal"
    save(job, tmp_path / "show" / "film.waxseal")
    link.symlink_to(tmp_path / "show" / "film.waxseal")
    save(load(link), link)
    for path in (link, tmp_path / "show" / "film.waxseal"):
        assert load(path).sequences[0].files.folder == str(tmp_path / "show" / "frames")


def test_a_link_that_leads_round_is_refused_in_words(tmp_path: Path) -> None:
    one, other = tmp_path / "one.waxseal", tmp_path / "other.waxseal"
    one.symlink_to(other)
    other.symlink_to(one)
    with pytest.raises(JobError, match="cannot be written"):
        save(Job(name="x"), one)
    assert one.is_symlink()


EARLIER = Path(__file__).parent / "earlier"


@pytest.mark.parametrize("version", range(1, VERSION))
def test_a_job_file_of_each_earlier_version_is_read(version: int, tmp_path: Path) -> None:
    path = EARLIER / f"version_{version}.waxseal"
    assert json.loads(path.read_text())["schema"] == version
    job = load(path)
    assert job.name == "The Brass Orrery"
    assert [len(job.sequences), len(job.sounds), len(job.reel.shots)] == [10, 2, 3]
    assert [one.name for one in job.deliveries][:1] == ["orrery_wide.mp4"]
    saved = tmp_path / "now.waxseal"
    save(job, saved)
    assert json.loads(saved.read_text())["schema"] == VERSION
    assert load(saved) == job


def test_consent_of_a_job_file_is_dropped_or_refused(tmp_path: Path) -> None:
    """Of version 1 it is left out; later ones have no such key."""
    text = (EARLIER / "version_1.waxseal").read_text()
    assert '"own"' in text
    path = tmp_path / "now.waxseal"
    path.write_text(text.replace('"schema": 1', f'"schema": {VERSION}'))
    with pytest.raises(JobError, match="overwrite: nothing is known here"):
        load(path)


GOOD = json.loads(write_job(Job(name="x"), Path("/")))


@pytest.mark.parametrize(
    ("content", "what"),
    [
        (b"", "not JSON"),
        (b"\xff\xfe\x00", "not JSON"),
        (b"{", "not JSON"),
        (b"[" * 100_000, "not JSON"),
        (b"[]", "not a Wax Seal job"),
        (b'{"kind": "other"}', "not a Wax Seal job"),
        (json.dumps({**GOOD, "schema": 99}).encode(), "newer"),
        (json.dumps({**GOOD, "schema": True}).encode(), "which version"),
        (json.dumps({**GOOD, "schema": -1}).encode(), "which version"),
        (json.dumps({**GOOD, "surprise": 1}).encode(), "newer Wax Seal may"),
        (json.dumps({**GOOD, "sources": [{"kind": "sequence"}]}).encode(), "is damaged: "),
        (json.dumps({**GOOD, "reel": {"rate": "1e9"}}).encode(), "is damaged: "),
        (json.dumps({**GOOD, "reel": {"shots": [{"id": "a1"}] * 3}}).encode(), "is damaged: "),
    ],
)
def test_a_damaged_newer_or_hostile_file_gets_a_sentence(
    tmp_path: Path, content: bytes, what: str
) -> None:
    path = tmp_path / "film.waxseal"
    path.write_bytes(content)
    with pytest.raises(JobError, match=what) as caught:
        load(path)
    assert str(caught.value).startswith("film.waxseal cannot be opened. ")


def test_a_path_that_no_system_has_is_refused(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "frames"))
    text = write_job(job, tmp_path).replace('"frames"', '"fra\\u0000mes"')
    with pytest.raises(JobError, match="NUL character"):
        read_job(text.encode(), tmp_path)


def test_what_is_not_there_or_cannot_be_written_is_said(tmp_path: Path) -> None:
    with pytest.raises(JobError, match="cannot be read"):
        load(tmp_path / "none.waxseal")
    with pytest.raises(JobError, match="cannot be written"):
        save(Job(), tmp_path / "none" / "film.waxseal")


def test_saving_leaves_no_half_file_when_the_disk_is_full(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "film.waxseal"
    save(Job(name="before"), path)

    def full(_descriptor: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("waxseal.core.atomic_write.os.fsync", full)
    with pytest.raises(JobError, match="No space left"):
        save(Job(name="after"), path)
    assert load(path).name == "before"
    assert [file.name for file in tmp_path.iterdir()] == ["film.waxseal"]


def test_an_autosave_comes_back_after_its_process_is_gone(tmp_path: Path) -> None:
    keep(Job(name="Film"), folder=tmp_path, origin=Path("/jobs/film.waxseal"))
    assert leftovers(tmp_path) == ()  # ours: this process is still there
    (tmp_path / f"{process_name()}.json").rename(tmp_path / f"{dead_process()}.json")
    (left,) = leftovers(tmp_path)
    assert (left.job.name, left.origin) == ("Film", Path("/jobs/film.waxseal"))
    forget(tmp_path, left.file)
    assert leftovers(tmp_path) == ()


def test_a_broken_autosave_is_passed_over(tmp_path: Path) -> None:
    (tmp_path / "999999999.json").write_text("{")
    (tmp_path / "999999998.json").write_text('{"origin": null, "job": {}}')
    (tmp_path / "notes.json").write_text("x")
    assert leftovers(tmp_path) == ()


def test_the_quick_text_holds_the_same_as_the_one_that_is_read(tmp_path: Path) -> None:
    document = {
        "job": document_of(job_of(write_sequence(tmp_path / "a")), tmp_path),
        "none": None,
        "nested": {"a": {"b": [1, {"c": "ü\udcff"}]}, "empty": [], "nothing": {}},
    }
    text = quick_text(document)
    assert json.loads(text) == json.loads(json.dumps(document))
    assert text.isascii()
    assert max(map(len, text.splitlines())) < 5000
