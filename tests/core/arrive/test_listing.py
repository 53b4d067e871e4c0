from __future__ import annotations

import os
from pathlib import Path

import pytest

from tests.making import write_sequence, write_tone
from waxseal.core.arrive.listing import folders_below, list_paths
from waxseal.core.errors import Cancelled, UnreadableInput
from waxseal.core.progress import CancelToken


def test_folders_below_are_listed_too(tmp_path: Path) -> None:
    write_sequence(tmp_path / "b")
    write_sequence(tmp_path / "a" / "deep", "one_%d.png")
    write_tone(tmp_path / "tone.wav", seconds=0.1)
    listing = list_paths([tmp_path])
    assert [(folder.name, one.prefix) for folder, one in listing.sequences] == [
        ("deep", "one_"),
        ("b", "shot."),
    ]
    assert [path.name for path in listing.sounds] == ["tone.wav"]
    assert not listing.troubles


def test_one_frame_stands_for_its_sequence(tmp_path: Path) -> None:
    write_sequence(tmp_path, "shot.%04d.png")
    write_sequence(tmp_path, "other.%04d.png")
    listing = list_paths([tmp_path / "shot.0003.png"])
    assert [one.prefix for _, one in listing.sequences] == ["shot."]
    assert listing.sequences[0][1].numbers == tuple(range(1, 9))


def test_many_dropped_frames_are_one_sequence(tmp_path: Path) -> None:
    write_sequence(tmp_path)
    listing = list_paths(sorted(tmp_path.iterdir()))
    assert len(listing.sequences) == 1


def test_a_loop_of_links_is_walked_once(tmp_path: Path) -> None:
    write_sequence(tmp_path / "frames")
    (tmp_path / "frames" / "again").symlink_to(tmp_path)
    assert len(list_paths([tmp_path]).sequences) == 1


def test_a_folder_that_is_linked_is_followed(tmp_path: Path) -> None:
    write_sequence(tmp_path / "far")
    (tmp_path / "near").mkdir()
    (tmp_path / "near" / "link").symlink_to(tmp_path / "far")
    assert len(list_paths([tmp_path / "near"]).sequences) == 1


def test_hidden_and_foreign_files_are_left_alone(tmp_path: Path) -> None:
    for name in (".shot.0001.png", "notes.txt", "Thumbs.db", ".hidden"):
        (tmp_path / name).write_bytes(b"x")
    listing = list_paths([tmp_path])
    assert listing.sequences == ()
    assert listing.troubles == ()


def test_a_foreign_file_that_was_given_is_named(tmp_path: Path) -> None:
    (tmp_path / "notes.txt").write_text("x")
    (trouble,) = list_paths([tmp_path / "notes.txt"]).troubles
    assert "notes.txt" in trouble


def test_what_is_not_there_is_said(tmp_path: Path) -> None:
    with pytest.raises(UnreadableInput, match="is not there"):
        list_paths([tmp_path / "none"])


def test_a_locked_folder_is_a_sentence_and_the_rest_goes_on(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    write_sequence(tmp_path / "open")
    (tmp_path / "locked").mkdir()
    real = os.scandir

    def scandir(path: Path) -> object:  # root may look into everything: stand in for the system
        if Path(path).name == "locked":
            raise PermissionError(13, "Permission denied")
        return real(path)

    monkeypatch.setattr("waxseal.core.arrive.listing.os.scandir", scandir)
    listing = list_paths([tmp_path])
    assert len(listing.sequences) == 1
    assert listing.troubles == (f"{tmp_path}/locked cannot be looked into: Permission denied.",)


def test_names_that_are_no_text_are_listed(tmp_path: Path) -> None:
    write_sequence(tmp_path, "ok.%04d.png", frames=range(1, 3))
    raw = os.fsencode(tmp_path) + b"/bad\xff.0001.png"
    with open(raw, "wb") as file:  # noqa: PTH123 - a path of bytes
        file.write((tmp_path / "ok.0001.png").read_bytes())
    prefixes = {one.prefix for _, one in list_paths([tmp_path]).sequences}
    assert prefixes == {"ok.", "bad\udcff."}


def test_it_can_be_stopped(tmp_path: Path) -> None:
    token = CancelToken()
    token.cancel()
    with pytest.raises(Cancelled):
        list_paths([tmp_path], token)


def test_folders_below_are_those_that_are_seen(tmp_path: Path) -> None:
    for name in ("a/b/c", "a/.hidden", "d"):
        (tmp_path / name).mkdir(parents=True)
    (tmp_path / "a" / "again").symlink_to(tmp_path)
    found = {str(one.relative_to(tmp_path)) for one in folders_below(tmp_path)}
    assert found == {".", "a", "a/b", "a/b/c", "d"}
    assert len(folders_below(tmp_path, most=2)) == 2
    assert folders_below(tmp_path / "gone") == []
