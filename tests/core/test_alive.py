"""What a process left is its own, whoever has its number by now."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest

from tests.making import dead_process, gradient, job_of, sequence, write_sequence
from waxseal.core import process_identity
from waxseal.core.arrive.measure_cache import MeasureCache
from waxseal.core.atomic_write import partial_name
from waxseal.core.deliver.encode.segments.segment_store import SegmentStore
from waxseal.core.job.model import Colourway
from waxseal.core.picture.copies.proxy_folder import LightCopies
from waxseal.core.plan.programme import recipe
from waxseal.core.process_identity import is_alive, is_process_name, process_name


def test_a_process_is_there_by_its_name_until_it_ends() -> None:
    with subprocess.Popen([sys.executable, "-c", "input()"], stdin=subprocess.PIPE) as other:
        name = process_name(other.pid)
        assert is_alive(name)
        assert is_alive(process_name())
        other.kill()
        os.waitid(os.P_PID, other.pid, os.WEXITED | os.WNOWAIT)
        assert not is_alive(name), "it has ended, and nobody has asked how"
    assert not is_alive(name)
    assert process_name(other.pid) == str(other.pid)


def test_another_process_may_have_the_number() -> None:
    name = dead_process()
    assert name.startswith(f"{os.getpid()}-")
    assert not is_alive(name)
    assert is_alive(str(os.getpid())), "a number alone, as earlier versions wrote it"


def test_a_process_that_is_hidden_is_there(monkeypatch: pytest.MonkeyPatch) -> None:
    """Of another user, where the system is set up so: what it writes is not taken for left over."""
    name = process_name()
    monkeypatch.setattr(process_identity, "facts_of", lambda _number: [])
    assert is_alive(name)
    assert not is_alive("4194304-1"), "above the largest number that there is"


@pytest.mark.parametrize("text", ["", "-1", "12-", "12-3-4", "x", "1" * 11, "²"])
def test_what_is_no_name_of_a_process(text: str) -> None:
    assert not is_process_name(text)
    assert not is_alive(text)


def test_what_was_begun_for_a_cache_does_not_stay(tmp_path: Path) -> None:
    left = [partial_name(tmp_path / name / "a", dead_process()) for name in ("s", "c", "m")]
    for file in left:
        file.parent.mkdir()
        file.write_bytes(b"half")
    ours = partial_name(tmp_path / "s" / "b")
    ours.write_bytes(b"half")

    with SegmentStore(tmp_path / "s").writing("1") as segment:
        segment.write(b"segment")
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 3)))
    shot = recipe(job, 1).shot
    assert shot is not None
    LightCopies(tmp_path / "c").keep(shot.shown, Colourway(), gradient(1, dtype="float32"))
    MeasureCache(tmp_path / "m").keep(sequence(), {})

    assert not any(file.exists() for file in left)
    assert ours.exists()
