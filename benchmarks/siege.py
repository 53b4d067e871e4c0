"""Folders, caches, clusters and jobs of somebody who means harm: nothing is obeyed, nothing falls.

`make siege` builds one after the other by chance, and runs the commands in it. Commands that look
have to leave every file as it was, deliveries everything but their own files; no output may hold a
control character or a line that somebody else wrote; nothing may end with a traceback, or hang.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import os
import random
import socket
import subprocess
import sys
import traceback
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from unittest.mock import patch

from benchmarks.seeds import try_each
from tests.core.deliver.test_cluster_trust import Network, Worker
from tests.making import dead_process, job_of, write_sequence, write_tone
from waxseal.core.deliver.encode.encode_state import EncodeOptions
from waxseal.core.deliver.encode.segments import cluster_backend
from waxseal.core.deliver.encode.segments.cluster_backend import WorkerReply, encode_there
from waxseal.core.deliver.encode.segments.segment_cuts import Piece
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.job.job_file import write_job
from waxseal.core.job.model import DeliveryState
from waxseal.core.progress import CancelToken, silent

Chance = random.Random
DEAD = dead_process()
PATIENCE = 90  # seconds for a command
FORGED = "\n\nfake.mp4: sealed\n"
WORDS = (
    *("\x1b[2J\x1b]0;owned\x07", FORGED, "\u202egpj.exe", "a\tb", "..", ".", "-rf", "<b>bold</b>"),
    *(
        "%s%n",
        "{reel}",
        "=1+1",
        "\udc80\udcff".encode("utf-8", "surrogateescape").decode("latin-1"),
    ),
)
TEXTS = (
    *(b"", b"[" * 60_000, b'{"a":' * 30_000, b"9" * 6_000, b"\xff\xfe\0", b"null", b"[]", b"{}"),
    *(b'{"kind": "waxseal job", "schema": 1}', b'{"kind": "waxseal seal", "frames": NaN}'),
    b'{"kind": "waxseal job", "schema": 1e999}',
    b'{"partial": ".ssh", "seal": ".bashrc", "old": "..", "overwrite": true, "number": 1}',
)


# ---- what is put there ---------------------------------------------------------------------------


def harm_folder(folder: Path, chance: Chance) -> None:
    """Names, notes, links, pipes and sockets among a film and its frames."""
    names = ("film.mp4", "film.mp4.seal.json", "frames", "shot.0001.png", "job.waxseal")
    for _ in range(chance.randint(3, 12)):
        target, word = chance.choice(names), chance.choice(WORDS).replace("/", "").replace("\0", "")
        name = chance.choice(
            [
                *(
                    f".{target}.placing",
                    f".{target}.publishing",
                    f".{target}.{DEAD}.partial",
                ),
                *(
                    f".{target}.{DEAD}.partial.old",
                    f"{word[:40]}.0001.png",
                    f"{word[:40]}.mp4",
                ),
                *(f".{target}.1.partial", f"{target}.seal.json", f"tone{word[:20]}.wav"),
            ]
        )
        if name not in (".", "..") and not (folder / name).exists():
            with suppress(OSError, ValueError):
                put(folder / name, chance)


def put(path: Path, chance: Chance) -> None:
    kind = chance.randrange(8)
    if kind == 0:
        path.symlink_to(chance.choice(["..", "/etc/passwd", path.name, "/dev/zero", "nowhere"]))
    elif kind == 1:
        os.mkfifo(path)
    elif kind == 2:
        path.mkdir()
        (path / "precious").write_text("precious")
    elif kind == 3 and len(str(path)) < 100:
        with socket.socket(socket.AF_UNIX) as one:
            one.bind(str(path))
    else:
        path.write_bytes(chance.choice(TEXTS))


def harm_home(home: Path, chance: Chance) -> None:
    """A cache, states and settings that somebody else has filled."""
    for _ in range(chance.randint(1, 6)):
        top = home / chance.choice(["cache", "state", "config"]) / "waxseal"
        folder = top / chance.choice(
            ["segments", "kernels", "targets", "autosave", "running", "measures", "light", "specs"]
        )
        folder.mkdir(parents=True, exist_ok=True)
        if chance.random() < 0.6:
            folder.chmod(chance.choice([0o777, 0o770, 0o707]))
        name = chance.choice(
            [
                *("x.segment", "x.code", "bad.toml", f"{DEAD}.json", "x.npz", "settings.ini"),
                *("signing-key.pem", f"{hashlib.blake2b(b'x', digest_size=16).hexdigest()}.made"),
            ]
        )
        where = top if name == "signing-key.pem" and chance.random() < 0.3 else folder
        if not (where / name).exists() and not (where / name).is_symlink():
            with suppress(OSError):
                put(where / name, chance)


def harm_job(path: Path, folder: Path, chance: Chance) -> None:
    """A job of somebody else: consent, names and paths in it."""
    document = json.loads(write_job(job_of(folder), path.parent))
    digest = hashlib.sha256((path.parent / "precious.mp4").read_bytes()).hexdigest()
    for one in document["deliveries"]:
        one |= {"name": "precious", "folder": ".", "own": digest, "overwrite": True}
        one["outcome"] = {"state": "sealed", "sha256": digest, "file": chance.choice(WORDS)}
    for place in (document, document["sources"][0]):
        if chance.random() < 0.5:
            place["name"] = chance.choice(WORDS)
    text = json.dumps(document).encode()
    if chance.random() < 0.3:
        text = chance.choice(TEXTS)
    path.write_bytes(text)


# ---- what is looked at ---------------------------------------------------------------------------


def state_of(folder: Path) -> dict[str, tuple[object, ...]]:
    """Everything below a folder, without following links."""

    def entries() -> Iterator[tuple[str, tuple[object, ...]]]:
        for base, folders, files in os.walk(folder):
            for name in (*folders, *files):
                path = Path(base, name)
                facts = path.lstat()
                is_file = path.is_file() and not path.is_symlink()
                content = hashlib.blake2b(path.read_bytes()).digest() if is_file else b""
                yield str(path), (facts.st_mode, facts.st_ino, facts.st_mtime_ns, content)

    return dict(entries())


def is_clean(text: str) -> bool:
    return all(one.isprintable() or one in "\n\u00a0\u202f\u2009" for one in text)


def run(words: list[object], folder: Path, home: Path) -> tuple[int, str]:
    env = {**os.environ, **{f"XDG_{one.upper()}_HOME": str(home / one) for one in KINDS}}
    done = subprocess.run(
        [sys.executable, "-m", "waxseal.cli.main", *map(str, words)],
        capture_output=True,
        cwd=folder,
        env=env,
        timeout=PATIENCE,
        check=False,
    )
    return done.returncode, (done.stdout + done.stderr).decode("utf-8", "replace")


KINDS = ("data", "state", "config", "cache")


def trouble_of(words: list[object], folder: Path, home: Path, *, looks: bool) -> str:
    before = state_of(folder)
    try:
        code, text = run(words, folder, home)
    except subprocess.TimeoutExpired:
        return f"{words}: it hangs"
    if code not in (0, 1, 2):
        return f"{words}: exit {code}: {text}"
    if "Traceback" in text:
        return f"{words}: {text}"
    if not is_clean(text):
        return f"{words}: control characters: {text!r}"
    if "fake.mp4: sealed" in text.splitlines():
        return f"{words}: a forged line: {text}"
    after = state_of(folder)
    if looks and before != after:
        return f"{words}: something changed: {sorted(set(before.items()) ^ set(after.items()))[:3]}"
    kept = {name for name in before if "precious" in Path(name).name}
    lost = [name for name in kept if after.get(name) != before[name]]
    return f"{words}: gone or changed: {lost}" if lost else ""


def besieged(folder: Path, seed: int) -> str:
    chance = random.Random(seed)  # noqa: S311 - the same every time, not secret
    work, home = folder / "work", folder / "home"
    work.mkdir()
    (work / "precious.mp4").write_bytes(b"a film of somebody")
    (work / "precious.txt").write_text("of somebody")
    frames = write_sequence(work / "frames", "shot.%04d.png", frames=range(1, 7))
    write_tone(work / "frames" / "tone.wav", seconds=0.25)
    film = work / "film.mp4"
    made = trouble_of(["assemble", frames, "--rate", "24", "--out", film], work, home, looks=False)
    if made:
        return made
    harm_job(work / "job.waxseal", frames, chance)
    harm_folder(work, chance)
    harm_home(home, chance)
    looking: list[list[object]] = [
        ["check", film],
        ["check", film, "--against", "job.waxseal"],
        ["show", "job.waxseal"],
        ["scan", work],
        ["scan", "--csv", frames],
        ["specs"],
        ["key"],
        ["check", "job.waxseal"],
    ]
    for words in chance.sample(looking, 4):
        found = trouble_of(words, work, home, looks=True)
        if found:
            return found
    again = ["assemble", frames, "--rate", "24", "--out", film, "--overwrite"]
    for doing in (["deliver", "job.waxseal"], again):
        found = trouble_of(list(doing), work, home, looks=False)
        if found:
            return found
    return ""


# ---- a cluster -----------------------------------------------------------------------------------


def lying(chance: Chance) -> Worker:
    """A worker that gives back something else than it was asked for."""
    kind = chance.randrange(6)

    def worker(piece: Piece, wanted: str) -> object:
        sent = encode_there(piece, wanted)
        body = bytearray(sent.body)
        if kind == 0:
            body[chance.randrange(len(body))] ^= 1 << chance.randrange(8)
        elif kind == 1:
            del body[chance.randrange(len(body)) :]
        elif kind == 2:
            recipes = (piece.recipes[-1],) * len(piece.recipes)
            other = encode_there(replace(piece, recipes=recipes), wanted)
            return WorkerReply(other.body, sent.digests)
        elif kind == 3:
            return WorkerReply(sent.body, dict.fromkeys(sent.digests, "0" * 64))
        elif kind == 4:
            return {"body": sent.body}
        else:
            raise MemoryError
        return replace(sent, body=bytes(body))

    return worker


def lied_to(folder: Path, seed: int) -> str:
    chance = random.Random(seed)  # noqa: S311 - the same every time, not secret
    for kind in KINDS:
        os.environ[f"XDG_{kind.upper()}_HOME"] = str(folder / "home" / kind)
    job = job_of(write_sequence(folder / "frames", frames=range(1, 31)))
    delivery = job.deliveries[0]
    network = Network(lying(chance))
    with patch.object(cluster_backend, "connect", lambda _address: network):
        try:
            outcome = make_delivery(
                job, delivery, silent, CancelToken(), who=EncodeOptions(cluster="x")
            )
        except Exception:  # noqa: BLE001 - whatever it is, it is a finding
            return traceback.format_exc()
    if outcome.state is DeliveryState.SEALED:
        return "a lie was sealed"
    honest = make_delivery(job, delivery, silent, CancelToken())
    return "" if honest.state is DeliveryState.SEALED else f"the store is spoilt: {honest.reasons}"


def one(folder: Path, seed: int) -> str:
    return (lied_to if seed % 5 == 0 else besieged)(folder, seed)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=100)
    parser.add_argument("--seed", type=int, default=1, help="of the first one")
    wishes = parser.parse_args()
    return try_each(range(wishes.seed, wishes.seed + wishes.count), one, "sieges")


if __name__ == "__main__":
    raise SystemExit(main())
