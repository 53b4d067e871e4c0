from __future__ import annotations

import errno
import hashlib
import os
import shutil
import signal
import threading
import time
from fractions import Fraction
from pathlib import Path

import numpy as np
import PyOpenColorIO
import pytest

from tests.making import cut, gradient, job_of, write_sequence, write_tone
from waxseal.core.deliver.compare.written_check import CheckOfWritten
from waxseal.core.deliver.encode.segments.segment_file import Segment
from waxseal.core.deliver.encode.writers.movie_writer import MovieWriter as Writer
from waxseal.core.deliver.format.delivery_settings import reel_key_of
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.process.worker_process import EncodingProcess
from waxseal.core.deliver.queue.still_sealed import is_still_sealed
from waxseal.core.deliver.run import delivery_run
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.run.preflight import preflight
from waxseal.core.errors import DeliveryRefused, WorkerLost
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import Lut
from waxseal.core.job.edits import (
    change_colourway,
    change_delivery,
    change_reading,
    mark,
    record_outcome,
    set_correction,
    set_framing,
    set_reel_rate,
    set_reel_size,
)
from waxseal.core.job.edits.edit_tools import with_reel
from waxseal.core.job.model import (
    Bitrate,
    Colour,
    ConstantQuality,
    DeliveryState,
    Framing,
    Job,
    Order,
    Outcome,
    Size,
    StandIn,
)
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, Progress, silent
from waxseal.core.seal.likeness import Likeness
from waxseal.core.seal.measure.file_facts import Measured
from waxseal.core.seal.measure.measure_movie import measure_movie as measure
from waxseal.core.seal.record import read_seal, seal_path


def made(job: Job, *, overwrite: bool = False, origin: str = "") -> Outcome:
    return make_delivery(
        job, job.deliveries[0], silent, CancelToken(), overwrite=overwrite, origin=origin
    )


def sealed(job: Job) -> Measured:
    outcome = made(job, overwrite=True)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return measure(path_of(job.deliveries[0]))


def files_beside(job: Job) -> list[str]:
    return sorted(file.name for file in Path(job.deliveries[0].folder).iterdir())


@pytest.fixture
def job(tmp_path: Path) -> Job:
    return job_of(write_sequence(tmp_path / "frames", frames=range(1, 25)))


def test_a_folder_becomes_a_sealed_file(job: Job) -> None:
    measured = sealed(job)
    assert (measured.frames, measured.rate) == (24, Fraction(24))
    assert (measured.width, measured.height) == (64, 36)
    assert measured.colour == (1, 1, 1, False)
    assert measured.sound is None
    assert measured.profile == "High"
    assert files_beside(job) == ["shot.mp4", "shot.mp4.seal.json"]


def test_what_it_was_made_with_is_named_in_the_seal(job: Job, tmp_path: Path) -> None:
    """The LUT of the delivery, of a shot, of a source, and the config that one is read by."""
    looks = {}
    for name in ("show", "shot", "camera"):
        looks[name] = tmp_path / f"{name}.cube"
        looks[name].write_text(f"TITLE {name}\nLUT_1D_SIZE 2\n0 0 0\n1 1 1\n")
    config = tmp_path / "config.ocio"
    usual = PyOpenColorIO.Config.CreateFromBuiltinConfig("studio-config-latest")
    config.write_text(usual.serialize())
    job = change_reading(job, source="s1", lut=str(looks["camera"]))
    job = set_correction(job, of="a1", correction=Lut(path=str(looks["shot"])))
    plainly = change_delivery(job, delivery="d1", lut=str(looks["show"]))
    job = change_reading(plainly, source="s1", colour=Colour.OWN, space="ACEScct")
    job = change_colourway(job, config=str(config))
    for one, files in ((plainly, [*looks.values()]), (job, [config, *looks.values()])):
        sealed(one)
        said = (read_seal(path_of(one.deliveries[0])) or {})["made_with"]
        wanted = {(f.name, hashlib.sha256(f.read_bytes()).hexdigest()) for f in files}
        assert {(each["name"], each["sha256"]) for each in said} == wanted


@pytest.mark.parametrize(
    "rate", ["24", "25", "30", "60", "12", "15", "24000/1001", "30000/1001", "60000/1001", "12.5"]
)
def test_every_rate_is_exact(job: Job, rate: str) -> None:
    exact = Fraction(rate)
    measured = sealed(change_reading(job, source="s1", rate=exact))
    assert measured.rate == exact
    assert measured.seconds == pytest.approx(float(24 / exact), abs=1e-9)


def test_the_sound_is_in_the_file_and_as_long_as_the_picture(tmp_path: Path) -> None:
    write_tone(tmp_path / "frames" / "tone.wav", seconds=3.0, rate=44_100)
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 26)))
    job = change_reading(job, source="s1", rate=Fraction(30_000, 1001))
    measured = sealed(job)
    assert measured.sound is not None
    assert (measured.sound.codec, measured.sound.sample_rate) == ("aac", 44_100)
    assert measured.sound.seconds == Fraction(round(25 * 1001 / 30_000 * 44_100), 44_100)


def digest(job: Job) -> str:
    made(job, overwrite=True)
    return hashlib.sha256(path_of(job.deliveries[0]).read_bytes()).hexdigest()


def test_the_same_job_gives_the_same_bytes(tmp_path: Path) -> None:
    """At a width where the encoder's default gave other bytes from one run to the next."""
    write_tone(tmp_path / "frames" / "tone.wav", seconds=1.0)
    folder = write_sequence(tmp_path / "frames", frames=range(1, 25), width=320, height=180)
    job = job_of(folder)
    first = digest(job)
    seal = seal_path(path_of(job.deliveries[0])).read_bytes()
    busy = [threading.Thread(target=spin, daemon=True) for _ in range(3)]
    for thread in busy:
        thread.start()
    assert {digest(job) for _ in range(3)} == {first}
    assert seal_path(path_of(job.deliveries[0])).read_bytes() == seal


def spin() -> None:
    until = time.monotonic() + 4
    while time.monotonic() < until:
        hashlib.sha256(bytes(1 << 20))


def test_a_marked_range_is_all_that_is_delivered(job: Job) -> None:
    assert sealed(mark(job, first=5, last=9)).frames == 5


def test_twos_on_a_faster_reel(job: Job) -> None:
    twos = set_reel_rate(change_reading(job, source="s1", rate=Fraction(12)), rate=Fraction(24))
    measured = sealed(twos)
    assert (measured.frames, measured.rate) == (48, Fraction(24))


def test_odd_sizes_are_made_even_and_it_is_said(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "frames", width=63, height=35))
    outcome = made(job)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert any("63 × 35 becomes 64 × 36" in note for note in outcome.notes)
    assert measure(path_of(job.deliveries[0])).width == 64


def test_another_size_and_order(job: Job) -> None:
    other = set_framing(
        set_reel_size(job, size=Size(width=50, height=50)), shot="a1", framing=Framing.FILL
    )
    measured = sealed(change_reading(other, source="s1", order=Order.REVERSED))
    assert (measured.width, measured.height) == (50, 50)


def test_a_bitrate_makes_another_file_than_a_quality(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "frames", frames=range(1, 49), width=320, height=180)
    job = job_of(folder)
    sizes = []
    for quality in (
        ConstantQuality(figure=10),
        ConstantQuality(figure=40),
        Bitrate(bits_per_second=60_000),
        Bitrate(bits_per_second=400_000),
    ):
        sealed(change_delivery(job, delivery="d1", quality=quality))
        sizes.append(path_of(job.deliveries[0]).stat().st_size)
    assert sizes[0] > sizes[1]
    assert sizes[3] > sizes[2]


# ---- refusals ------------------------------------------------------------------------------


def test_missing_and_damaged_frames_refuse_with_the_list(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "frames", frames=range(1, 13))
    for gone in (3, 4, 9):
        (folder / f"shot.{gone:04}.png").unlink()
    cut(folder / "shot.0007.png")
    job = job_of(folder)
    outcome = made(job)
    assert outcome.state is DeliveryState.REFUSED
    assert outcome.reasons == (
        "4 frames of shot cannot be used (3-4,9 are missing, 7 is damaged): "
        "render them again, or choose a stand-in.",
    )
    assert files_beside(job) == []


@pytest.mark.parametrize("stand_in", [StandIn.HOLD, StandIn.NEAREST, StandIn.BLACK])
def test_a_stand_in_lets_it_through_and_says_which(tmp_path: Path, stand_in: StandIn) -> None:
    folder = write_sequence(tmp_path / "frames", frames=range(1, 13))
    (folder / "shot.0003.png").unlink()
    cut(folder / "shot.0007.png")
    outcome = made(change_reading(job_of(folder), source="s1", stand_in=stand_in))
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert any("for 3,7" in note for note in outcome.notes)


def test_frames_that_vanish_meanwhile_are_listed_whole(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "frames", frames=range(1, 41))
    job = job_of(folder)
    gone = (12, 20, 33)

    def report(progress: Progress) -> None:
        if progress.stage == "encoding" and progress.done == 1:
            for frame in gone:
                (folder / f"shot.{frame:04}.png").unlink(missing_ok=True)

    outcome = make_delivery(job, job.deliveries[0], report, CancelToken())
    assert outcome.state is DeliveryState.REFUSED
    assert "frames 12,20,33 could not be read" in outcome.reasons[0]
    assert files_beside(job) == []


def test_frames_that_vanish_are_stood_in_where_that_was_chosen(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "frames", frames=range(1, 41))
    job = change_reading(job_of(folder), source="s1", stand_in=StandIn.HOLD)

    def report(progress: Progress) -> None:
        if progress.stage == "encoding" and progress.done == 1:
            (folder / "shot.0030.png").unlink(missing_ok=True)

    outcome = make_delivery(job, job.deliveries[0], report, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert "shot: the frame before stands in for 30." in outcome.notes


def test_nothing_is_overwritten_unless_told(job: Job) -> None:
    path = path_of(job.deliveries[0])
    path.write_bytes(b"somebody's film")
    outcome = made(job)
    assert outcome.state is DeliveryState.REFUSED
    assert "there already" in outcome.reasons[0]
    assert path.read_bytes() == b"somebody's film"
    assert made(job, overwrite=True).state is DeliveryState.SEALED


def again(job: Job, *, overwrite: bool = False) -> Job:
    """Deliver, and keep on record how it ended."""
    outcome = made(job, overwrite=overwrite, origin="job.waxseal")
    return record_outcome(job, delivery="d1", outcome=outcome)


def state_of(job: Job) -> DeliveryState:
    outcome = job.deliveries[0].outcome
    assert outcome is not None
    return outcome.state


def test_a_delivery_is_made_again_over_its_own_file_without_asking(
    job: Job, tmp_path: Path
) -> None:
    sealed_once = again(job)
    before = path_of(job.deliveries[0]).read_bytes()
    write_pixels(tmp_path / "frames" / "shot.0003.png", gradient(20))
    sealed_twice = again(sealed_once)
    assert state_of(sealed_twice) is DeliveryState.SEALED
    assert path_of(job.deliveries[0]).read_bytes() != before
    assert made(job, origin="other.waxseal").state is DeliveryState.REFUSED
    assert made(job).state is DeliveryState.REFUSED


def test_what_was_sealed_stays_its_own_after_a_try_that_failed(job: Job, tmp_path: Path) -> None:
    sealed_once = again(job)
    frame = tmp_path / "frames" / "shot.0003.png"
    whole = frame.read_bytes()
    frame.write_bytes(b"damaged")
    refused = again(sealed_once)
    assert state_of(refused) is DeliveryState.REFUSED
    frame.write_bytes(whole)
    assert state_of(again(refused)) is DeliveryState.SEALED


def test_a_file_that_somebody_changed_is_not_its_own(job: Job) -> None:
    sealed_once = again(job)
    path = path_of(job.deliveries[0])
    path.write_bytes(path.read_bytes() + b"more")
    outcome = made(sealed_once)
    assert outcome.state is DeliveryState.REFUSED
    assert "there already" in outcome.reasons[0]
    consented = again(sealed_once, overwrite=True)
    assert state_of(consented) is DeliveryState.SEALED
    path.write_bytes(b"somebody's film")
    assert state_of(again(consented)) is DeliveryState.REFUSED  # asked each time


def test_frames_that_are_replaced_while_they_are_encoded_are_encoded_again(
    job: Job, tmp_path: Path
) -> None:
    """What is sealed was on the disk as one state: the last one."""
    replaced: list[Path] = []

    def report(progress: Progress) -> None:
        if progress.stage == "encoding" and progress.done == 20 and not replaced:
            for number in range(1, 25):
                path = tmp_path / "frames" / f"shot.{number:04d}.png"
                write_pixels(path, gradient(number + 7))
                replaced.append(path)

    outcome = make_delivery(job, job.deliveries[0], report, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert replaced
    assert not any("replaced" in one for one in outcome.notes)
    again = made(job, overwrite=True)
    assert again.sha256 == outcome.sha256


def test_frames_that_are_replaced_again_and_again_are_not_sealed(job: Job, tmp_path: Path) -> None:
    count = 0

    def report(progress: Progress) -> None:
        nonlocal count
        if progress.stage == "encoding":
            count += 1
            write_pixels(tmp_path / "frames" / "shot.0003.png", gradient(count % 60))

    outcome = make_delivery(job, job.deliveries[0], report, CancelToken())
    assert outcome.state is DeliveryState.REFUSED
    assert "replaced again and again" in outcome.reasons[0]
    assert "shot.0003.png" in outcome.reasons[0]


def test_a_frame_that_is_half_written_when_it_is_read_is_read_again(
    job: Job, tmp_path: Path
) -> None:
    """It is not called damaged, nor does anything stand in for it: its file was being replaced."""
    path = tmp_path / "frames" / "shot.0024.png"
    whole = path.read_bytes()
    steps = iter([b"", whole])
    before = 10**6

    def report(progress: Progress) -> None:
        nonlocal before
        if progress.stage == "encoding" and progress.done < before:  # another try has begun
            for step in steps:
                path.write_bytes(step)
                break
        before = progress.done if progress.stage == "encoding" else 10**6

    outcome = make_delivery(job, job.deliveries[0], report, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert next(steps, None) is None
    assert not any("shot.0024" in one for one in outcome.notes)


def test_a_frame_that_is_replaced_while_it_is_checked_is_said(job: Job, tmp_path: Path) -> None:
    """The seal is of what was encoded, and the delivery is not taken for up to date."""

    def report(progress: Progress) -> None:
        if progress.stage == "checking" and progress.done == 20:
            for number in (1, 12):
                write_pixels(tmp_path / "frames" / f"shot.{number:04d}.png", gradient(40))

    outcome = make_delivery(job, job.deliveries[0], report, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert "shot: 1,12 were replaced while the delivery was made" in " ".join(outcome.notes)
    delivery = record_outcome(job, delivery="d1", outcome=outcome).deliveries[0]
    planned = programme(job)
    assert not is_still_sealed(
        delivery, reel_key=planned.key, film_key=planned.film().key(), token=CancelToken()
    )


def test_marks_are_of_no_concern_to_a_delivery_with_a_range_of_its_own(job: Job) -> None:
    ranged = change_delivery(job, delivery="d1", range=(3, 8))
    marked = with_reel(ranged, marked=(2, 9))
    before, after = programme(ranged), programme(marked)
    own = ranged.deliveries[0]
    assert reel_key_of(before, own) == reel_key_of(after, own)
    follows = job.deliveries[0]
    assert reel_key_of(before, follows) != reel_key_of(after, follows)


def test_a_file_that_comes_meanwhile_is_not_overwritten(job: Job) -> None:
    path = path_of(job.deliveries[0])

    def report(progress: Progress) -> None:
        if progress.stage == "checking":
            path.write_bytes(b"somebody's film")

    outcome = make_delivery(job, job.deliveries[0], report, CancelToken())
    assert outcome.state is DeliveryState.REFUSED
    assert "meanwhile" in outcome.reasons[0]
    assert path.read_bytes() == b"somebody's film"
    assert files_beside(job) == ["shot.mp4"]


def refusal(job: Job) -> str:
    with pytest.raises(DeliveryRefused) as caught:
        preflight(job, job.deliveries[0])
    return str(caught.value)


def test_the_folder_has_to_be_there_and_take_files(
    job: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    gone = change_delivery(job, delivery="d1", folder="/nowhere/at/all")
    assert "does not exist" in refusal(gone)
    monkeypatch.setattr("os.access", lambda *_: False)
    assert "can be written" in refusal(job)


def test_a_source_is_never_written_to(job: Job, tmp_path: Path) -> None:
    frame = tmp_path / "frames" / "shot.0001.mp4"
    folder = str(tmp_path / "frames")
    link = tmp_path / "out" / "link.mp4"
    link.symlink_to(tmp_path / "frames" / "shot.0001.png")
    linked = change_delivery(job, delivery="d1", name="link.mp4")
    assert "never written to" in refusal(linked)
    beside = change_delivery(job, delivery="d1", name=frame.name, folder=folder)
    assert preflight(beside, beside.deliveries[0]).timeline.length == 24


def test_links_that_lead_round_are_no_crash(tmp_path: Path) -> None:
    write_tone(tmp_path / "frames" / "tone.wav")
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 25)))
    tone, other = tmp_path / "frames" / "tone.wav", tmp_path / "frames" / "other.wav"
    tone.unlink()
    tone.symlink_to(other)
    other.symlink_to(tone)
    assert "tone.wav is not there any more" in refusal(job)


def test_a_folder_under_the_name_is_said(job: Job) -> None:
    path_of(job.deliveries[0]).mkdir()
    assert "is a folder" in refusal(job)


def test_space_is_looked_at_before(job: Job, monkeypatch: pytest.MonkeyPatch) -> None:
    class Usage:
        free = 1000

    monkeypatch.setattr("shutil.disk_usage", lambda _path: Usage)
    assert "1.0 kB are free" in refusal(job)


@pytest.mark.parametrize(
    ("number", "what"), [(errno.ENOSPC, "disk is full"), (errno.EFBIG, "grew larger")]
)
def test_a_full_disk_leaves_what_was_there(
    job: Job, monkeypatch: pytest.MonkeyPatch, number: int, what: str
) -> None:
    def add(_self: Writer, _segment: Segment) -> None:
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr(Writer, "add", add)
    path_of(job.deliveries[0]).write_bytes(b"before")
    outcome = made(job, overwrite=True)
    assert outcome.state is DeliveryState.REFUSED
    assert what in outcome.reasons[0]
    assert path_of(job.deliveries[0]).read_bytes() == b"before"
    assert files_beside(job) == ["shot.mp4"]


def test_too_small_and_too_large_are_refused(job: Job) -> None:
    assert "too small" in refusal(set_reel_size(job, size=Size(width=8, height=8)))
    assert "is larger than H.264" in refusal(
        set_reel_size(job, size=Size(width=30_000, height=400))
    )


def test_a_file_that_is_not_good_enough_is_put_aside(
    job: Job, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The check is real: a film of which one frame is another's is not sealed."""
    other = job_of(write_sequence(tmp_path / "other" / "frames", frames=range(1, 25)))
    frame = tmp_path / "other" / "frames" / "shot.0008.png"
    write_pixels(frame, 255 - gradient(8))
    assert sealed(other).frames == 24
    foreign = path_of(other.deliveries[0])
    monkeypatch.setattr(
        delivery_run, "flush_to_disk", lambda partial: shutil.copy(foreign, partial)
    )
    outcome = made(job)
    assert outcome.state is DeliveryState.REFUSED
    assert any("Frame 8 does not look like" in reason for reason in outcome.reasons)
    assert files_beside(job) == ["shot.refused.mp4"]


def test_stopping_leaves_nothing(job: Job) -> None:
    token = CancelToken()

    def report(progress: Progress) -> None:
        if progress.done == 5:
            token.cancel()

    outcome = make_delivery(job, job.deliveries[0], report, token)
    assert outcome.state is DeliveryState.STOPPED
    assert files_beside(job) == []


# ---- in a process of its own ---------------------------------------------------------------


@pytest.fixture(scope="module")
def long_frames(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("long")
    return write_sequence(folder, frames=range(1, 200), width=320, height=180)


@pytest.fixture
def long_job(long_frames: Path, tmp_path: Path) -> Job:
    out = tmp_path / "out"
    out.mkdir()
    return change_delivery(job_of(long_frames), delivery="d1", folder=str(out))


def test_a_process_delivers_and_reports(job: Job) -> None:
    seen: list[Progress] = []
    outcome = EncodingProcess().deliver(
        job, job.deliveries[0], report=seen.append, token=CancelToken()
    )
    assert outcome.state is DeliveryState.SEALED
    assert [one.stage for one in seen if one.done == one.total] == ["encoding", "checking"]
    record = read_seal(path_of(job.deliveries[0]))
    assert record is not None
    assert record["sha256"] == outcome.sha256


def test_a_process_is_stopped_and_cleans_up(long_job: Job) -> None:
    token = CancelToken()

    def report(progress: Progress) -> None:
        if progress.done == 3:
            token.cancel()

    outcome = EncodingProcess().deliver(
        long_job, long_job.deliveries[0], report=report, token=token
    )
    assert outcome.state is DeliveryState.STOPPED
    assert files_beside(long_job) == []


def test_a_process_that_is_killed_is_said_and_leaves_nothing(long_job: Job) -> None:
    process = EncodingProcess()

    def report(progress: Progress) -> None:
        if progress.done == 3:
            os.kill(process._process.pid, signal.SIGKILL)

    with pytest.raises(WorkerLost, match="without a message"):
        process.deliver(long_job, long_job.deliveries[0], report=report, token=CancelToken())
    assert files_beside(long_job) == []


def test_a_process_that_has_nothing_to_do_ends() -> None:
    process = EncodingProcess()
    process.close()
    assert process._process.returncode == 0


@pytest.mark.parametrize("codec", ["H.264", "ProRes LT", "FFV1", "MJPEG", "PNG", "PNG 16", "DPX"])
def test_flashes_are_said_and_refused_where_they_may_not_be(tmp_path: Path, codec: str) -> None:
    (tmp_path / "f").mkdir()
    for number in range(1, 37):
        level = 230 if number % 4 < 2 else 20
        values = np.full((90, 160, 3), level, np.uint8)
        values[:30, : number * 3] = 90
        write_pixels(tmp_path / "f" / f"f.{number:04}.png", values)
    job = change_delivery(job_of(tmp_path / "f"), delivery="d1", codec=codec, name="flashing")
    outcome = made(job)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    (said,) = [note for note in outcome.notes if "flashes in a second" in note]
    assert said.startswith("Frames 1-36 have 6 flashes in a second over")
    assert (read_seal(path_of(job.deliveries[0])) or {})["flashes"][0]["in_a_second"] == 6
    outcome = made(change_delivery(job, delivery="d1", no_flashes=True, name="refused"))
    assert outcome.state is DeliveryState.REFUSED
    assert said in outcome.reasons


@pytest.mark.parametrize("codec", ["PNG", "PNG 16", "DPX", "FFV1"])
def test_a_slow_pulse_is_no_flash_whatever_the_depth(tmp_path: Path, codec: str) -> None:
    (tmp_path / "f").mkdir()
    for number in range(1, 37):
        values = np.full((90, 160, 3), 100 + number, np.uint8)
        values[:30, : number * 3] = 90
        write_pixels(tmp_path / "f" / f"f.{number:04}.png", values)
    outcome = made(change_delivery(job_of(tmp_path / "f"), delivery="d1", codec=codec, name="calm"))
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert not [note for note in outcome.notes if "flashes" in note]


@pytest.mark.parametrize(
    ("codec", "figure", "hint"),
    [
        ("H.264", 49.0, "among the coarsest of H.264: choose a better quality."),
        ("H.265", 38.0, "are little but noise, H.265 leaves much out: try a better quality."),
    ],
)
def test_where_pictures_are_unlike_it_is_said_what_helps(
    job: Job, monkeypatch: pytest.MonkeyPatch, codec: str, figure: float, hint: str
) -> None:
    unlike = Likeness(8, 30.0, 3, (3,))
    monkeypatch.setattr(CheckOfWritten, "likeness", unlike)
    quality = ConstantQuality(figure=figure)
    job = change_delivery(job, delivery="d1", codec=codec, quality=quality)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.REFUSED
    assert hint in " ".join(outcome.reasons)
