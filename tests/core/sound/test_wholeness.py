"""A sound of which a part is missing is not heard as silence: it is said, and refused."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile

from tests.cli.test_commands import run
from tests.making import job_of, write_sequence
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.job.edits import change_reading
from waxseal.core.job.model import DeliveryState
from waxseal.core.progress import CancelToken, silent
from waxseal.core.sound.sound_files import probe_sound

RATE, SECONDS = 48_000, 4


def write(path: Path) -> Path:
    chance = np.random.default_rng(3)
    heard = (0.2 * chance.normal(size=(RATE * SECONDS, 2))).astype(np.float32)
    if path.suffix in (".mp3", ".opus"):
        with av.open(str(path), "w", format="ogg" if path.suffix == ".opus" else None) as out:
            track = out.add_stream("libopus" if path.suffix == ".opus" else "libmp3lame", rate=RATE)
            track.layout = "stereo"
            frame = av.AudioFrame.from_ndarray(
                (heard.clip(-1, 1) * 32767).astype(np.int16).reshape(1, -1), "s16", "stereo"
            )
            frame.sample_rate = RATE
            fifo = av.AudioFifo()
            fifo.write(frame)
            size = track.codec_context.frame_size or 960
            while (part := fifo.read(size)) is not None:
                out.mux(track.encode(part))
            out.mux(track.encode())
    else:
        soundfile.write(path, heard, RATE)
    return path


NAMES = ("a.wav", "a.aiff", "a.flac", "a.ogg", "a.opus", "a.mp3", "a.w64", "a.rf64")


@pytest.mark.parametrize("name", NAMES)
def test_a_whole_sound_is_whole(tmp_path: Path, name: str) -> None:
    found = probe_sound(write(tmp_path / name))
    assert found.damage == ""
    assert abs(found.samples - RATE * SECONDS) < 3000  # codecs pad


@pytest.mark.parametrize("name", ["a.wav", "a.aiff", "a.flac", "a.ogg", "a.opus", "a.mp3", "a.w64"])
@pytest.mark.parametrize("share", [0.5, 0.97])
def test_a_part_of_one_is_cut_short(tmp_path: Path, name: str, share: float) -> None:
    path = write(tmp_path / name)
    content = path.read_bytes()
    path.write_bytes(content[: int(len(content) * share)])
    assert "cut short" in probe_sound(path).damage


@pytest.mark.parametrize("name", ["a.wav", "a.aiff"])
def test_a_single_sample_that_is_missing_is_missing(tmp_path: Path, name: str) -> None:
    path = write(tmp_path / name)
    path.write_bytes(path.read_bytes()[:-4])
    assert "about 99% of it is there" in probe_sound(path).damage


def test_an_ogg_with_a_hole_is_damaged(tmp_path: Path) -> None:
    path = write(tmp_path / "a.ogg")
    content = bytearray(path.read_bytes())
    content[20_000:29_000] = bytes(9000)
    path.write_bytes(content)
    assert "damaged at about" in probe_sound(path).damage


def test_a_flac_that_says_days_is_not_believed(tmp_path: Path) -> None:
    path = write(tmp_path / "a.flac")
    content = bytearray(path.read_bytes())
    content[21] |= 0x0F  # the upper bits of its count of samples: RFC 9639, 8.2
    path.write_bytes(content)
    assert probe_sound(path).damage


def unknown_length(content: bytearray) -> None:
    """As a writer leaves it that was recording into a pipe."""
    at = content.index(b"data") + 4
    content[at : at + 4] = b"\xff" * 4


def longer_list(content: bytearray) -> None:
    """Words behind the samples, as recorders write them."""
    content += b"LIST\x04\0\0\0abcd"


@pytest.mark.parametrize("change", [unknown_length, longer_list])
def test_what_is_odd_and_whole_is_whole(
    tmp_path: Path, change: Callable[[bytearray], None]
) -> None:
    path = write(tmp_path / "a.wav")
    content = bytearray(path.read_bytes())
    change(content)
    path.write_bytes(content)
    assert probe_sound(path).damage == ""


@pytest.mark.parametrize("is_cut_later", [False, True])
def test_a_delivery_that_needs_it_is_refused(tmp_path: Path, *, is_cut_later: bool) -> None:
    """Half a WAV was sealed with silence behind it; also one that was whole when it came."""
    folder = write_sequence(tmp_path / "frames", frames=range(1, 25))
    path = write(folder / "shot.wav")
    half = path.read_bytes()[: path.stat().st_size // 2]
    if not is_cut_later:
        path.write_bytes(half)
    job = change_reading(job_of(folder), source="s1", rate=24)
    path.write_bytes(half)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.REFUSED
    assert "shot.wav is not whole: it is cut short: about 50% of it is there" in outcome.reasons[0]


def test_a_scan_says_it(tmp_path: Path) -> None:
    path = write(tmp_path / "a.ogg")
    path.write_bytes(path.read_bytes()[:-5000])
    done = run("scan", tmp_path)
    assert done.returncode == 1
    assert "a.ogg is not whole: it is cut short" in done.stdout
    (told,) = json.loads(run("scan", tmp_path, "--json").stdout)["sources"]
    assert "cut short" in told["damage"]
