"""Moved files are found again by name and number."""

from __future__ import annotations

import shutil
from pathlib import Path

from tests.making import job_of, write_movie, write_sequence, write_tone
from waxseal.core.arrive.header_scan import look_again
from waxseal.core.arrive.relink import find_again, is_lost
from waxseal.core.job.edits import change_reading, refresh_sources, relink, trim_tail
from waxseal.core.job.model import Health, Job, Origin, StandIn


def moved_job(tmp_path: Path) -> Job:
    """Two sequences, a movie and a sound, and all of it somewhere else by now."""
    for name in ("sh010", "sh020"):
        write_sequence(tmp_path / "old" / name, f"{name}.%04d.png")
    write_movie(tmp_path / "old" / "live" / "live.mov", count=12)
    write_tone(tmp_path / "old" / "tone.wav")
    job = job_of(tmp_path / "old")
    shutil.move(tmp_path / "old", tmp_path / "new")
    return job


def test_all_is_found_at_once_and_reads_as_before(tmp_path: Path) -> None:
    job = moved_job(tmp_path)
    name = job.sequences[0].id
    job = change_reading(job, source=name, stand_in=StandIn.HOLD)
    job = trim_tail(job, shot=job.reel.shots[0].id, last=5)
    assert all(is_lost(source) for source in job.sources)
    refound = find_again(job, tmp_path / "new")
    assert len(refound) == len(job.sources) == 4
    assert {(one.there, one.known) for one in refound} == {(8, 8), (1, 1)}
    linked = relink(job, sources=[one.source for one in refound])
    assert not any(is_lost(source) for source in linked.sources)
    for source in linked.sequences:
        linked = refresh_sources(linked, sources=[look_again(source)])
    assert {source.health for source in linked.sequences} == {Health.WHOLE}
    assert linked.sequences[0].reading.stand_in.origin is Origin.SAID
    assert linked.reel.shots[0].last == 5


def test_one_alone_is_looked_for(tmp_path: Path) -> None:
    job = moved_job(tmp_path)
    (refound,) = find_again(job, tmp_path / "new", only=[job.sequences[1].id])
    assert refound.source.name == job.sequences[1].name


def test_the_place_with_the_most_frames_wins_then_the_likest_path(tmp_path: Path) -> None:
    write_sequence(tmp_path / "show" / "sh010")
    job = job_of(tmp_path / "show")
    write_sequence(tmp_path / "other" / "proofs", frames=range(1, 4))
    write_sequence(tmp_path / "other" / "a" / "sh011")
    write_sequence(tmp_path / "other" / "b" / "sh010")
    (refound,) = find_again(job, tmp_path / "other")
    assert refound.folder == tmp_path / "other" / "b" / "sh010"
    assert (refound.there, refound.known) == (8, 8)


def test_what_is_where_it_was_is_no_match(tmp_path: Path) -> None:
    write_sequence(tmp_path / "f")
    assert find_again(job_of(tmp_path / "f"), tmp_path / "f") == ()


def test_names_without_common_numbers_are_no_match(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "f"))
    write_sequence(tmp_path / "g", frames=range(100, 110))
    assert find_again(job, tmp_path / "g") == ()
