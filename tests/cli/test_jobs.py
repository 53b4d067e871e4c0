"""Jobs and specs by command: new, show, deliver, specs, and assemble to a spec."""

from __future__ import annotations

import json
import shutil
import subprocess
from pathlib import Path

import numpy as np
import pytest
from pymediainfo import MediaInfo

from tests.cli.test_commands import WAXSEAL, answer, run
from tests.making import aged, write_sequence, write_tone
from waxseal.cli.job_commands import DeliverWishes, run_deliver
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import set_expected, set_ground
from waxseal.core.job.job_file import load, save
from waxseal.core.job.model import DeliveryState, Outcome
from waxseal.core.seal.record import seal_path


@pytest.fixture
def disc(tmp_path: Path) -> Path:
    """Twelve frames of a disc on nothing, and a sound."""
    folder = tmp_path / "disc"
    folder.mkdir()
    rows, columns = np.mgrid[0:180, 0:320]
    for number in range(1, 13):
        values = np.full((180, 320, 4), 200, np.uint8)
        values[..., 0], values[..., 1] = columns % 256, rows
        away = np.hypot(columns - 100 - number * 9, rows - 90)
        values[..., 3] = np.clip((70 - away) * 8, 0, 255)
        write_pixels(folder / f"disc.{number:04}.png", values)
    write_tone(tmp_path / "disc.wav", seconds=0.5, channels=2)
    return folder


def test_the_shots_of_a_new_job_are_joined_and_shown(tmp_path: Path) -> None:
    for name in ("sh010", "sh020"):
        write_sequence(tmp_path / name, f"{name}.%04d.png", frames=range(1, 13))
    job = tmp_path / "orrery.waxseal"
    folders = (tmp_path / "sh010", tmp_path / "sh020")
    made = run("new", job, *folders, "--rate", "24", "--join", "dissolve 4", "--json")
    assert answer(made)["reel"]["frames"] == 20
    dissolve = {"shot": 2, "kind": "dissolve", "frames": 4, "colour": None}
    assert answer(made)["joins"] == [dissolve]
    assert "2 shots, 20 frames" in run("show", job).stdout
    assert "1 dissolve over 4 frames" in run("show", job).stdout
    wrong = run("new", job, *folders, "--overwrite", "--join", "slowly")
    assert wrong.returncode == 2
    assert "“slowly” is not a join" in wrong.stderr
    dipped = run("new", job, *folders, "--overwrite", "--join", "dip 40 white", "--json")
    dip = {"shot": 2, "kind": "dip", "frames": 22, "colour": "#ffffff"}  # 11 of 12 on each side
    assert answer(dipped)["joins"] == [dip], "as long as there is room"


def test_a_job_is_made_shown_and_delivered(disc: Path, tmp_path: Path) -> None:
    job = tmp_path / "orrery.waxseal"
    specs = ["--spec", "overlay with alpha", "--spec", "Chat attachment", "--spec", "PNG frames"]
    made = run("new", job, disc, disc.with_suffix(".wav"), "--rate", "24", *specs, "--json")
    assert made.returncode == 1  # H.264 loses the alpha: that is a finding
    facts = answer(made)
    assert facts["reel"] == {"frames": 12, "rate": "24", "size": [320, 180], "seconds": 0.5}
    names = [one["name"] for one in facts["deliveries"]]
    assert names == ["orrery_alpha", "orrery_chat", "orrery_png"]
    rows = {row["what"]: row for row in facts["deliveries"][1]["match"]}
    assert list(rows) == [
        *("frames", "rate", "size", "pixel shape", "colour", "alpha", "sound", "length"),
        "file size",
    ]
    assert (rows["alpha"]["state"], rows["alpha"]["file"]) == ("lost", "none")
    assert "H.264 carries none" in rows["alpha"]["done"]
    assert (rows["size"]["state"], rows["size"]["file"]) == ("changed", "1280 × 720")
    kept = {row["what"]: row for row in facts["deliveries"][0]["match"]}
    assert (kept["alpha"]["state"], kept["alpha"]["file"]) == ("same", "straight")
    frames = {row["what"]: row for row in facts["deliveries"][2]["match"]}
    assert (frames["sound"]["state"], frames["sound"]["file"]) == ("same", "PCM, 24 bits, 48 kHz")

    done = run("deliver", job, "--json")
    assert done.returncode == 0, done.stderr
    delivered = answer(done)["deliveries"]
    assert [one["state"] for one in delivered] == ["sealed"] * 3
    (video,) = MediaInfo.parse(delivered[0]["file"]).video_tracks
    assert (video.format, video.format_profile) == ("ProRes", "4444")
    assert len(list(Path(delivered[2]["file"]).glob("*.png"))) == 12
    assert (Path(delivered[2]["file"]) / "orrery_png.wav").is_file()

    again = run("deliver", job, "--json")
    assert again.returncode == 0
    assert "orrery_alpha.mov is sealed already." in again.stderr
    assert [one["sha256"] for one in answer(again)["deliveries"]] == [
        one["sha256"] for one in delivered
    ]
    fresh = answer(run("deliver", job, "--only", "chat attachment", "--fresh", "--json"))
    assert [one["sha256"] for one in fresh["deliveries"]] == [delivered[1]["sha256"]]


def test_another_file_under_its_name_is_not_sealed_already(disc: Path, tmp_path: Path) -> None:
    """What was put there by somebody is kept until somebody says that it may go."""
    job = tmp_path / "orrery.waxseal"
    run("new", job, disc, "--rate", "24", "--spec", "overlay with alpha", "--json")
    (made,) = answer(run("deliver", job, "--json"))["deliveries"]
    file = Path(made["file"])
    content = bytearray(file.read_bytes())
    content[len(content) // 2] ^= 1
    file.write_bytes(content)
    again = run("deliver", job, "--json")
    assert again.returncode == 1
    (one,) = answer(again)["deliveries"]
    assert one["state"] == "refused"
    assert "is there already" in one["reasons"][0]
    assert file.read_bytes() == bytes(content)
    replaced = answer(run("deliver", job, "--overwrite", "--json"))["deliveries"]
    assert [one["sha256"] for one in replaced] == [made["sha256"]]
    # Nor is one whose seal is gone, which is made again without a question.
    seal_path(file).unlink()
    assert run("deliver", job, "--json").returncode == 0
    assert seal_path(file).is_file()


def test_what_was_saved_meanwhile_is_kept(
    disc: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "job.waxseal"
    run("new", path, disc, "--rate", "24")
    sealed = Outcome(state=DeliveryState.SEALED, sha256="ab")

    def saved_meanwhile(*_: object, **__: object) -> Outcome:
        save(set_ground(load(path), colour="#123456"), path)
        return sealed

    monkeypatch.setattr("waxseal.cli.job_commands.encode_one", saved_meanwhile)
    wishes = DeliverWishes((), None, None, each_shot=False, is_fresh=False, overwrite=False)
    assert run_deliver(path, wishes, as_json=False) == 0
    job = load(path)
    assert (job.reel.ground, job.deliveries[0].outcome) == ("#123456", sealed)


def test_every_shot_becomes_a_file_of_its_own(tmp_path: Path) -> None:
    for name, count in (("sh010", 4), ("sh020", 6)):
        write_sequence(tmp_path / name, f"{name}.%04d.png", frames=range(1, count + 1))
    job = tmp_path / "job.waxseal"
    assert run("new", job, tmp_path / "sh010", tmp_path / "sh020", "--rate", "24").returncode == 0
    done = answer(run("deliver", job, "--each-shot", "--out", tmp_path, "--json"))["deliveries"]
    assert [(Path(one["file"]).name, one["frames"]) for one in done] == [
        ("job_sh010.mp4", 4),
        ("job_sh020.mp4", 6),
    ]
    assert len(load(job).deliveries) == 1  # the job's outbox is as it was
    part = answer(run("deliver", job, "--range", "3-5", "--overwrite", "--json"))["deliveries"]
    assert part[0]["frames"] == 3


def test_one_step_to_a_spec_gives_the_same_bytes_as_a_job(disc: Path, tmp_path: Path) -> None:
    out = tmp_path / "one.mov"
    more = ("--rate", "24", "--no-sound")
    one = answer(
        run("assemble", disc, "--out", out, "--spec", "overlay with alpha", *more, "--json")
    )
    assert one["state"] == "sealed"
    job = tmp_path / "two.waxseal"
    run("new", job, disc, "--rate", "24", "--spec", "overlay with alpha")
    two = answer(run("deliver", job, "--json"))["deliveries"][0]
    assert one["sha256"] == two["sha256"]


@pytest.mark.parametrize(
    ("name", "codec", "container"),
    [("a.mov", "AVC", "MPEG-4"), ("a.webm", "VP9", "WebM"), ("a.mkv", "AVC", "Matroska")],
)
def test_the_suffix_chooses_the_container(
    disc: Path, tmp_path: Path, name: str, codec: str, container: str
) -> None:
    done = run("assemble", disc, "--out", tmp_path / name, "--rate", "24")
    assert done.returncode == 0, done.stderr
    tracks = MediaInfo.parse(tmp_path / name)
    assert (tracks.video_tracks[0].format, tracks.general_tracks[0].format) == (codec, container)


def test_the_book_is_shown(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    specs = answer(run("specs", "--json"))["specs"]
    by_name = {one["name"]: one for one in specs}
    assert by_name["overlay with alpha"] == {
        "name": "overlay with alpha",
        "title": "To be laid over other pictures by an editor.",
        "purpose": "to be edited on",
        "container": "MOV",
        "video": "ProRes 4444",
        "sound": "allowed",
        "alpha": "straight",
        "sizes": [],
        "rates": [],
        "max_bytes": None,
    }
    assert by_name["chat attachment"]["max_bytes"] == 8_000_000
    assert run("specs", "square feed").stdout.startswith('name = "square feed"\n')
    own = tmp_path / "waxseal" / "specs"
    own.mkdir(parents=True)
    (own / "bad.toml").write_text('name = "bad"\npurpose = "frames"\ncodec = "tape"\n')

    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    told = run("specs")
    assert told.returncode == 1
    assert "bad.toml, line 3: codec: There is no codec “tape”" in told.stderr
    assert "wide web 1080p" in told.stdout


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        (("new", "JOB", "DISC", "--spec", "paper"), "There is no spec “paper” in the book"),
        (("new", "JOB", "EMPTY"), "There are no frames in"),
        (("show", "GONE"), "cannot be read"),
        (("deliver", "MADE", "--only", "paper"), "There is no delivery “paper” in this job"),
        (("deliver", "MADE", "--range", "1-2", "--each-shot"), "exclude each other"),
        (("new", "MADE", "DISC"), "is there already: choose another name, or --overwrite."),
        (
            ("assemble", "DISC", "--out", "a.mp4", "--spec", "square feed", "--codec", "H.265"),
            "--spec says what the file is: leave out --codec, or --spec.",
        ),
        (
            ("assemble", "DISC", "--out", "a.mp4", "--alpha", "straight"),
            "H.264 carries no alpha",
        ),
        (("assemble", "DISC", "--out", "a.mp4", "--container", "WebM"), "does not go into WebM"),
    ],
)
def test_what_cannot_be_meant_gets_a_sentence(
    disc: Path, tmp_path: Path, words: tuple[str, ...], sentence: str
) -> None:
    (tmp_path / "empty").mkdir()
    places = {
        "JOB": tmp_path / "new.waxseal",
        "DISC": disc,
        "EMPTY": tmp_path / "empty",
        "GONE": tmp_path / "gone.waxseal",
        "MADE": tmp_path / "made.waxseal",
    }
    if "MADE" in words:
        run("new", places["MADE"], disc, "--rate", "24")
    done = run(*(places.get(word, word) for word in words), cwd=tmp_path)
    assert done.returncode == 2, done.stderr
    assert sentence in done.stderr


def test_a_file_over_its_limit_is_refused(disc: Path, tmp_path: Path) -> None:
    out = tmp_path / "a.mp4"
    done = run("assemble", disc, "--out", out, "--rate", "24", "--max-size", "2kB", "--json")
    assert done.returncode == 1
    assert json.loads(done.stdout)["state"] == "refused"
    assert not out.exists()


def test_any_file_is_checked_against_a_job_and_a_spec(disc: Path, tmp_path: Path) -> None:
    job = tmp_path / "orrery.waxseal"
    run("new", job, disc, "--rate", "24", "--spec", "overlay with alpha", "--json")
    done = run("deliver", job, "--json")
    assert answer(done)["deliveries"][0]["segments"] == {"made": 1, "kept": 0}
    file = Path(answer(done)["deliveries"][0]["file"])
    alike = run("check", file, "--against", job, "--spec", "overlay with alpha", "--json")
    assert alike.returncode == 0, alike.stdout
    assert (answer(alike)["compared"], answer(alike)["differs"]) == (12, [])
    assert answer(alike)["state"] == "sealed"

    # One frame is rendered anew: the film is not the reel any more.
    values = np.full((180, 320, 4), 255, np.uint8)
    write_pixels(disc / "disc.0005.png", values)
    other = run("check", file, "--against", job, "--only", "overlay with alpha", "--json")
    assert other.returncode == 1
    (one,) = answer(other)["differs"]
    assert (one["frame"], one["by"] > 30) == (5, True)
    told = run("check", file, "--against", job, "--spec", "wide web 1080p")
    assert told.returncode == 1
    assert "against orrery_alpha: 12 frames compared" in told.stdout
    assert "5: differs" in told.stdout
    assert "wide web 1080p wants the codec h264, not prores." in told.stdout

    # To compare it, the film was encoded again, and nothing of that was kept.
    again = run("deliver", job, "--json", "--workers", "1")
    assert answer(again)["deliveries"][0]["segments"] == {"made": 1, "kept": 0}
    assert run("check", file, "--only", "x").returncode == 2
    unknown = run("check", file, "--against", job, "--only", "x")
    assert unknown.returncode == 2
    assert "There is no delivery “x” in this job" in unknown.stderr


def test_sound_and_timecode_are_said_by_command(disc: Path, tmp_path: Path) -> None:
    out = tmp_path / "film.mov"
    words = ["--codec", "ProRes LT", "--sound-codec", "pcm, 16 bits", "--loudness", "-20"]
    made = run(
        *("assemble", disc, "--out", out, "--rate", "24", "--sound", disc.with_suffix(".wav")),
        *(*words, "--true-peak", "-2", "--timecode", "10:00:00:00", "--json"),
    )
    assert made.returncode == 0, made.stderr
    (sound,) = MediaInfo.parse(out).audio_tracks
    assert (sound.format, sound.bit_depth) == ("PCM", 16)
    bad = run("assemble", disc, "--out", out, "--rate", "24", "--loudness", "loud")
    assert bad.returncode == 2
    assert "“loud” is not a level" in bad.stderr
    odd = run("assemble", disc, "--out", out, "--rate", "24", "--timecode", "1 h", "--overwrite")
    assert odd.returncode == 2
    assert "“1 h” is not a timecode" in odd.stderr


def test_a_delivery_waits_until_every_frame_is_there(disc: Path, tmp_path: Path) -> None:
    job = tmp_path / "orrery.waxseal"
    run("new", job, disc, "--rate", "24", "--spec", "overlay with alpha", "--json")
    saved = load(job)
    save(set_expected(saved, source=saved.sequences[0].id, expected=(1, 14)), job)

    words = [*WAXSEAL, "deliver", str(job), "--when-complete", "--json"]
    with subprocess.Popen(
        words, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    ) as process:
        assert process.stdout is not None
        assert process.stderr is not None
        said = []
        for line in process.stderr:
            said.append(line)
            for number in (13, 14):
                if f"disc.####.png: {number - 1} of 14" in line:
                    shutil.copy(disc / "disc.0001.png", disc / f"disc.{number:04}.png")
                    aged(disc / f"disc.{number:04}.png")
        (one,) = json.loads(process.stdout.read())["deliveries"]
    assert process.returncode == 0, said
    assert (one["state"], one["frames"]) == ("sealed", 14)
    assert "disc.####.png: 12 of 14" in "".join(said)


def test_of_several_versions_the_newest_is_on_the_reel_and_the_others_are_named(
    tmp_path: Path,
) -> None:
    for name in ("sh010_v001", "sh010_v002"):
        write_sequence(tmp_path / "renders" / name, f"{name}.%04d.png", frames=range(1, 4))
    job = tmp_path / "film.waxseal"
    told = run("new", str(job), str(tmp_path / "renders"), "--rate", "24")
    assert told.returncode == 0
    assert "there is a newer version: sh010_v001." in told.stderr
    made = load(job)
    assert [made.sequence(shot.source).name for shot in made.reel.shots] == ["sh010_v002"]
    assert len(made.sequences) == 2
