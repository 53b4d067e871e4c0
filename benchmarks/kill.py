"""Deliveries that are killed at random moments: what is there afterwards is whole, or nothing is.

`make kill` starts `waxseal assemble` over a film that was sealed before, or `waxseal deliver` over
an outbox whose deliveries are encoded side by side, ends or halts the command, its encoding
process, or both, at a moment that chance chooses, and looks:

- each name holds the old film with its seal, or the new one with its seal;
- the next run makes the same bytes as one that nobody disturbed, and leaves nothing beside them;
- it encodes no segment of the film again that was whole. Now and then a bit of one is flipped
  before: that one is encoded again.

A stop at each single system call of the placing is a test (tests/core/deliver/test_publish.py).
"""

from __future__ import annotations

import argparse
import hashlib
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from abc import ABC, abstractmethod
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from typing_extensions import override

from tests.making import write_sequence, write_tone
from waxseal.core.folders import segments_folder

COMMAND = (sys.executable, "-m", "waxseal.cli.main")
AT_ONCE = 0.15  # of the kills hit within this share of the whole time at its end: the placing
HALTED = 0.4  # seconds that a process stands still
SIGNALS = (signal.SIGKILL, signal.SIGTERM, signal.SIGINT, signal.SIGHUP, signal.SIGSTOP)
SPECS = ("editing proxy", "open web", "archive")  # of the outbox


def run(*words: object) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [*COMMAND, *map(str, words)], capture_output=True, text=True, timeout=120, check=False
    )


def digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


def children_of(process: int) -> list[int]:
    try:
        text = Path(f"/proc/{process}/task/{process}/children").read_text()
    except OSError:
        return []
    return [int(one) for one in text.split()]


Digests = dict[str, str]  # of files, by their names


class Work(ABC):
    """What is delivered into a folder, over what was made of other frames."""

    def __init__(self, place: Path) -> None:
        self.place, self.out = place, place / "out"
        self.out.mkdir(parents=True)
        self.frames = place / "frames"
        write_sequence(self.frames, frames=range(1, 13), width=160, height=90)
        self.prepare()
        self.old, _, _ = self.made()
        self.kept = [(one, one.read_bytes()) for one in self.out.iterdir()]
        write_sequence(self.frames, frames=range(1, 241), width=160, height=90)
        write_tone(self.frames / "tone.wav", seconds=10.0)
        self.prepare()
        self.new, self.seconds, _ = self.made()

    def prepare(self) -> None:
        """What is needed before a run with frames that are others."""
        return

    @abstractmethod
    def words(self) -> tuple[object, ...]:
        """The command that delivers it."""

    def made(self) -> tuple[Digests, float, Any]:
        """What is there after a run, how long that took, and what the command says."""
        begun = time.monotonic()
        done = run(*self.words(), "--json")
        if done.returncode != 0:
            raise RuntimeError(done.stderr)
        return self.there(), time.monotonic() - begun, json.loads(done.stdout)

    def there(self) -> Digests:
        films = (one for one in self.out.iterdir() if one.suffix in {".mov", ".mkv", ".webm"})
        return {one.name: digest(one) for one in films if not one.name.startswith(".")}

    def put_back(self) -> None:
        """The old films, sealed as they were."""
        for path, content in self.kept:
            path.write_bytes(content)
        shutil.rmtree(segments_folder(), ignore_errors=True)

    def killed(self, chance: random.Random) -> str:
        """Deliver, and kill what does it somewhere on the way; says whom, and after how long."""
        near_the_end = chance.random() < 0.5
        share = chance.uniform(1 - AT_ONCE, 1.05) if near_the_end else chance.random()
        whom = chance.choice(["command", "worker", "both"])
        how = chance.choice(SIGNALS)
        process = subprocess.Popen(
            [*COMMAND, *map(str, self.words())],
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        time.sleep(share * self.seconds)
        targets = children_of(process.pid) if whom != "command" else []
        targets += [process.pid] if whom != "worker" else []
        send(targets, how)
        if how is signal.SIGSTOP:
            time.sleep(HALTED)
            send(targets, chance.choice([signal.SIGCONT, signal.SIGKILL]))
        try:
            process.wait(60)
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, signal.SIGKILL)
            process.wait()
            return f"hung after {how.name} to {whom} at {share:.2f}"
        time.sleep(0.3)  # a worker that lost its command cleans up after itself
        return f"{how.name} to {whom} at {share:.2f}"

    def troubles(self, chance: random.Random) -> Iterator[str]:
        """What is not as it has to be, right after a kill, and after the next run."""
        whole = flipped(chance)
        for name in self.new:
            checked = run("check", self.out / name, "--json")
            try:
                state: dict[str, Any] = json.loads(checked.stdout)
            except ValueError:
                state = {"state": "nothing there", "reasons": [checked.stderr.strip()]}
            if state["state"] != "sealed":
                yield f"{name}: {state['state']}: {state.get('reasons')}"
            elif digest(self.out / name) not in (self.old[name], self.new[name]):
                yield f"{name}: neither the old film nor the new one"
        again, _, said = self.made()
        if again != self.new:
            yield "the next run made other bytes"
        yield from self.segment_troubles(said, whole)
        left = {one.name for one in self.out.iterdir()}
        if left != {one for name in self.new for one in (name, f"{name}.seal.json")}:
            yield f"left behind: {sorted(left)}"

    def segment_troubles(self, _said: Any, _whole: int) -> Iterator[str]:
        """What is wrong with the segments that were used. whole: how many there were."""
        yield from ()


class Film(Work):
    """One film, from one folder."""

    @override
    def words(self) -> tuple[object, ...]:
        codec = ("--codec", "ProRes LT")  # short segments
        out = self.out / "film.mov"
        return ("assemble", self.frames, "--out", out, "--rate", "24", "--overwrite", *codec)

    @override
    def segment_troubles(self, said: Any, whole: int) -> Iterator[str]:
        if said["segments"]["kept"] != whole:
            yield f"{whole} segments were whole, and {said['segments']['kept']} were used"


class Outbox(Work):
    """Several films of one job, which are encoded side by side."""

    @override
    def prepare(self) -> None:
        specs = [word for spec in SPECS for word in ("--spec", spec)]
        run("new", self.job, self.frames, "--rate", "24", "--overwrite", *specs)

    @property
    def job(self) -> Path:
        return self.place / "film.waxseal"

    @override
    def words(self) -> tuple[object, ...]:
        return ("deliver", self.job, "--out", self.out, "--overwrite", "--workers", "2")


def send(targets: list[int], how: signal.Signals) -> None:
    for target in targets:
        try:
            os.kill(target, how)
        except ProcessLookupError:
            continue


def flipped(chance: random.Random) -> int:
    """Flip a bit of one segment, perhaps. Returns how many are whole."""
    whole = sorted(segments_folder().glob("*.segment")) if segments_folder().is_dir() else []
    if not whole or chance.random() < 0.7:
        return len(whole)
    path = chance.choice(whole)
    body = bytearray(path.read_bytes())
    body[chance.randrange(len(body))] ^= 1 << chance.randrange(8)
    path.write_bytes(body)
    return len(whole) - 1


def main() -> int:
    options = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    options.add_argument("--kills", type=int, default=400)
    options.add_argument("--seed", type=int, default=1)
    chosen = options.parse_args()
    chance = random.Random(chosen.seed)  # noqa: S311 - repeatable, not secret
    wrong = 0
    with tempfile.TemporaryDirectory() as place:
        os.environ["XDG_CACHE_HOME"] = str(Path(place) / "cache")  # no segments but its own
        works = (Film(Path(place) / "film"), Outbox(Path(place) / "outbox"))
        for number in range(1, chosen.kills + 1):
            work = works[number % len(works)]
            work.put_back()
            what = work.killed(chance)
            found = [*work.troubles(chance), *([what] if what.startswith("hung") else [])]
            wrong += bool(found)
            for one in found:
                sys.stdout.write(f"{number}, {what}: {one}\n")
            if number % 20 == 0:
                sys.stdout.write(f"{number} of {chosen.kills}, {wrong} wrong\n")
            sys.stdout.flush()
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
