"""Sounds by command: what is bound by itself, what is laid, and what is said of it."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from tests.cli.test_commands import answer, run
from tests.making import cut, write_sequence, write_tone
from waxseal.core.job.edits import lay_sound, lift_sound, trim_head
from waxseal.core.job.job_file import load, save
from waxseal.core.sound.sound_files import read_blocks

RATE = 48_000


@pytest.fixture
def frames(tmp_path: Path) -> Path:
    """A second at 24, numbered from 1001, and the sound of its name with a click at 0.5 s."""
    folder = write_sequence(tmp_path / "sh010", "sh010.%04d.png", frames=range(1001, 1025))
    samples = np.zeros((RATE, 2), np.float32)
    samples[RATE // 2] = 0.9
    soundfile.write(folder / "sh010.wav", samples, RATE, subtype="PCM_24")
    return folder


@pytest.fixture
def music(tmp_path: Path) -> Path:
    return write_tone(tmp_path / "music.wav", seconds=3)


def sounds_of(job: Path) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = json.loads(run("show", job, "--json").stdout)["sounds"]
    return found


def test_what_lies_beside_frames_is_bound_and_others_are_laid(
    frames: Path, music: Path, tmp_path: Path
) -> None:
    job = tmp_path / "orrery.waxseal"
    made = run("new", job, frames, "--rate", "24", "--sound", f"{music}@13-3dB", "--json")
    bound, free = answer(made)["sounds"]
    assert bound == {
        **{"source": "sh010.wav", "shot": "a1", "bound": True, "from": 1, "head": 0.0},
        **{"seconds": 1.0, "gain_db": 0.0, "fade_in": 0.0, "fade_out": 0.0},
    }
    assert free == {
        **{"source": "music.wav", "shot": None, "bound": False, "from": 13, "head": 0.0},
        **{"seconds": 0.5, "gain_db": -3.0, "fade_in": 0.0, "fade_out": 0.0},
    }
    shown = run("show", job).stdout
    assert "sh010.wav with sh010; music.wav from frame 13, −3 dB" in shown
    assert "music.wav is 2.500 s longer: its tail is cut." in shown


def test_frames_can_be_left_without_their_sound(frames: Path, music: Path, tmp_path: Path) -> None:
    job = tmp_path / "orrery.waxseal"
    assert answer(run("new", job, frames, "--no-sound", "--json"))["sounds"] == []
    only = run("new", job, frames, "--no-sound", "--sound", music, "--overwrite", "--json")
    assert [one["source"] for one in answer(only)["sounds"]] == ["music.wav"]


def test_a_sound_of_another_name_gives_way_to_one_that_is_named(
    frames: Path, music: Path, tmp_path: Path
) -> None:
    (frames / "sh010.wav").rename(frames / "scratch.wav")
    job = tmp_path / "orrery.waxseal"
    alone = answer(run("new", job, frames, "--json"))["sounds"]
    assert [(one["source"], one["bound"]) for one in alone] == [("scratch.wav", True)]
    named = answer(run("new", job, frames, "--sound", music, "--overwrite", "--json"))["sounds"]
    assert [one["source"] for one in named] == ["music.wav"]


def test_its_own_sound_is_not_laid_twice(frames: Path, tmp_path: Path) -> None:
    job, own = tmp_path / "orrery.waxseal", frames / "sh010.wav"
    (bound,) = answer(run("new", job, frames, "--sound", f"{own}-6dB", "--json"))["sounds"]
    assert (bound["bound"], bound["gain_db"]) == (True, -6.0)
    placed = answer(run("new", job, frames, "--sound", f"{own}@5", "--overwrite", "--json"))
    assert [(one["bound"], one["from"]) for one in placed["sounds"]] == [(False, 5)]


def test_the_name_of_a_file_comes_before_what_it_could_say(frames: Path, tmp_path: Path) -> None:
    odd = write_tone(tmp_path / "tick@2-3dB.wav", seconds=0.2)
    again = odd.rename(tmp_path / "tick@2-3dB")
    job = tmp_path / "orrery.waxseal"
    made = answer(run("new", job, frames, "--sound", again, "--json"))["sounds"]
    assert [(one["source"], one["from"]) for one in made][-1] == ("tick@2-3dB", 1)


@pytest.mark.parametrize(
    ("sound", "says"),
    [("music.wav@x", "it is not there"), ("music.wav@3+400dB", "a gain goes from")],
)
def test_what_is_no_place_is_said(frames: Path, music: Path, sound: str, says: str) -> None:
    wrong = run("new", music.parent / "a", frames, "--sound", music.parent / sound)
    assert wrong.returncode == 2
    assert says in wrong.stderr


def test_reversed_frames_turn_their_sound_or_leave_it_out(frames: Path, tmp_path: Path) -> None:
    def click_in(out: Path, *more: str) -> list[int]:
        made = run("assemble", frames, "--rate", "24", "--reverse", "--out", out, *more, "--json")
        assert made.returncode == 0, made.stderr
        said = json.loads(made.stdout)["notes"]
        assert any("backwards" in note for note in said)
        samples = np.concatenate(list(read_blocks(out, start=0, block=RATE)))
        return list(np.flatnonzero(np.abs(samples).max(axis=1) > 0.1))

    assert click_in(tmp_path / "turned.mov") == [RATE // 2 - 1]
    assert click_in(tmp_path / "silent.mov", "--reversed-sound", "left out") == []


def test_a_sound_that_strayed_from_its_picture_wants_a_decision(
    frames: Path, tmp_path: Path
) -> None:
    """As jobs were once: the sound lay from the reel's start, whatever its frames did."""
    path = tmp_path / "old.waxseal"
    assert run("new", path, frames, "--rate", "24").returncode == 0
    job = trim_head(load(path), shot="a1", first=1011)
    save(lay_sound(lift_sound(job, sound="m1"), source=job.sounds[0].id), path)
    shown = run("show", path, "--json")
    assert shown.returncode == 1
    rows = {row["what"]: row for row in json.loads(shown.stdout)["deliveries"][0]["match"]}
    assert rows["sound"]["state"] == "needs a decision"
    assert "sh010.wav is heard 10 frames after its picture" in rows["sound"]["done"]
    refused = run("deliver", path, "--json")
    assert refused.returncode == 1
    assert "bind it to its shot" in json.loads(refused.stdout)["deliveries"][0]["reasons"][0]


def test_sounds_that_are_too_loud_together_are_said(frames: Path, tmp_path: Path) -> None:
    loud = tmp_path / "loud.wav"
    soundfile.write(loud, np.full((RATE, 2), 0.9), RATE, subtype="FLOAT")
    out = tmp_path / "out.mov"
    made = run("assemble", frames, "--rate", "24", "--sound", loud, "--out", out, "--json")
    assert made.returncode == 0, made.stderr
    said = " ".join(answer(made)["notes"])
    assert "swings 5.1 dB over full scale, first at 0.500 s, and is cut there" in said


def test_a_close_look_says_what_a_listener_would(tmp_path: Path) -> None:
    samples = np.zeros((RATE * 4, 2), np.float32)
    samples[:RATE] = 0.3 * np.sin(np.arange(RATE) / 20)[:, None]
    samples[1000:1010] = 1.0
    soundfile.write(tmp_path / "a.wav", samples, RATE, subtype="FLOAT")
    (sound,) = json.loads(run("scan", tmp_path, "--deep", "--json").stdout)["sources"]
    said = [one["what"] for one in sound["findings"]]
    assert said[0].startswith("it is clipped at ")
    assert said[1].endswith(" to 4.000 s")
    told = run("scan", tmp_path, "--deep")
    assert "a.wav: it is silent from" in told.stdout + told.stderr


@pytest.mark.parametrize("suffix", ["wav", "flac", "ogg"])
def test_a_sound_that_is_not_whole_is_refused_unless_said(
    frames: Path, tmp_path: Path, suffix: str
) -> None:
    (frames / "sh010.wav").unlink()
    noise = np.random.default_rng(1).uniform(-0.3, 0.3, (RATE, 2))
    soundfile.write(frames / f"sh010.{suffix}", noise, RATE)
    cut(frames / f"sh010.{suffix}")
    out = tmp_path / "a.mov"
    order = ("assemble", frames, "--rate", "24", "--out", out, "--json")
    refused = run(*order)
    assert refused.returncode == 1
    assert "is not whole" in json.loads(refused.stdout)["reasons"][0]
    made = run(*order, "--accept-damaged-sound")
    assert made.returncode == 0, made.stderr
    assert "It is used all the same." in " ".join(answer(made)["notes"])
    samples = np.concatenate(list(read_blocks(out, start=0, block=RATE)))
    assert len(samples) == RATE
    assert samples[: RATE // 3].any()
    assert not samples[RATE * 2 // 3 :].any()


def test_what_is_heard_first_is_told(frames: Path, tmp_path: Path) -> None:
    path = tmp_path / "trimmed.waxseal"
    assert run("new", path, frames, "--rate", "24").returncode == 0
    save(trim_head(load(path), shot="a1", first=1013), path)
    (told,) = sounds_of(path)
    assert (told["from"], told["head"], told["seconds"]) == (1, 0.5, 0.5)
