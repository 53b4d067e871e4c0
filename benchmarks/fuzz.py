"""Hostile files: no crash, no hang, no memory beyond two gigabytes.

Real files of every format, mutated; a bomb of each format; jobs with wrong values
anywhere; mutated movies, and seals, for `check`. `make fuzz` takes some thousands of
them in processes of their own, so that a decoder that crashes is seen as what it is.
Each case must end in a result or in our own error. Prints what it found; fails when
there was anything.
"""

from __future__ import annotations

import argparse
import faulthandler
import json
import multiprocessing
import random
import resource
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from tests.bombs import BOMBS
from tests.core.job.test_hostile import VALUES, changed, full_job, leaves, troubles
from tests.making import write_movie, write_sequence, write_tone
from waxseal.core.errors import FrameError, SoundError, WaxSealError
from waxseal.core.job.job_file import write_job
from waxseal.core.seal.measure.measure_movie import measure_movie
from waxseal.core.seal.record import check, seal_path, seal_text

MEMORY_BYTES = 2 << 30
LONGEST_SECONDS = 20.0
CHUNK = 40  # cases a process
CHECKED = "checked.mp4"
JOBS = 0.25  # of the cases

Case = tuple[str, bytes]  # the file's name, and what is in it


@dataclass(frozen=True, slots=True)
class Seed:
    name: str
    content: bytes


def seeds(folder: Path) -> list[Seed]:
    """A small whole file of every format."""
    stills: list[tuple[str, dict[str, Any]]] = [
        ("a.%d.exr", {"dtype": "float16", "channels": 4}),
        ("b.%d.exr", {"dtype": "float32"}),
        ("c.%d.png", {"channels": 4}),
        ("d.%d.png", {"dtype": "uint16"}),
        ("e.%d.tif", {"dtype": "uint16"}),
        ("f.%d.tif", {"channels": 4}),
        ("g.%d.jpg", {}),
        ("h.%d.dpx", {"dtype": "uint16"}),
        ("i.%d.tga", {"channels": 4}),
        ("j.%d.iff", {}),
        ("k.%d.bmp", {}),
        ("l.%d.webp", {}),
    ]
    for pattern, kind in stills:
        write_sequence(folder, pattern, frames=range(1, 2), width=48, height=32, **kind)
    write_movie(folder / "m.mp4", count=8, sound_seconds=0.3)
    write_movie(folder / "n.mov", codec="prores_ks", kind="yuv422p10le", count=4)
    write_movie(folder / "o.webm", codec="libvpx-vp9", count=6)
    write_movie(folder / "p.mkv", rate=Fraction(25), count=8)
    write_tone(folder / "q.wav", seconds=0.2)
    write_tone(folder / "r.flac", seconds=0.2)
    write_movie(folder / CHECKED, count=8, sound_seconds=0.3)
    write_movie(folder / f"2{CHECKED}", kind="yuv420p", count=4)
    measured = measure_movie(folder / CHECKED)
    seal_path(folder / CHECKED).write_bytes(seal_text(CHECKED, measured))
    return [Seed(path.name, path.read_bytes()) for path in sorted(folder.iterdir())]


def mutated(seed: Seed, chance: random.Random) -> bytes:
    """Bytes changed, cut, doubled, or moved; headers more often than the rest."""
    content = bytearray(seed.content)
    for _ in range(chance.randint(1, 8)):
        reach = min(len(content), 600) if chance.random() < 0.6 else len(content)
        at = chance.randrange(max(1, reach))
        kind = chance.random()
        if kind < 0.6:
            content[at] = chance.choice([0, 1, 0x7F, 0x80, 0xFF, chance.randrange(256)])
        elif kind < 0.75:
            content[at : at + 4] = chance.choice(
                [b"\0\0\0\0", b"\xff\xff\xff\xff", b"\x7f\xff\xff\xff"]
            )
        elif kind < 0.85:
            del content[at : at + chance.randint(1, 64)]
        elif kind < 0.95:
            content[at:at] = content[at : at + chance.randint(1, 64)]
        else:
            del content[at:]
        if not content:
            return b"\0"
    return bytes(content)


def hostile_jobs(folder: Path, count: int, chance: random.Random) -> list[Case]:
    """A job that has everything, with up to three wrong values."""
    document = json.loads(write_job(full_job(folder), Path("/")))
    places = list(leaves(document))
    cases = []
    for number in range(count):
        text = json.dumps(document).encode()
        for _ in range(chance.randint(1, 3)):
            try:
                text = changed(json.loads(text), chance.choice(places), chance.choice(VALUES))
            except (KeyError, IndexError, TypeError):
                continue  # the place went with the value before
        cases.append((f"{number}.waxseal", text))
    return cases


def bombs(folder: Path) -> list[Case]:
    return [(name, make(folder / name).read_bytes()) for name, make in BOMBS.items()]


def try_case(path: Path) -> None:
    if path.suffix == ".waxseal":
        said = troubles(path.read_bytes())
        if not all(said):
            raise ValueError("a refusal without a word")
    elif path.name.endswith(CHECKED):
        with suppress(WaxSealError):
            check(path)
    elif path.suffix == ".json":
        video = path.with_name(CHECKED)
        write_movie(video, count=8, sound_seconds=0.3)
        with suppress(WaxSealError):
            check(video)
        video.unlink()
    else:
        read_case(path)


def read_case(path: Path) -> None:
    """As the in-tray would: a look, then all of it."""
    from waxseal.core.arrive.scanning import scan
    from waxseal.core.frames.frame_reader import read_pixels
    from waxseal.core.job.model import Sequence
    from waxseal.core.sound.sound_files import read_blocks

    for source in scan([path]).sources:
        try:
            if isinstance(source, Sequence):
                for frame in range(1, min(source.files.count, 8) + 1):
                    read_pixels(path, frame=frame)
            else:
                for _ in read_blocks(path, start=0, block=1 << 14):
                    pass
        except (FrameError, SoundError):
            continue


def work(cases: list[Case], folder: Path, said: multiprocessing.Queue[str]) -> None:
    """In a process of its own: says each case before it begins, and after it is over."""
    faulthandler.enable()
    for name, content in cases:
        path = folder / name
        path.write_bytes(content)
        said.put(f"begin {name}")
        begun = time.monotonic()
        try:
            try_case(path)
        except Exception as error:  # noqa: BLE001 - what is looked for
            said.put(f"wrong {name} {type(error).__name__}: {error}")
        if time.monotonic() - begun > LONGEST_SECONDS:
            said.put(f"wrong {name} took {time.monotonic() - begun:.0f} s")
        path.unlink()
    used = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    if used > MEMORY_BYTES:
        said.put(f"wrong {cases[0][0]}… took {used / 1e9:.1f} GB")


def run(cases: list[Case], folder: Path) -> Iterator[str]:
    """What was wrong in these cases, with the seed's name; the bad file is kept."""
    context = multiprocessing.get_context("spawn")
    said: multiprocessing.Queue[str] = context.Queue()
    process = context.Process(target=work, args=(cases, folder, said))
    process.start()
    process.join(LONGEST_SECONDS * 4)
    last = ""
    if process.is_alive():
        process.kill()
        process.join()
    while not said.empty():
        line = said.get()
        last = line if line.startswith("begin") else last
        if line.startswith("wrong"):
            yield line.removeprefix("wrong ")
    if process.exitcode:
        yield f"{last.removeprefix('begin ')}: the process ended with {process.exitcode}"


def main() -> int:
    options = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    options.add_argument("--cases", type=int, default=2000)
    options.add_argument("--seed", type=int, default=1)
    chosen = options.parse_args()
    chance = random.Random(chosen.seed)  # noqa: S311 - repeatable, not secret
    wrong: list[str] = []
    with tempfile.TemporaryDirectory() as place:
        start = Path(place) / "seeds"
        start.mkdir()
        files = seeds(start)
        todo: list[Case] = []
        jobs = hostile_jobs(Path(place) / "job", round(chosen.cases * JOBS), chance)
        for number in range(chosen.cases - len(jobs)):
            seed = files[number % len(files)]
            todo.append((seed.name, mutated(seed, chance)))
        todo += [*jobs, *bombs(Path(place))]
        for at in range(0, len(todo), CHUNK):
            cases = todo[at : at + CHUNK]
            folder = Path(place) / str(at)
            folder.mkdir()
            wrong += run(cases, folder)
            sys.stdout.write(f"{min(at + CHUNK, len(todo))} of {len(todo)}, {len(wrong)} wrong\n")
            sys.stdout.flush()
    for line in wrong:
        sys.stdout.write(f"{line}\n")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
