"""Helper processes: what they give back, and what becomes of the one that falls."""

from __future__ import annotations

import math
import os
import signal
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from tests.making import job_of as making_job_of
from tests.making import write_sequence
from waxseal.core import helpers
from waxseal.core.arrive.decode_check import look_deep
from waxseal.core.arrive.measure_cache import MeasureCache
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.process import worker_process
from waxseal.core.deliver.process.worker_process import EncodingProcess
from waxseal.core.deliver.process.worker_start import start_process
from waxseal.core.errors import FrameError, HelperLost
from waxseal.core.frames.decode_ahead import decode
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.job.model import DeliveryState, FindingKind, Sequence
from waxseal.core.progress import CancelToken, silent

# A decoder that takes its process down on one file, in place of the real one.
FALLING = """
import importlib.machinery, importlib.util, os, sys
spec = importlib.machinery.PathFinder.find_spec(
    "OpenEXR", [one for one in sys.path if one != os.path.dirname(__file__)])
real = importlib.util.module_from_spec(spec)
spec.loader.exec_module(real)

class File(real.File):
    def __init__(self, name, *rest, **more):
        if os.fspath(name).endswith("1003.exr"):
            os.abort()
        super().__init__(name, *rest, **more)
"""


@pytest.fixture(autouse=True)
def _two_helpers(no_helpers: None) -> Iterator[None]:
    helpers.use_helpers(2)
    yield
    helpers.dismiss_helpers()


def first_of(folder: Path) -> Path:
    write_sequence(folder, "shot.%04d.exr", frames=range(1, 2), width=640, height=360)
    return folder / "shot.0001.exr"


def test_a_frame_comes_back_as_it_is_here(tmp_path: Path) -> None:
    path = first_of(tmp_path)
    there, here = decode(path, frame=1), read_pixels(path, frame=1)
    assert there.header == here.header
    assert there.values.dtype == here.values.dtype
    assert np.array_equal(there.values.view(np.uint16), here.values.view(np.uint16))
    assert there.values.flags.writeable


def test_errors_come_back_as_themselves(tmp_path: Path) -> None:
    missing = tmp_path / "x.exr"
    with pytest.raises(FrameError, match="not there") as caught:
        decode(missing, frame=7)
    assert caught.value.path == missing
    assert caught.value.frame == 7


def test_a_library_s_error_comes_back_in_words() -> None:
    with pytest.raises(ValueError, match="math domain"):
        helpers.run_apart("", math.sqrt, -1)


@pytest.fixture
def shot(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Five frames, the third of which the helpers' decoder falls on."""
    fakes = tmp_path / "fakes"
    fakes.mkdir()
    (fakes / "OpenEXR.py").write_text(FALLING)
    monkeypatch.setenv("PYTHONPATH", str(fakes))
    return write_sequence(tmp_path / "shot", "shot.%04d.exr", frames=range(1001, 1006))


def test_a_helper_that_falls_costs_one_frame(shot: Path) -> None:
    for _ in range(2):  # the second time it is remembered
        with pytest.raises(FrameError, match="its decoder failed"):
            decode(shot / "shot.1003.exr", frame=1003)
    assert decode(shot / "shot.1004.exr").values.shape == (36, 64, 3)


def test_a_file_that_a_helper_fell_on_is_not_tried_again(
    shot: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = shot / "shot.1003.exr"
    with pytest.raises(FrameError):
        decode(path)

    def no_more(*_args: object) -> None:
        raise AssertionError

    monkeypatch.setattr("waxseal.core.frames.isolated.run_apart", no_more)
    with pytest.raises(FrameError, match="signal 6"):
        decode(path)


@pytest.mark.alone
def test_a_helper_that_does_not_come_back_is_given_up(monkeypatch: pytest.MonkeyPatch) -> None:
    with monkeypatch.context() as impatient:
        impatient.setattr(helpers, "LONGEST_S", 0.2)
        with pytest.raises(HelperLost, match="did not come back"):
            helpers.run_apart("", time.sleep, 60)
    assert helpers.run_apart("", math.sqrt, 4.0) == 2.0


def test_a_close_look_goes_on_past_a_frame_that_its_decoder_falls_on(shot: Path) -> None:
    (source,) = scan([shot]).sources
    assert isinstance(source, Sequence)
    looked = look_deep(source)
    (damaged,) = [one for one in looked.found.findings if one.kind is FindingKind.DAMAGED]
    assert damaged.frame == 1003
    assert "signal 6" in damaged.what


def test_many_ask_few_helpers() -> None:
    results: list[float] = []

    def ask(number: int) -> None:
        results.extend(helpers.run_apart("", math.sqrt, float(n * n)) for n in range(number, 20))

    threads = [threading.Thread(target=ask, args=(number,)) for number in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(results) == sorted(float(n) for number in range(6) for n in range(number, 20))


def test_one_movie_stays_with_one_helper() -> None:
    """Each keeps open what it decoded: two would both decode all frames."""
    kept = {helpers.run_apart("a movie", os.getpid)}
    other = {helpers.run_apart("another", os.getpid)}
    for _ in range(3):
        helpers.run_apart("", os.getpid)
        kept.add(helpers.run_apart("a movie", os.getpid))
        other.add(helpers.run_apart("another", os.getpid))
    assert len(kept) == len(other) == 1
    assert os.getpid() not in kept | other


def test_two_threads_never_work_on_one_movie_at_once() -> None:
    together = [
        threading.Thread(target=helpers.run_apart, args=("", time.sleep, 0.1)) for _ in range(2)
    ]
    for thread in together:  # so that both helpers stand
        thread.start()
    for thread in together:
        thread.join()
    begun = time.monotonic()
    threads = [
        threading.Thread(target=helpers.run_apart, args=("a movie", time.sleep, 0.3))
        for _ in range(3)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert time.monotonic() - begun > 0.9  # one sleep after another; side by side it were 0.6


def test_a_helper_that_somebody_ended_is_no_damage(shot: Path) -> None:
    helper = helpers.run_apart("", os.getpid)
    os.kill(helper, signal.SIGKILL)
    assert decode(shot / "shot.1001.exr").values.shape == (36, 64, 3)  # the next one does it


def test_what_was_not_the_file_s_fault_is_tried_again(
    shot: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (source,) = scan([shot]).sources
    assert isinstance(source, Sequence)
    memory = MeasureCache(tmp_path / "kept")

    def ended(*_args: object, **_more: object) -> None:
        raise HelperLost("its decoder was ended", is_outside=True)

    with monkeypatch.context() as patched:
        patched.setattr("waxseal.core.frames.isolated.run_apart", ended)
        looked = look_deep(source, memory=memory)
        assert {one.what for one in looked.found.findings} == {"not decoded: its decoder was ended"}
    again = look_deep(source, memory=memory)
    assert [one.frame for one in again.found.findings] == [1003]


def test_a_delivery_names_the_frame_that_its_decoder_falls_on(
    shot: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    # What makes the decoder fall is loaded as Python starts.
    monkeypatch.setattr(worker_process, "start_process", start_process)
    job = making_job_of(shot)
    outcome = EncodingProcess().deliver(job, job.deliveries[0], report=silent, token=CancelToken())
    assert outcome.state is DeliveryState.REFUSED
    assert "frame 1003 could not be read" in outcome.reasons[0]
    assert "its decoder failed (signal 6)" in outcome.reasons[0]
    assert sorted(file.suffix for file in shot.parent.iterdir() if file.is_file()) == []
