"""Frames that are still on their way."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from tests.making import aged, cut, job_of, write_sequence
from waxseal.core.arrive import header_scan
from waxseal.core.arrive.arrival import arrival_of, fingerprint
from waxseal.core.arrive.header_scan import look_again
from waxseal.core.arrive.scanning import scan
from waxseal.core.frames.headers import Header, look
from waxseal.core.job.edits import refresh_sources, set_expected
from waxseal.core.job.model import FindingKind, Health, Sequence, change
from waxseal.core.plan.programme import programme

SECOND = 1_000_000_000
NOW = 1_700_000_000 * SECOND


def only(folder: Path) -> Sequence:
    (source,) = scan([folder]).sources
    assert isinstance(source, Sequence)
    return source


def rendering(folder: Path, *, there: int, each: int, expected: int) -> Sequence:
    """Frames that came one by one, the last a moment before NOW."""
    write_sequence(folder, frames=range(1, there + 1))
    for frame in range(1, there + 1):
        at = NOW - (there - frame) * each * SECOND
        os.utime(folder / f"shot.{frame:04}.png", ns=(at, at))
    return change(only(folder), expected=(1, expected))


def test_a_frame_that_is_being_written_is_not_damage(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path)
    path = folder / "shot.0008.png"
    whole = path.read_bytes()
    path.write_bytes(whole[: len(whole) // 2])
    source = only(folder)
    assert source.health is Health.ARRIVING
    assert source.to_rerender == ()
    assert [(one.kind, one.frame) for one in source.findings] == [(FindingKind.ARRIVING, 8)]
    assert "still being written (cut short" in source.findings[0].what
    aged(path)
    assert look_again(source).to_rerender == (8,)
    path.write_bytes(whole)
    assert look_again(source).health is Health.WHOLE


def test_a_delivery_does_not_use_what_is_being_written(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "f")
    path = folder / "shot.0008.png"
    path.write_bytes(path.read_bytes()[:-20])
    reel = programme(job_of(folder))
    assert reel.place(8).shown is None
    assert [one.frames for one in reel.missing() if not one.is_stood_in] == [{8}]


def test_rubbish_is_damage_however_new_it_is(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path)
    (folder / "shot.0003.png").write_text("no picture at all")
    assert only(folder).to_rerender == (3,)


def test_the_time_of_completion_follows_from_the_last_frames(tmp_path: Path) -> None:
    source = rendering(tmp_path, there=20, each=30, expected=50)
    arrival = arrival_of(source, NOW + 5 * SECOND)
    assert (arrival.there, arrival.expected, arrival.is_coming) == (20, 50, True)
    assert arrival.seconds_each == pytest.approx(30)
    assert arrival.seconds_left == pytest.approx(30 * 30)


def test_a_pause_that_is_too_long_means_that_nothing_comes(tmp_path: Path) -> None:
    source = rendering(tmp_path, there=20, each=30, expected=50)
    late = arrival_of(source, NOW + 10 * 60 * SECOND)
    assert not late.is_coming
    assert late.seconds_left is None


def test_a_whole_sequence_is_not_coming(tmp_path: Path) -> None:
    source = rendering(tmp_path, there=20, each=30, expected=20)
    assert not arrival_of(source, NOW).is_coming


def test_one_frame_tells_no_speed(tmp_path: Path) -> None:
    source = rendering(tmp_path, there=1, each=30, expected=20)
    arrival = arrival_of(source, NOW + SECOND)
    assert arrival.is_coming
    assert arrival.seconds_each is arrival.seconds_left is None


def test_whatever_happens_in_a_folder_changes_its_fingerprint(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "f")
    seen = [fingerprint(folder)]
    assert fingerprint(folder) == seen[0]
    (folder / "shot.0009.png").write_bytes(b"")
    seen.append(fingerprint(folder))
    (folder / "shot.0009.png").write_bytes(b"x")
    seen.append(fingerprint(folder))
    aged(folder / "shot.0002.png")
    seen.append(fingerprint(folder))
    (folder / "shot.0001.png").unlink()
    seen.append(fingerprint(folder))
    assert len(set(seen)) == 5
    assert fingerprint(tmp_path / "none") == ""


def test_a_shot_that_is_the_whole_of_its_source_grows_with_it(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "f")
    job = job_of(folder)
    write_sequence(folder, frames=range(9, 13))
    grown = refresh_sources(job, sources=[look_again(job.sequences[0])])
    assert grown.reel.shots[0].last == 12
    expecting = set_expected(job, source="s1", expected=(1, 20))
    write_sequence(folder, frames=range(13, 15))
    grown = refresh_sources(expecting, sources=[look_again(expecting.sequences[0])])
    assert grown.reel.shots[0].last == 20
    assert grown.sequences[0].missing == tuple(range(15, 21))


def test_an_old_cut_frame_is_damage(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path)
    cut(folder / "shot.0004.png")
    assert only(folder).to_rerender == (4,)


@pytest.mark.parametrize("ahead", [3600, -3600])
def test_a_clock_that_is_an_hour_off_makes_no_frame_come(tmp_path: Path, ahead: int) -> None:
    source = rendering(tmp_path, there=8, each=2, expected=12)
    assert arrival_of(source, NOW).is_coming
    assert not arrival_of(source, NOW + ahead * SECOND).is_coming


def test_only_what_came_or_changed_is_opened_again(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    opened: list[str] = []

    def counting(path: Path, frame: int | None = None) -> Header:
        opened.append(path.name)
        return look(path, frame)

    monkeypatch.setattr(header_scan, "look", counting)
    folder = write_sequence(tmp_path)
    for path in folder.iterdir():
        aged(path)
    source = only(folder)
    assert len(opened) == source.count
    opened.clear()
    write_sequence(folder, frames=range(3, 4))
    cut(folder / "shot.0005.png")
    for _ in range(2):
        assert look_again(source).damaged == (5,)
    assert set(opened) == {"shot.0003.png", "shot.0005.png"}
