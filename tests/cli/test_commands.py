"""The command line as scripts use it: flags, keys, exit codes, and every bad input."""

from __future__ import annotations

import csv
import json
import os
import re
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import chdir, contextmanager
from pathlib import Path
from tempfile import TemporaryFile
from typing import Any

import numpy as np
import pytest
from pymediainfo import MediaInfo
from typer.testing import CliRunner

from tests.making import cut, emptied, gradient, write_layers, write_sequence, write_tone
from waxseal.cli.commands import app
from waxseal.cli.scan_command import cell
from waxseal.core.deliver.format.quality import parse_bitrate
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.seal.record import seal_path

WAXSEAL = (sys.executable, "-m", "waxseal.cli.main")
UNWANTED = re.compile("Traceback|nanobind|leaked")


def run(*words: object, cwd: Path | None = None) -> subprocess.CompletedProcess[str]:
    """Run a command in this process: it costs half a second less than one of its own.

    Whatever happens, no traceback and no library's own words are shown, nor by its worker.
    """
    with chdir(cwd or Path.cwd()), outer_errors() as others:
        done = CliRunner().invoke(app, [os.fspath(as_word(word)) for word in words])
    assert done.exception is None or isinstance(done.exception, SystemExit), done.exception
    assert not UNWANTED.search(done.stderr + "".join(others)), (done.stderr, others)
    return subprocess.CompletedProcess(
        [str(one) for one in words], done.exit_code, done.stdout, done.stderr
    )


@contextmanager
def outer_errors() -> Iterator[list[str]]:
    """What libraries and other processes write to the errors, all of it at the end."""
    written: list[str] = []
    before = os.dup(2)
    with TemporaryFile() as file:
        os.dup2(file.fileno(), 2)
        try:
            yield written
        finally:
            os.dup2(before, 2)
            os.close(before)
            file.seek(0)
            written.append(file.read().decode(errors="replace"))


def run_as_process(*words: object, **more: Any) -> subprocess.CompletedProcess[str]:
    """As a user does it; whatever happens, no traceback and no library's own words are shown."""
    done = subprocess.run(
        [*WAXSEAL, *map(os.fspath, map(as_word, words))],
        capture_output=True,
        text=True,
        errors="surrogateescape",
        timeout=120,
        check=False,
        **more,
    )
    assert not UNWANTED.search(done.stderr), done.stderr
    return done


def as_word(word: object) -> str:
    return str(word)


def answer(done: subprocess.CompletedProcess[str]) -> dict[str, Any]:
    document = json.loads(done.stdout)
    assert isinstance(document, dict)
    return document


@pytest.fixture
def frames(tmp_path: Path) -> Path:
    return write_sequence(tmp_path / "frames", frames=range(1, 13))


@pytest.fixture
def out(tmp_path: Path) -> Path:
    (tmp_path / "out").mkdir()
    return tmp_path / "out" / "film.mp4"


# ---- scan ----------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["shot.%04d.tif", "shot.%04d.dpx", "shot.%04d.jpg"])
def test_frames_of_every_library_are_delivered_and_nothing_else_is_said(
    tmp_path: Path, out: Path, name: str
) -> None:
    """The library that reads them counts what is left of its own objects, and would complain."""
    folder = write_sequence(tmp_path / "f", name, frames=range(1, 4), width=640, height=360)
    words = ("--out", out, "--rate", "24", "--size", "320x180")
    done = run_as_process("assemble", folder, *words)
    assert done.returncode == 0, done.stderr


def test_scan_gives_the_keys_that_scripts_rely_on(frames: Path) -> None:
    (frames / "shot.0004.png").unlink()
    cut(frames / "shot.0009.png")
    done = run("scan", frames, "--json")
    assert done.returncode == 1
    (source,) = answer(done)["sources"]
    facts = {key: source[key] for key in ("name", "kind", "first", "last", "count", "missing")}
    assert facts == {
        "name": "shot",
        "kind": "sequence",
        "first": 1,
        "last": 12,
        "count": 11,
        "missing": "4",
    }
    assert (source["damaged"], source["rerender"]) == ("9", "4,9")
    assert (source["size"], source["channels"]) == ([64, 36], ["R", "G", "B"])
    assert (source["rate"], source["rate_origin"]) == ("24", "guess")
    assert (source["alpha"], source["colour"], source["health"]) == ("none", "sRGB", "damaged")
    (finding,) = source["findings"]
    assert (finding["frame"], finding["file"]) == (9, "shot.0009.png")
    assert source["pattern"].endswith("frames/shot.####.png")


def test_scan_names_what_belongs_to_no_sequence(frames: Path) -> None:
    (frames / "shot.0013.png.part").write_bytes(b"x")
    done = run("scan", frames, "--json")
    assert done.returncode == 0
    assert answer(done)["sources"][0]["others"] == ["shot.0013.png.part"]
    assert "beside it: shot.0013.png.part" in run("scan", frames).stdout


def test_scan_of_whole_frames_is_done_and_readable(frames: Path) -> None:
    done = run("scan", frames)
    assert done.returncode == 0
    assert "shot.####.png  1-12  12 frames  whole" in done.stdout
    assert "a guess: say --rate" in done.stdout
    assert "looking: 12 of 12" in done.stderr


def test_scan_answers_on_standard_output_alone(frames: Path) -> None:
    done = run("scan", frames, "--json")
    assert answer(done)["sources"]
    assert done.stderr


def test_what_was_expected_counts_both_ends(frames: Path) -> None:
    done = run("scan", frames, "--expect", "0-15", "--json")
    assert done.returncode == 1
    (source,) = answer(done)["sources"]
    assert (source["expected"], source["missing"]) == ("0-15", "0,13-15")
    assert (source["first"], source["last"], source["count"]) == (1, 12, 12)
    assert "12 of 16 frames  gaps" in run("scan", frames, "--expect", "0-15").stdout
    assert run("scan", frames, "--expect", "1-12").returncode == 0
    assert run("scan", frames, "--expect", "9-3").returncode == 2


def test_looking_closely_finds_what_a_good_header_hides(frames: Path) -> None:
    write_pixels(frames / "shot.0005.png", gradient(5) * 0)
    path = frames / "shot.0008.png"
    content = bytearray(path.read_bytes())
    content[len(content) * 3 // 4] ^= 0x55
    path.write_bytes(content)
    assert run("scan", frames).returncode == 0
    done = run("scan", frames, "--deep", "--json")
    assert done.returncode == 1
    (source,) = answer(done)["sources"]
    assert (source["damaged"], source["rerender"]) == ("8", "8")
    assert [(one["frame"], one["kind"]) for one in source["findings"]] == [
        (5, "black"),
        (8, "damaged"),
    ]
    assert "looking closely: 12 of 12" in done.stderr


def test_a_table_for_a_spreadsheet(frames: Path) -> None:
    (frames / "shot.0004.png").unlink()
    write_tone(frames / "tone.wav", seconds=0.5)
    done = run("scan", frames, "--csv")
    shot, tone = list(csv.DictReader(done.stdout.splitlines()))
    assert (shot["name"], shot["missing"], shot["size"]) == ("shot", "4", "64x36")
    assert shot["channels"] == "R G B"
    assert (tone["kind"], tone["channels"]) == ("sound", "2")
    assert run("scan", frames, "--csv", "--json").returncode == 2


# ---- assemble ------------------------------------------------------------------------------


def test_assemble_and_check_give_the_same_facts(frames: Path, out: Path) -> None:
    done = run("assemble", frames, "--out", out, "--rate", "25", "--json")
    assert done.returncode == 0, done.stderr
    made = answer(done)
    assert made["state"] == "sealed"
    assert (made["frames"], made["rate"], made["size"]) == (12, "25", [64, 36])
    assert made["seconds"] == pytest.approx(0.48)
    assert made["codec"] == "h264"
    assert made["bytes"] == out.stat().st_size
    assert Path(made["seal"]).is_file()
    checked = run("check", out, "--json")
    assert checked.returncode == 0
    again = answer(checked)
    for key in ("state", "frames", "rate", "size", "seconds", "codec", "bytes", "sha256", "seal"):
        assert again[key] == made[key]


def test_every_flag_of_assemble(frames: Path, out: Path, tmp_path: Path) -> None:
    tone = write_tone(tmp_path / "tone.wav", seconds=2)
    done = run(
        *("assemble", frames, "--out", out, "--rate", "12", "--to-rate", "24", "--size", "80x40"),
        *("--framing", "fill", "--range", "3-10", "--reverse", "--quality", "draft"),
        *("--sound", tone, "--stand-in", "hold", "--ground", "#102030", "--colour", "srgb"),
        *("--overwrite", "--json"),
    )
    assert done.returncode == 0, done.stderr
    made = answer(done)
    assert (made["frames"], made["rate"], made["size"]) == (8, "24", [80, 40])
    record = json.loads(Path(made["seal"]).read_text())
    assert record["sound"]["codec"] == "aac"
    assert record["sound"]["seconds"] == pytest.approx(8 / 24, abs=1e-4)
    assert record["sources"][0]["order"] == "reversed"


def test_the_sound_beside_the_frames_comes_along_unless_told(frames: Path, out: Path) -> None:
    write_tone(frames / "tone.wav", seconds=0.5)
    made = answer(run("assemble", frames, "--out", out, "--json"))
    assert json.loads(Path(made["seal"]).read_text())["sound"]["codec"] == "aac"
    silent = answer(run("assemble", frames, "--out", out, "--no-sound", "--overwrite", "--json"))
    assert json.loads(Path(silent["seal"]).read_text())["sound"] is None


def test_several_sequences_of_one_size_follow_each_other(frames: Path, out: Path) -> None:
    write_sequence(frames, "other.%04d.png", frames=range(1, 5))
    done = run("assemble", frames, "--out", out, "--bitrate", "300k", "--json")
    assert answer(done)["frames"] == 16
    assert "other.####.png 1-4 at 24, shot.####.png 1-12 at 24" in done.stderr


@pytest.mark.parametrize(
    ("join", "frames_made", "words"),
    [
        ("dissolve 3", 13, "1 dissolve over 3 frames"),
        ("dip 4 white", 16, "1 dip over 4 frames"),
        ("cut", 16, ""),
    ],
)
def test_shots_are_joined(frames: Path, out: Path, join: str, frames_made: int, words: str) -> None:
    write_sequence(frames, "other.%04d.png", frames=range(1, 5))
    done = run("assemble", frames, "--out", out, "--join", join, "--json")
    assert answer(done)["frames"] == frames_made
    assert words in done.stderr
    assert ("dissolve" in done.stderr, "dip" in done.stderr) == ("diss" in join, "dip" in join)


def test_a_join_that_has_no_room_is_shorter_and_the_seal_says_so(frames: Path, out: Path) -> None:
    write_sequence(frames, "other.%04d.png", frames=range(1, 5))
    made = answer(run("assemble", frames, "--out", out, "--join", "dissolve 8", "--json"))
    note = (
        "The dissolve before shot 2, shot, is 3 frames long in place of 8: "
        "the shots are too short for more."
    )
    assert made["frames"] == 13
    assert note in made["notes"]
    assert note in json.loads(Path(made["seal"]).read_text())["notes"]


def test_what_is_said_of_short_joins_is_of_the_frames_that_are_made(
    frames: Path, out: Path
) -> None:
    write_sequence(frames, "a.%04d.png", frames=range(1, 7))
    write_sequence(frames, "b.%04d.png", frames=range(1, 3))  # has no room for two joins
    made = answer(run("assemble", frames, "--out", out, "--join", "dissolve 8", "--json"))
    cut = "The dissolve before shot 2, b, is a cut: one of the shots is too short."
    assert (made["frames"], cut in made["notes"]) == (19, True)
    later = ("--range", "9-12", "--overwrite", "--json")
    part = answer(run("assemble", frames, "--out", out, "--join", "dissolve 8", *later))
    assert not [note for note in part["notes"] if "dissolve" in note]


def test_sequences_of_several_sizes_ask_for_a_choice(frames: Path, out: Path) -> None:
    write_sequence(frames, "small.%04d.png", width=32, height=18)
    done = run("assemble", frames, "--out", out)
    assert done.returncode == 2
    assert "different sizes" in done.stderr
    one = run("assemble", frames / "small.0001.png", "--out", out, "--json")
    assert answer(one)["size"] == [32, 18]


def test_a_refused_delivery_says_why(frames: Path, out: Path) -> None:
    (frames / "shot.0004.png").unlink()
    done = run("assemble", frames, "--out", out, "--json")
    assert done.returncode == 1
    refused = answer(done)
    assert refused["state"] == "refused"
    assert "4 is missing" in refused["reasons"][0]
    assert refused["frames"] is None
    assert not out.exists()


@pytest.mark.parametrize(
    ("option", "value"),
    [
        ("--rate", "0"),
        ("--rate", "abc"),
        ("--rate", "1e9"),
        ("--to-rate", "-5"),
        ("--size", "big"),
        ("--size", "0x0"),
        ("--framing", "squeeze"),
        ("--range", "9-3"),
        ("--range", "5-99"),
        ("--range", "0-3"),
        ("--quality", "best"),
        ("--bitrate", "fast"),
        ("--stand-in", "guess"),
        ("--ground", "mauve"),
        ("--join", ""),
        ("--join", "wipe 8"),
        ("--join", "cut 8"),
        ("--join", "dissolve 0"),
        ("--join", "dissolve some"),
        ("--join", "dip 8 mauve"),
        ("--colour", "film"),
        ("--sound", "/nowhere.wav"),
    ],
)
def test_wrong_values_get_a_sentence(frames: Path, out: Path, option: str, value: str) -> None:
    done = run("assemble", frames, "--out", out, f"{option}={value}")
    assert done.returncode == 2, done.stderr
    assert done.stderr.strip().splitlines()[-1].endswith(".")
    assert list(out.parent.iterdir()) == []


def test_a_quality_and_a_bitrate_exclude_each_other(frames: Path, out: Path) -> None:
    done = run("assemble", frames, "--out", out, "--quality", "18", "--bitrate", "5M")
    assert done.returncode == 2
    assert "exclude" in done.stderr


def test_every_command_is_run_by_its_name(frames: Path, tmp_path: Path) -> None:
    job, film = tmp_path / "job.waxseal", tmp_path / "film.mp4"
    assert "shot.####.png" in run_as_process("scan", frames).stdout
    assert "wide web 1080p" in run_as_process("specs").stdout
    new = run_as_process("new", job, frames, "--rate", "24", "--spec", "chat attachment")
    assert new.returncode == 0, new.stderr
    assert "12 frames" in run_as_process("show", job).stdout
    delivered = run_as_process("deliver", job, "--out", tmp_path)
    assert delivered.returncode == 0, delivered.stderr
    assert run_as_process("assemble", frames, "--out", film, "--rate", "24").returncode == 0
    assert "sealed" in run_as_process("check", film).stdout
    assert run_as_process("key", "--make").returncode == 0


@pytest.mark.parametrize(
    "words", [["assemble"], ["scan"], ["check"], ["--nonsense"], ["scan", "-x"]]
)
def test_wrong_use_is_exit_code_2(words: list[str]) -> None:
    assert run_as_process(*words).returncode == 2


def test_help_and_version() -> None:
    assert "assemble" in run_as_process("--help").stdout
    assert "--stand-in" in run_as_process("assemble", "--help").stdout
    assert run_as_process("--version").stdout.startswith("Wax Seal ")


def test_without_a_screen_the_window_says_so(frames: Path) -> None:
    bare = {
        name: value
        for name, value in os.environ.items()
        if name not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    }
    done = run_as_process(frames, env=bare)
    assert done.returncode == 2
    assert "no screen" in done.stderr


# ---- bad input -----------------------------------------------------------------------------


def refused(*words: object, code: int, says: str) -> None:
    done = run(*words)
    assert done.returncode == code, done.stderr
    assert says in done.stderr


def test_an_empty_folder(tmp_path: Path, out: Path) -> None:
    (tmp_path / "empty").mkdir()
    refused("scan", tmp_path / "empty", code=2, says="There are no frames")
    refused("assemble", tmp_path / "empty", "--out", out, code=2, says="no frames in")


def test_a_folder_that_is_not_there(tmp_path: Path, out: Path) -> None:
    refused("scan", tmp_path / "none", code=2, says="is not there")
    refused("assemble", tmp_path / "none", "--out", out, code=2, says="is not there")


def test_text_named_exr(tmp_path: Path, out: Path) -> None:
    (tmp_path / "a.0001.exr").write_text("no picture here")
    refused("scan", tmp_path, code=1, says="looking")
    refused("assemble", tmp_path, "--out", out, code=1, says="no picture")


def test_a_frame_of_no_bytes_and_half_a_frame(tmp_path: Path, out: Path) -> None:
    folder = write_sequence(tmp_path / "a", "a.%04d.exr", dtype="float16")
    emptied(folder / "a.0002.exr")
    cut(folder / "a.0005.exr")
    assert "to re-render: 2,5" in run("scan", folder).stdout
    refused("assemble", folder, "--out", out, code=1, says="2,5 are damaged")


def test_one_frame_of_another_size_is_fitted_and_said(frames: Path, out: Path) -> None:
    write_pixels(frames / "shot.0004.png", gradient(4, width=32, height=32))
    assert run("scan", frames).returncode == 1
    done = run("assemble", frames, "--out", out, "--accept-guesses")
    assert done.returncode == 0
    assert "mixed: 32 × 32, the others 64 × 36" in done.stderr


def test_pixels_of_another_shape(frames: Path, out: Path) -> None:
    """The file has the size that is said; it is seen as wide as the shape makes it."""
    words = ("assemble", frames, "--out", out, "--rate", "24", "--pixel-shape", "4:3", "--json")
    assert answer(run(*words, "--size", "48x36"))["size"] == [48, 36]
    (picture,) = (one for one in MediaInfo.parse(out).tracks if one.track_type == "Video")
    assert float(picture.pixel_aspect_ratio) == pytest.approx(4 / 3, abs=1e-3)
    assert answer(run(*words, "--overwrite"))["size"] == [48, 36]
    for shape, says in (("x", "is not a pixel shape"), ("9", "outside 1:4 to 4:1")):
        refused(*words[:-3], "--pixel-shape", shape, code=2, says=says)
    refused(*words[:3], out.with_suffix(".mkv"), *words[4:], code=2, says="choose MP4, MOV")


def test_two_that_differ_only_in_padding(tmp_path: Path, out: Path) -> None:
    write_sequence(tmp_path / "f", "a.%04d.png", frames=range(1, 4))
    write_sequence(tmp_path / "f", "a.%d.png", frames=range(1, 4))
    done = run("assemble", tmp_path / "f", "--out", out, "--json")
    assert answer(done)["frames"] == 6
    assert "a.####.png 1-3 at 24, a.#.png 1-3 at 24" in done.stderr


@pytest.mark.parametrize(
    "name",
    [
        "with space.%04d.png",
        "quote'\".%04d.png",
        "%04d.%04d.png",
        "line\nbreak.%04d.png",
        "ü.%04d.png",
    ],
)
def test_odd_names(tmp_path: Path, out: Path, name: str) -> None:
    folder = write_sequence(tmp_path / "f", "plain.%04d.png", frames=range(1, 4))
    stem = name.replace(".%04d.png", "")
    for file in list(folder.iterdir()):
        file.rename(folder / file.name.replace("plain", stem))
    assert answer(run("scan", folder, "--json"))["sources"][0]["count"] == 3
    done = run("assemble", folder, "--out", out, "--json")
    assert answer(done)["state"] == "sealed", done.stderr


def test_names_of_bytes_that_are_no_text(tmp_path: Path, out: Path) -> None:
    folder = write_sequence(tmp_path / "f", "plain.%04d.exr", frames=range(1, 4), dtype="float16")
    for file in list(folder.iterdir()):
        file.rename(folder / os.fsdecode(b"bad\xff" + file.name[5:].encode()))
    done = run("assemble", folder, "--out", out, "--json")
    assert answer(done)["state"] == "sealed", done.stderr
    assert "bad\\xff.####.exr" in run("scan", folder).stdout


def test_a_loop_of_links(frames: Path, out: Path) -> None:
    (frames / "loop").symlink_to(frames)
    assert answer(run("assemble", frames, "--out", out, "--json"))["frames"] == 12


def test_an_output_folder_that_is_not_there(frames: Path, tmp_path: Path) -> None:
    out = tmp_path / "none" / "film.mp4"
    refused("assemble", frames, "--out", out, code=1, says="does not exist")


def test_an_output_that_is_a_source_or_no_mp4(frames: Path, tmp_path: Path) -> None:
    before = (frames / "shot.0001.png").read_bytes()
    refused("assemble", frames, "--out", frames / "shot.0001.png", code=2, says="is written as MP4")
    link = tmp_path / "link.mp4"
    link.symlink_to(frames / "shot.0001.png")
    refused("assemble", frames, "--out", link, "--overwrite", code=1, says="never written to")
    assert (frames / "shot.0001.png").read_bytes() == before


def test_waiting_until_all_frames_are_there(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "f", frames=range(1, 4))
    waiting = subprocess.Popen(
        [*WAXSEAL, "scan", str(folder), "--watch", "--expect", "1-5", "--json"],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
    )
    assert waiting.stderr is not None
    assert "3 of 5" in waiting.stderr.readline()
    write_sequence(folder, frames=range(4, 6))
    found, _ = waiting.communicate(timeout=60)
    assert waiting.returncode == 0
    assert json.loads(found)["sources"][0]["count"] == 5
    refused("scan", folder, "--watch", code=2, says="--watch needs --expect")


def test_the_re_render_lists_are_written_into_a_file(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "f")
    (folder / "shot.0003.png").unlink()
    cut(folder / "shot.0006.png")
    done = run("scan", folder, "--list", tmp_path / "again.txt", "--json")
    assert done.returncode == 1
    assert (tmp_path / "again.txt").read_text().splitlines() == [
        f"{folder}/shot.####.png",
        "  re-render: 3,6",
        "  not there: 3",
        "  damaged: 6",
        "",
    ]
    (source,) = json.loads(done.stdout)["sources"]
    assert source["rerender_reasons"] == {"not there": "3", "damaged": "6"}
    refused("scan", folder, "--list", tmp_path / "no" / "x", code=2, says="cannot be written")


def test_a_deep_scan_says_how_loud_a_sound_is(tmp_path: Path) -> None:
    write_tone(tmp_path / "tone.wav", seconds=3)
    (sound,) = json.loads(run("scan", tmp_path, "--deep", "--json").stdout)["sources"]
    assert -13 < sound["integrated_lufs"] < -11
    assert -12.2 < sound["true_peak_dbtp"] < -11.8


def test_a_sound_that_is_none(frames: Path, out: Path, tmp_path: Path) -> None:
    (tmp_path / "false.wav").write_text("no sound")
    refused(
        "assemble",
        frames,
        "--out",
        out,
        "--sound",
        tmp_path / "false.wav",
        code=2,
        says="it cannot be read as a sound",
    )


def test_check_of_what_is_no_video(tmp_path: Path) -> None:
    (tmp_path / "a.mp4").write_text("no video")
    done = run("check", tmp_path / "a.mp4", tmp_path / "none.mp4", "--json")
    assert done.returncode == 2
    assert [one["state"] for one in answer(done)["files"]] == ["refused", "refused"]


def test_check_sees_one_changed_byte(frames: Path, out: Path) -> None:
    run("assemble", frames, "--out", out)
    content = bytearray(out.read_bytes())
    content[-20] ^= 1
    out.write_bytes(content)
    done = run("check", out, "--json")
    assert done.returncode == 1
    assert answer(done)["state"] == "seal broken"


def test_a_disk_that_fills_up_leaves_nothing(tmp_path: Path, out: Path) -> None:
    """A limit on the size of files stands in for the disk: the same refusal to write on."""
    folder = write_sequence(tmp_path / "f", frames=range(1, 60), width=640, height=360, channels=3)
    limited = (
        "import resource, signal, sys; signal.signal(signal.SIGXFSZ, signal.SIG_IGN);"
        "resource.setrlimit(resource.RLIMIT_FSIZE, (20000, 20000));"
        "sys.argv = ['waxseal', *sys.argv[1:]];"
        "from waxseal.cli.main import main; main()"
    )
    done = subprocess.run(
        [
            sys.executable,
            "-c",
            limited,
            "assemble",
            str(folder),
            "--out",
            str(out),
            "--quality",
            "4",
        ],
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )
    assert done.returncode == 1, done.stderr
    assert "Traceback" not in done.stderr
    assert "disk" in done.stderr
    assert list(out.parent.iterdir()) == []


def test_a_sequence_that_is_short_at_its_end_is_refused(frames: Path, tmp_path: Path) -> None:
    said = ("assemble", frames, "--out", tmp_path / "a.mp4", "--rate", "24", "--expect")
    refused(*said, "1-14", code=1, says="13-14 are missing")
    refused(*said, "1001-1012", code=1, says="1001-1012 are missing")
    done = run(*said, "1-14", "--stand-in", "hold", "--json")
    assert answer(done)["frames"] == 14
    assert run(*said, "1-12", "--overwrite").returncode == 0


def test_a_range_in_the_numbers_of_the_files(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "late", frames=range(1001, 1013))
    out = tmp_path / "a.mp4"
    said = ("assemble", folder, "--out", out, "--rate", "24", "--overwrite")
    done = run(*said, "--frames", "1003-1006", "--json")
    found = answer(done)
    assert (found["frames"], found["range"]) == (4, "3-6")
    assert found["source_frames"] == {"shot.####.png": "1003-1006"}
    assert "shot.####.png 1003-1006 at 24 (frames 3-6 of the reel)" in done.stderr
    by_reel = answer(run(*said, "--range", "3-6", "--json"))
    assert by_reel["sha256"] == found["sha256"]
    backwards = answer(run(*said, "--frames", "1003-1006", "--reverse", "--json"))
    assert backwards["range"] == "7-10"
    assert backwards["source_frames"] == {"shot.####.png": "1003-1006"}
    halved = answer(run(*said, "--frames", "1003-1006", "--to-rate", "12", "--json"))
    assert (halved["frames"], halved["range"]) == (2, "2-3")
    refused(*said, "--frames", "1-4", code=2, says="The files have frames 1001-1012")
    refused(*said, "--frames", "1001", "--range", "1", code=2, says="give one of them")


def test_frames_that_say_no_rate_have_none(frames: Path) -> None:
    done = run("check", frames)
    assert done.returncode == 1  # they have no seal
    assert "12 frames without a rate, 64 × 36" in done.stdout
    found = answer(run("check", frames, "--json"))
    assert (found["state"], found["rate"], found["seconds"]) == ("unsealed", None, None)


# ---- stopping ------------------------------------------------------------------------------


def started(folder: Path, out: Path) -> subprocess.Popen[str]:
    process = subprocess.Popen(
        [*WAXSEAL, "assemble", str(folder), "--out", str(out)],
        stderr=subprocess.PIPE,
        text=True,
    )
    assert process.stderr is not None
    for line in process.stderr:
        if line.startswith("encoding"):
            return process
    raise AssertionError("it never began to encode")


@pytest.fixture(scope="module")
def long_frames(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return write_sequence(
        tmp_path_factory.mktemp("long"), frames=range(1, 300), width=320, height=180
    )


STOPS = [signal.SIGINT, signal.SIGTERM, signal.SIGHUP, signal.SIGQUIT]


@pytest.mark.parametrize("number", STOPS)
def test_ctrl_c_stops_cleanly(long_frames: Path, out: Path, number: signal.Signals) -> None:
    process = started(long_frames, out)
    process.send_signal(number)
    _, errors = process.communicate(timeout=30)
    assert process.returncode == 130
    assert "Traceback" not in errors
    assert list(out.parent.iterdir()) == []


def test_killed_without_a_word_it_leaves_nothing_under_the_name(
    long_frames: Path, out: Path
) -> None:
    process = started(long_frames, out)
    process.kill()
    process.communicate(timeout=30)
    until = time.monotonic() + 20
    while list(out.parent.iterdir()) and time.monotonic() < until:
        time.sleep(0.1)  # the encoding process sees that nobody listens, and cleans up
    assert list(out.parent.iterdir()) == []


def test_a_rate_that_is_a_guess_is_a_finding(frames: Path, out: Path) -> None:
    done = run("assemble", frames, "--out", out)
    assert done.returncode == 1
    assert out.is_file(), "it is made all the same"
    assert "is a guess: say --rate, or --accept-guesses" in done.stderr
    for said in (("--accept-guesses",), ("--rate", "24"), ("--to-rate", "25")):
        assert run("assemble", frames, "--out", out, "--overwrite", *said).returncode == 0


def test_a_layer_that_is_a_guess_is_a_finding(tmp_path: Path, out: Path) -> None:
    layers = {name: np.full((36, 64, 3), 0.5, np.float16) for name in ("left", "right", "depth")}
    folder = write_layers(tmp_path / "layers", layers, 6)
    scanned = run("scan", folder)
    assert scanned.returncode == 1
    assert "shows left: several can be the picture, a guess: say --part" in scanned.stdout
    assert "layer depth: RGB, depth" in scanned.stdout
    words = ("assemble", folder, "--out", out, "--rate", "24", "--overwrite")
    done = run(*words)
    assert done.returncode == 1
    assert out.is_file(), "it is made all the same"
    assert "shows “left”: say --part, or --accept-guesses where it is right." in done.stderr
    for said in (("--part", "right"), ("--accept-guesses",)):
        assert run(*words, *said).returncode == 0
    refused(*words, "--part", "middle", code=2, says="no part “middle”: it has left, right, depth")


def test_who_listens_no_more_does_not_stop_the_work(frames: Path, out: Path) -> None:
    """`assemble … 2>&1 | head -1`, a full device, and a closed stderr."""
    command = f"{sys.executable} -m waxseal.cli.main assemble {frames} --rate 24 --overwrite"
    for number, end in enumerate(("2>&1 | head -1", "2>/dev/full", "2>&-")):
        made = out.with_name(f"{number}.mp4")
        subprocess.run(["bash", "-c", f"{command} --out {made} {end}"], timeout=60, check=False)
        assert made.is_file(), end
        assert seal_path(made).is_file(), end


def test_cells_of_a_spreadsheet_are_text() -> None:
    assert cell("=1+1") == "'=1+1"
    assert cell("@x") == "'@x"
    assert cell("a\x1b[31mb") == "a\\x1b[31mb"
    assert cell("plain") == "plain"
    assert cell(12) == 12


def test_progress_is_plain_lines_where_there_is_no_terminal(frames: Path, out: Path) -> None:
    done = run("assemble", frames, "--out", out)
    assert "encoding: 12 of 12" in done.stderr
    assert "\x1b" not in done.stderr
    assert done.stdout == ""


def test_seals_are_signed_with_the_users_key(tmp_path: Path) -> None:
    none = run("key")
    assert (none.returncode, none.stdout) == (1, "")
    made = run("key", "--make")
    assert made.returncode == 0
    key = made.stdout.strip()
    assert json.loads(run("key", "--json").stdout)["key"] == key
    assert run("key", "--make").returncode == 2
    frames = write_sequence(tmp_path / "frames", frames=range(1, 5))
    video = tmp_path / "a.mp4"
    assert run("assemble", frames, "--rate", 24, "--out", video).returncode == 0
    assert f"signed by: {key}" in run("check", video, "--signed-by", key).stdout
    assert json.loads(run("check", video, "--json").stdout)["signed_by"] == key
    assert run("check", video, "--signed-by", "A" * 43 + "=").returncode == 1
    assert run("check", video, "--signed-by", "somebody").returncode == 2


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--out", ""], "has no name"),
        (["--out", "x" * 230 + ".mp4"], "too long"),
        (["--out", "{file}/x.mp4"], "does not exist"),
        (["--out", "/proc/x.mp4"], "choose another folder"),
        (["--out", "{folder}/x.mp4", "--size", "99999x99999"], "1 to 32768 pixels"),
        (["--out", "{folder}/x.mp4", "--bitrate", "1k"], "10k to 2000M"),
        (["--out", "{folder}/x.mp4", "--burn-in", "x" * 5000], "too long"),
    ],
)
def test_what_cannot_be_is_said_in_our_own_words(
    tmp_path: Path, words: list[str], said: str
) -> None:
    frames = write_sequence(tmp_path / "frames", frames=range(1, 3))
    (tmp_path / "file").touch()
    places = {"{file}": str(tmp_path / "file"), "{folder}": str(tmp_path)}
    for name, place in places.items():
        words = [word.replace(name, place) for word in words]
    done = run("assemble", frames, "--rate", 24, *words)
    assert done.returncode in (1, 2)
    assert said in done.stderr
    assert not re.search(r"pydantic|should have|Input|Errno", done.stderr)


def test_a_bitrate_is_taken_as_people_write_it(tmp_path: Path) -> None:
    for text in ("5M", "5Mb", "5 Mbit/s", "5Mbps", "5000k"):
        assert parse_bitrate(text).bits_per_second == 5_000_000
