"""Claps and flashes are found, and how far apart they are, in sums and in a sealed file."""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
import soundfile

from tests.cli.test_commands import run
from waxseal.core.arrive.scanning import scan
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import take_in
from waxseal.core.job.model import Job, Size
from waxseal.core.picture.generated_media import make_marks
from waxseal.core.plan.clap_offset import line_up
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.progress import CancelToken
from waxseal.core.sound.clap_finder import claps_in, flashes_in, lined_up

RATE = 48_000


def clapping(at: list[float], seconds: float) -> np.ndarray:
    """Claps in a room that hums."""
    random = np.random.default_rng(4)
    samples = random.standard_normal((round(seconds * RATE), 2)).astype(np.float32) * 0.001
    clap = random.uniform(-0.8, 0.8, 2400) * np.exp(-np.arange(2400) / 400)
    for second in at:
        first = round(second * RATE)
        samples[first : first + 2400] += clap[: len(samples) - first, None].astype(np.float32)
    return samples


@pytest.mark.parametrize("block", [500, 48_000])
def test_claps_are_found_where_they_begin(block: int) -> None:
    samples = clapping([0.5, 1.25, 3.0], 4)
    blocks = (samples[at : at + block] for at in range(0, len(samples), block))
    assert claps_in(blocks, RATE) == pytest.approx([0.5, 1.25, 3.0], abs=0.0005)


def test_a_tone_and_noise_are_no_claps() -> None:
    tone = 0.3 * np.sin(np.arange(4 * RATE) / 20) * np.minimum(1, np.arange(4 * RATE) / RATE)
    assert claps_in([np.stack([tone, tone], axis=1).astype(np.float32)], RATE) == ()
    noise = np.random.default_rng(1).standard_normal((4 * RATE, 1)).astype(np.float32) * 0.1
    assert len(claps_in([noise], RATE)) <= 1  # its beginning
    assert claps_in([], RATE) == ()


def test_flashes_are_jumps_of_the_whole_frame() -> None:
    assert flashes_in([0.1, 0.1, 0.8, 0.1, 0.2, 0.9]) == (2, 5)
    assert flashes_in([0.1, 0.15, 0.2]) == ()
    assert flashes_in([]) == ()


def test_how_late_the_sound_is() -> None:
    flashes = [1.0, 3.0, 5.0]
    assert lined_up([1.05, 3.05, 5.05], flashes).late == pytest.approx(0.05)
    assert lined_up([0.9, 2.9], flashes).late == pytest.approx(-0.1)
    assert lined_up([20.0, 22.0], flashes).late is None
    assert lined_up([], flashes).late is None


def test_a_file_is_checked_by_its_claps(tmp_path: Path) -> None:
    """Two flashes, and claps that a sound editor laid 80 ms late."""
    folder = tmp_path / "marks"
    folder.mkdir()
    for number in range(1, 73):
        level = 235 if number in (25, 49) else 20
        write_pixels(folder / f"marks.{number:04}.png", np.full((72, 128, 3), level, np.uint8))
    for name, late, words in (("late", 0.08, " ms late"), ("right", 0.0, "together")):
        sound = tmp_path / f"{name}.wav"
        soundfile.write(sound, clapping([1 + late, 2 + late], 3), RATE, subtype="FLOAT")
        out = tmp_path / f"{name}.mp4"
        made = run("assemble", folder, "--rate", "24", "--sound", sound, "--out", out)
        assert made.returncode == 0, made.stderr
        found = json.loads(run("check", out, "--json").stdout)["sync"]
        assert found["flashes"] == pytest.approx([1.0, 2.0])
        assert found["late"] == pytest.approx(late, abs=0.002)
        (told,) = [line for line in run("check", out).stdout.splitlines() if "sync:" in line]
        assert "2 claps beside 2 flashes" in told
        assert told.endswith(words)


@pytest.mark.parametrize("rate", [Fraction(24), Fraction(30_000, 1001)])
def test_marks_are_made_to_check_a_destination(tmp_path: Path, rate: Fraction) -> None:
    """Their flashes and claps are together, and their sound says their rate."""
    folder = make_marks(tmp_path, Size(width=64, height=36), rate)
    job = take_in(Job(), sources=scan([folder]).sources, folder=str(tmp_path))
    (frames,) = job.sequences
    assert frames.reading.rate.value == rate
    assert [one.bound for one in job.reel.sounds] == [True]
    found = line_up(timeline_of(job), job.reel.sounds[0], None, CancelToken())
    assert len(found.flashes) == len(found.claps) == 4
    assert found.late == pytest.approx(0, abs=0.0005)
