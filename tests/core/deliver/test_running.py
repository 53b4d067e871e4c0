from __future__ import annotations

import json
from pathlib import Path

from tests.making import dead_process, job_of, write_sequence
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.queue.running_deliveries import note_running, take_interrupted
from waxseal.core.folders import running_folder
from waxseal.core.process_identity import process_name


def test_what_a_gone_process_was_making_is_told_once(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "a", frames=range(1, 3)))
    note_running(job.deliveries)
    assert take_interrupted(job) == ()  # this process is there
    own = running_folder() / f"{process_name()}.json"
    own.rename(own.with_stem(dead_process()))
    assert [one.id for one in take_interrupted(job)] == ["d1"]
    assert take_interrupted(job) == ()


def test_an_orderly_end_leaves_nothing_and_other_jobs_stay(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "a", frames=range(1, 3)))
    note_running(job.deliveries)
    note_running(())
    assert not list(running_folder().iterdir())
    other = running_folder() / "999999999.json"
    other.write_text(json.dumps(["/elsewhere/film.mp4"]))
    broken = running_folder() / "999999998.json"
    broken.write_text("{")
    assert take_interrupted(job) == ()
    assert other.exists()
    other.write_text(json.dumps([str(path_of(job.deliveries[0]))]))
    assert len(take_interrupted(job)) == 1
