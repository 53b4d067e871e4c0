"""Commands in folders that somebody else filled: nothing is obeyed, and looking changes nothing."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.cli.test_commands import run, run_as_process
from tests.making import dead_process, write_sequence, write_tone
from waxseal.core.atomic_write import partial_name
from waxseal.core.folders import segments_folder, specs_folder
from waxseal.core.job.job_file import load, save
from waxseal.core.private_folder import private_folder
from waxseal.core.seal.record import DIGEST, record_digest, seal_path

Tree = dict[str, tuple[object, ...]]
ESCAPE, FORGED = "\x1b[2J\x1b]0;owned\x07", "\n\nfake.mp4: sealed\n"


def tree_of(folder: Path) -> Tree:
    """Everything below a folder: what each is, since when, and its content."""

    def entries() -> Iterator[tuple[str, tuple[object, ...]]]:
        for path in sorted(folder.rglob("*")):
            facts = path.lstat()
            is_file = path.is_file() and not path.is_symlink()
            content = path.read_bytes() if is_file else os.fsencode(os.path.realpath(path))
            seen = (facts.st_mode, facts.st_ino, facts.st_mtime_ns, facts.st_nlink)
            yield str(path), (*seen, hashlib.blake2b(content).digest())

    return dict(entries())


def is_clean(text: str) -> bool:
    return all(one.isprintable() or one == "\n" for one in text)


@pytest.fixture
def film(tmp_path: Path) -> Path:
    """A sealed film in a folder of its own."""
    write_sequence(tmp_path / "frames", frames=range(1, 5))
    (tmp_path / "out").mkdir()
    path = tmp_path / "out" / "film.mp4"
    done = run("assemble", tmp_path / "frames", "--rate", "24", "--out", path)
    assert done.returncode == 0, done.stderr
    return path


def old_note(partial: str, seal: str, old: str, **more: object) -> bytes:
    note = {"partial": partial, "seal": seal, "old": old, "overwrite": True, "number": 1}
    return json.dumps(note | more).encode()


@pytest.mark.parametrize(
    "note",
    [
        old_note(".x", ".bashrc", ".ssh"),
        old_note(".x", ".y", ".."),
        old_note(".x", ".y", "."),
        old_note("\0", "\0", "\0"),
        b"[" * 50_000,
        b'{"partial": ' + b"9" * 5_000 + b"}",
    ],
)
def test_a_note_beside_a_file_is_not_obeyed(film: Path, note: bytes) -> None:
    folder = film.parent
    (folder / ".ssh").mkdir()
    (folder / ".ssh" / "id").write_text("precious")
    (folder / ".bashrc").write_text("precious")
    (folder / f".{film.name}.placing").write_bytes(note)
    before = tree_of(folder.parent / "out")
    assert run("check", film).returncode == 0
    assert tree_of(folder.parent / "out") == before
    again = run("assemble", folder.parent / "frames", "--rate", "24", "--out", film, "--overwrite")
    assert again.returncode == 0, again.stderr
    after = tree_of(folder.parent / "out")
    kept = [name for name in before if "film.mp4" not in Path(name).name]
    assert all(after[name][4] == before[name][4] for name in kept)


def test_commands_that_look_change_nothing(film: Path, tmp_path: Path) -> None:
    """What a delivery leaves when it is killed, and what strangers put there, stays as it is."""
    folder = film.parent
    dead = dead_process()
    for one in (film, seal_path(film), tmp_path / "frames" / "shot.0001.png"):
        partial_name(one, dead).write_text("half")
        partial_name(one, dead).with_suffix(".old").mkdir()
    (folder / ".film.mp4.placing").write_bytes(old_note(".a", ".b", ".c"))
    (folder / "link").symlink_to("..")
    os.mkfifo(folder / "pipe.png")
    write_tone(folder / "tone.wav")
    job = tmp_path / "out" / "film.waxseal"
    assert run("new", job, tmp_path / "frames", "--rate", "24").returncode == 0
    specs_folder().mkdir(parents=True)
    (specs_folder() / "bad.toml").write_text("name = [")
    before = tree_of(tmp_path)
    commands = (
        *(("check", film), ("check", film, "--against", job), ("check", folder / "tone.wav")),
        *(("scan", tmp_path), ("scan", "--deep", tmp_path), ("show", job), ("specs",)),
    )
    for words in commands:
        run(*words, "--json")
        after = tree_of(tmp_path)
        changed = {
            name
            for name in before.keys() | after.keys()
            if before.get(name) != after.get(name) and not name.startswith(str(tmp_path / "home"))
        }
        assert not changed, words


def test_consent_is_not_read_from_a_job(film: Path, tmp_path: Path) -> None:
    """A job that somebody made knows the digest of a file that is known everywhere."""
    known = tmp_path / "theirs" / "known.mp4"
    known.parent.mkdir()
    known.write_bytes(b"a file that everybody has")
    digest = hashlib.sha256(known.read_bytes()).hexdigest()
    path = tmp_path / "theirs" / "job.waxseal"
    assert run("new", path, tmp_path / "frames", "--rate", "24").returncode == 0
    document = json.loads(path.read_text())
    outcome = {"state": "sealed", "sha256": digest, "file": "known.mp4"}
    for one in document["deliveries"]:
        one |= {"name": "known", "folder": ".", "own": digest, "outcome": outcome}
        one["overwrite"] = True
    path.write_text(json.dumps(document))
    newer = run("deliver", path, "--json")  # job files have no such key any more
    assert newer.returncode == 2
    assert "A newer Wax Seal may have written it" in newer.stderr
    assert known.read_bytes() == b"a file that everybody has"
    path.write_text(json.dumps(document | {"schema": 1}))  # and what the first ones had counts not
    done = run("deliver", path, "--json")
    assert done.returncode == 1
    (told,) = json.loads(done.stdout)["deliveries"]
    assert told["state"] == "refused"
    assert "is there already" in told["reasons"][0]
    assert known.read_bytes() == b"a file that everybody has"


def test_what_this_user_made_is_made_again_in_place(tmp_path: Path) -> None:
    """Without a question, by the same job; not by another, nor once it is somebody else's."""
    write_sequence(tmp_path / "frames", frames=range(1, 5))
    (tmp_path / "out").mkdir()
    job = tmp_path / "film.waxseal"
    assert run("new", job, tmp_path / "frames", "--rate", "24").returncode == 0
    name = load(job).deliveries[0].name
    assert run("deliver", job, "--out", tmp_path / "out").returncode == 0
    (tmp_path / "frames" / "shot.0003.png").write_bytes(
        (tmp_path / "frames" / "shot.0001.png").read_bytes()
    )
    again = run("deliver", job, "--out", tmp_path / "out", "--json")
    assert again.returncode == 0, again.stderr
    other = tmp_path / "other.waxseal"
    other.write_bytes(job.read_bytes())
    assert run("deliver", other, "--out", tmp_path / "out", "--fresh").returncode == 1
    made = tmp_path / "out" / f"{name}.mp4"
    made.write_bytes(made.read_bytes() + b"somebody's")
    refused = run("deliver", job, "--out", tmp_path / "out", "--fresh", "--json")
    assert refused.returncode == 1
    assert "is there already" in json.loads(refused.stdout)["deliveries"][0]["reasons"][0]


# ---- words ---------------------------------------------------------------------------------------


def test_a_seal_cannot_forge_a_line(film: Path) -> None:
    record = json.loads(seal_path(film).read_text())
    record["pixels"] = f"{FORGED}{ESCAPE}"
    record["codec"] = ESCAPE
    record[DIGEST] = record_digest(record)
    seal_path(film).write_text(json.dumps(record))
    done = run("check", film)
    assert done.returncode == 1
    assert "seal broken" in done.stdout
    assert is_clean(done.stdout + done.stderr)
    assert "fake.mp4: sealed" not in done.stdout.splitlines()


def test_names_of_a_job_cannot_forge_a_line(tmp_path: Path) -> None:
    frames = write_sequence(tmp_path / f"frames{FORGED[2:-1]}{ESCAPE}", frames=range(1, 4))
    path = tmp_path / "job.waxseal"
    assert run("new", path, frames, "--rate", "24").returncode == 0
    job = load(path)
    name = f"film{ESCAPE}{FORGED}"
    job = job.model_copy(
        update={
            "name": name,
            "deliveries": (job.deliveries[0].model_copy(update={"name": name}),),
        }
    )
    save(job, path)
    for words in (("show", path), ("deliver", path), ("scan", frames), ("scan", "--csv", frames)):
        done = run(*words)
        assert is_clean(done.stdout + done.stderr), words
        assert "fake.mp4: sealed" not in (done.stdout + done.stderr).splitlines()


@pytest.mark.parametrize(
    "words",
    [
        ("assemble", f"nothing{ESCAPE}", "--out", "x.mp4"),
        ("assemble", ".", "--out", f"{ESCAPE}.mp4", f"--wrong{ESCAPE}{FORGED}"),
        ("assemble", ".", "--out", "x.mp4", "--rate", f"24{ESCAPE}{FORGED}"),
        ("assemble", ".", "--out", "x.mp4", "--workers", f"2{ESCAPE}{FORGED}"),
        ("check", f"nothing{ESCAPE}{FORGED}"),
        ("show", f"{ESCAPE}{FORGED}.waxseal"),
        (f"-{ESCAPE}{FORGED}",),
        ("specs", f"{ESCAPE}{FORGED}"),
    ],
)
def test_a_quoted_wrong_value_cannot_forge_a_line(tmp_path: Path, words: tuple[str, ...]) -> None:
    done = run_as_process(*words, cwd=tmp_path)
    assert done.returncode == 2
    assert done.stderr
    assert is_clean(done.stdout + done.stderr)
    assert "fake.mp4: sealed" not in (done.stdout + done.stderr).splitlines()


# ---- each file apart -----------------------------------------------------------------------------

BAD = {
    "nested": b"name = " + b"[" * 20_000,
    "digits": b"name = " + b"9" * 5_000,
    "more digits": b'name = "x"\nmost_bytes = ' + b"9" * 5_000,
    "no text": b"\xff\xfe\x00",
    "empty": b"",
    "large": b"#" * 200_000,
    "number": b"name = 1e999",
    "date": b"name = 1979-05-27",
    "lists": b"name = [[1], [2]]\nsizes = [[[[[[1]]]]]]",
}


@pytest.mark.parametrize("name", BAD)
def test_one_bad_spec_is_one_sentence(tmp_path: Path, name: str) -> None:
    specs_folder().mkdir(parents=True)
    (specs_folder() / "bad.toml").write_bytes(BAD[name])
    os.mkfifo(specs_folder() / "pipe.toml")
    (specs_folder() / "folder.toml").mkdir()
    done = run("specs", "--json")
    assert done.returncode == 1
    assert "wide web 1080p" in {one["name"] for one in json.loads(done.stdout)["specs"]}
    sentences = done.stderr.splitlines()
    assert len(sentences) == 3
    assert any(one.startswith("bad.toml") for one in sentences)


BAD_JSON = {
    "nested": b"[" * 100_000,
    "nested a little": b'{"kind": "waxseal seal", "x": ' + b"[" * 900 + b"]" * 900 + b"}",
    "nested names": b'{"kind": "waxseal job", "schema": 1, "x": ' + b'{"a":' * 5_000,
    "digits": b'{"kind": "waxseal seal", "schema": ' + b"9" * 5_000 + b"}",
    "digits of a job": b'{"kind": "waxseal job", "schema": 1, "sources": ' + b"9" * 5_000 + b"}",
    "halves": b'{"kind": "waxseal job", "schema": 1, "name": "\\ud800"}',
    "no number": b'{"kind": "waxseal seal", "frames": NaN, "rate": Infinity}',
    "no text": b"\xff\xfe\x00{}",
    "empty": b"",
    "list": b"[]",
}


@pytest.mark.parametrize("name", BAD_JSON)
def test_a_bad_seal_is_a_broken_one(film: Path, name: str) -> None:
    seal_path(film).write_bytes(BAD_JSON[name])
    done = run("check", film, "--json")
    assert done.returncode == 1
    assert json.loads(done.stdout)["state"] == "seal broken"


@pytest.mark.parametrize("name", BAD_JSON)
def test_a_bad_job_is_one_sentence(tmp_path: Path, name: str) -> None:
    path = tmp_path / "job.waxseal"
    path.write_bytes(BAD_JSON[name])
    for words in (("show", path), ("deliver", path)):
        done = run(*words)
        assert done.returncode == 2
        assert len(done.stderr.splitlines()) == 1


def test_a_folder_that_is_not_private_is_said(film: Path, tmp_path: Path) -> None:
    private_folder(segments_folder()).chmod(0o777)
    done = run("assemble", tmp_path / "frames", "--rate", "24", "--out", film, "--overwrite")
    assert done.returncode == 0
    assert "Other users may write to" in done.stderr
