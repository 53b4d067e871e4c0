"""Deliveries that are killed at random moments: what is there afterwards is whole, or nothing is.

`make kill` starts `waxseal assemble` over a film that was sealed before, kills the command, its
encoding process, or both, at a moment that chance chooses, and looks:

- the name holds the old film with its seal, or the new one with its seal;
- the next run makes the same bytes as one that nobody disturbed, and leaves nothing beside them;
- it encodes no segment again that was whole. Now and then a bit of one is flipped before: that
  one is encoded again.

A stop at each single system call of the placing is a test (tests/core/deliver/test_handover.py).
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
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from tests.making import write_sequence, write_tone
from waxseal.core.folders import segments_folder

COMMAND = (sys.executable, "-m", "waxseal.cli.main")
AT_ONCE = 0.15  # of the kills hit within this share of the whole time at its end: the placing


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


class Film:
    """A folder of frames that is delivered over a film that was made of others."""

    def __init__(self, place: Path) -> None:
        os.environ["XDG_CACHE_HOME"] = str(place / "cache")  # no segments but its own
        self.out = place / "out" / "film.mov"
        self.out.parent.mkdir()
        before = write_sequence(place / "before", frames=range(1, 13))
        self.frames = write_sequence(place / "frames", frames=range(1, 241), width=160, height=90)
        write_tone(self.frames / "tone.wav", seconds=10.0)
        self.old, _ = self.made(before)
        self.kept = [(one, one.read_bytes()) for one in self.out.parent.iterdir()]
        self.new, self.seconds = self.made(self.frames)

    def words(self, frames: Path) -> tuple[object, ...]:
        codec = ("--codec", "ProRes LT")  # short segments
        return ("assemble", frames, "--out", self.out, "--rate", "24", "--overwrite", *codec)

    def made(self, frames: Path) -> tuple[str, float]:
        """Its digest, and how long it takes."""
        begun = time.monotonic()
        done = run(*self.words(frames), "--json")
        if done.returncode != 0:
            raise RuntimeError(done.stderr)
        self.segments: dict[str, int] = json.loads(done.stdout)["segments"]
        return digest(self.out), time.monotonic() - begun

    def put_back(self) -> None:
        """The old film, sealed as it was."""
        for path, content in self.kept:
            path.write_bytes(content)
        shutil.rmtree(segments_folder(), ignore_errors=True)

    def killed(self, chance: random.Random) -> str:
        """Deliver, and kill what does it somewhere on the way; says whom, and after how long."""
        near_the_end = chance.random() < 0.5
        share = chance.uniform(1 - AT_ONCE, 1.05) if near_the_end else chance.random()
        whom = chance.choice(["command", "worker", "both"])
        how = chance.choice([signal.SIGKILL, signal.SIGTERM, signal.SIGINT])
        process = subprocess.Popen(
            [*COMMAND, *map(str, self.words(self.frames))],
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        time.sleep(share * self.seconds)
        targets = children_of(process.pid) if whom != "command" else []
        targets += [process.pid] if whom != "worker" else []
        for target in targets:
            try:
                os.kill(target, how)
            except ProcessLookupError:
                continue
        try:
            process.wait(60)
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, signal.SIGKILL)
            process.wait()
            return f"hung after {how.name} to {whom} at {share:.2f}"
        time.sleep(0.3)  # a worker that lost its command cleans up after itself
        return f"{how.name} to {whom} at {share:.2f}"

    def flipped(self, chance: random.Random) -> int:
        """Flip a bit of one segment, perhaps. Returns how many are whole."""
        whole = sorted(segments_folder().glob("*.segment")) if segments_folder().is_dir() else []
        if not whole or chance.random() < 0.7:
            return len(whole)
        path = chance.choice(whole)
        body = bytearray(path.read_bytes())
        body[chance.randrange(len(body))] ^= 1 << chance.randrange(8)
        path.write_bytes(body)
        return len(whole) - 1

    def troubles(self, chance: random.Random) -> Iterator[str]:
        """What is not as it has to be, right after a kill, and after the next run."""
        whole = self.flipped(chance)
        checked = run("check", self.out, "--json")
        try:
            state: dict[str, Any] = json.loads(checked.stdout)
        except ValueError:
            state = {"state": "nothing there", "reasons": [checked.stderr.strip()]}
        if state["state"] != "sealed":
            yield f"{state['state']}: {state.get('reasons')}"
        elif digest(self.out) not in (self.old, self.new):
            yield "neither the old film nor the new one"
        again, _ = self.made(self.frames)
        if again != self.new:
            yield "the next run made other bytes"
        if self.segments["kept"] != whole:
            yield f"{whole} segments were whole, and {self.segments['kept']} were used"
        left = sorted(one.name for one in self.out.parent.iterdir())
        if left != ["film.mov", "film.mov.seal.json"]:
            yield f"left behind: {left}"


def main() -> int:
    options = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    options.add_argument("--kills", type=int, default=200)
    options.add_argument("--seed", type=int, default=1)
    chosen = options.parse_args()
    chance = random.Random(chosen.seed)  # noqa: S311 - repeatable, not secret
    wrong = 0
    with tempfile.TemporaryDirectory() as place:
        film = Film(Path(place))
        for number in range(1, chosen.kills + 1):
            film.put_back()
            what = film.killed(chance)
            found = [*film.troubles(chance), *([what] if what.startswith("hung") else [])]
            wrong += bool(found)
            for one in found:
                sys.stdout.write(f"{number}, {what}: {one}\n")
            if number % 20 == 0:
                sys.stdout.write(f"{number} of {chosen.kills}, {wrong} wrong\n")
            sys.stdout.flush()
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
