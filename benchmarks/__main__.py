"""`make bench`: each measure beside its bare loop, turn by turn, as whole processes.

Prints wall and processor seconds, peak memory, and the ratio of the medians.
Nothing here passes or fails: the machine is shared, the reader judges.
"""

from __future__ import annotations

import argparse
import os
import re
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from benchmarks.frames import write_frames
from benchmarks.pictures import measure_pictures
from benchmarks.reels import first_frame, many_overlays
from benchmarks.timing import best_of
from waxseal.core.folders import segments_folder

PYTHON = sys.executable


@dataclass(frozen=True, slots=True)
class Run:
    wall: float
    processor: float
    memory_mb: float  # of the largest process


def run(words: list[str]) -> Run:
    """Run a command to its end; its children's time is counted with it."""
    shutil.rmtree(segments_folder(), ignore_errors=True)  # what was encoded before is no work
    before = time.monotonic()
    child = os.fork()
    if child == 0:
        nothing = os.open(os.devnull, os.O_RDWR)
        for descriptor in (0, 1, 2):
            os.dup2(nothing, descriptor)
        os.execv(words[0], words)  # noqa: S606 - our own python
    _, status, usage = os.wait4(child, 0)
    if os.waitstatus_to_exitcode(status) != 0:
        raise SystemExit(f"failed: {' '.join(words)}")
    wall = time.monotonic() - before
    return Run(wall, usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024)


def compare(name: str, ours: list[str], bare: list[str], *, aim: float, rounds: int) -> None:
    run(ours), run(bare)  # warm: compiled kernels, files in memory
    pairs = [(run(ours), run(bare)) for _ in range(rounds)]
    mine, floor = zip(*pairs, strict=True)
    wall = [statistics.median(one.wall for one in side) for side in (mine, floor)]
    processor = [statistics.median(one.processor for one in side) for side in (mine, floor)]
    ratio = statistics.median(one.wall / other.wall for one, other in pairs)
    memory = max(one.memory_mb for one in mine)
    print(
        f"{name:<34} ours {wall[0]:7.2f} s  bare {wall[1]:7.2f} s  ratio {ratio:5.2f} "
        f"(aim {aim:g})  processor {processor[0] / processor[1]:5.2f}  memory {memory:5.0f} MB",
        flush=True,
    )


def listing(folder: Path) -> None:
    """100 000 names against a plain listing and one regular expression."""
    from waxseal.core.arrive.listing import list_paths

    many = folder / "many"
    if not many.is_dir():
        many.mkdir(parents=True)
        for number in range(100_000):
            (many / f"shot.{number:06}.exr").touch()
    pattern = re.compile(r"^(.*?)(\d+)(\.[^.]+)$")

    def bare() -> None:
        groups: dict[tuple[str, str], list[int]] = {}
        for entry in os.scandir(many):
            found = pattern.match(entry.name)
            if found:
                groups.setdefault((found[1], found[3]), []).append(int(found[2]))

    ours, floor = best_of(lambda: list_paths([many])), best_of(bare)
    print(
        f"{'100 000 names listed':<34} ours {ours:7.3f} s  bare {floor:7.3f} s  "
        f"ratio {ours / floor:5.2f} (aim 2.5)",
        flush=True,
    )


def deep_look(folder: Path, suffix: str) -> None:
    """Every frame decoded and judged, against decoding alone, both in two threads."""
    from concurrent.futures import ThreadPoolExecutor

    from waxseal.core.arrive.decode_check import look_deep
    from waxseal.core.arrive.scanning import scan
    from waxseal.core.frames.frame_reader import read_pixels
    from waxseal.core.job.model import Sequence

    frames = write_frames(folder, suffix=suffix, count=240, width=1920, height=1080)
    (source,) = scan([frames]).sources
    if not isinstance(source, Sequence):
        raise SystemExit("the frames of the benchmark are no sequence")
    files = sorted(frames.iterdir())

    def bare() -> None:
        with ThreadPoolExecutor(2) as pool:
            for done in pool.map(lambda path: bool(read_pixels(path)), files):
                del done

    ours, floor = best_of(lambda: look_deep(source), 3), best_of(bare, 3)
    print(
        f"{'close look, 240 frames 1080p ' + suffix:<34} ours {ours:7.2f} s  bare {floor:7.2f} s  "
        f"ratio {ours / floor:5.2f} (aim 1.2)",
        flush=True,
    )


def delivery(
    name: str, suffix: str, size: tuple[int, int], count: int, aim: float, to: str = ""
) -> Measure:
    """From frames to a sealed file by command, against the bare loop; to: another size."""

    def act(folder: Path, rounds: int) -> None:
        frames = write_frames(folder, suffix=suffix, count=count, width=size[0], height=size[1])
        out = ["--out", str(folder / "ours.mp4"), "--overwrite", "--rate", "24"]
        ours = [PYTHON, "-m", "waxseal.cli.main", "assemble", str(frames), *out]
        bare = [PYTHON, "-m", "benchmarks.bare", str(frames), str(folder / "bare.mp4")]
        if to:
            ours, bare = [*ours, "--size", to], [*bare, to]
        compare(name, ours, bare, aim=aim, rounds=rounds)

    return Measure(name, act)


def with_alpha(name: str, out: str, codec: str, aim: float) -> Measure:
    """From PNG frames with alpha to a sealed file that keeps it, by command, against the loop."""

    def act(folder: Path, rounds: int) -> None:
        size = {"width": 1920, "height": 1080}
        frames = write_frames(folder, suffix=".png", count=48, is_clear=True, **size)
        said = ["--codec", codec, "--alpha", "straight", "--overwrite", "--rate", "24"]
        target = str(folder / f"ours{out}")
        ours = [PYTHON, "-m", "waxseal.cli.main", "assemble", str(frames), "--out", target, *said]
        bare = [PYTHON, "-m", "benchmarks.bare_alpha", str(frames), str(folder / f"bare{out}")]
        compare(name, ours, bare, aim=aim, rounds=rounds)

    return Measure(name, act)


def window_start(_folder: Path, rounds: int) -> None:
    ours, bare = ([PYTHON, "-m", f"benchmarks.{one}_window"] for one in ("our", "bare"))
    compare("window start", ours, bare, aim=1.5, rounds=rounds)


@dataclass(frozen=True, slots=True)
class Measure:
    """act: takes the folder of the frames, and how many turns. quick: the turns of a quick bench.

    A measure without quick turns is left out of it.
    """

    name: str
    act: Callable[[Path, int], None]
    rounds: int = 3
    quick: int = 0


def gaps(name: str, module: str) -> Measure:
    """How long the window keeps its event loop waiting meanwhile, in seconds."""

    def act(folder: Path, _rounds: int) -> None:
        words = [PYTHON, "-m", f"benchmarks.{module}", str(folder)]
        told = subprocess.run(words, check=True, capture_output=True, text=True).stdout
        aims = "aims: p99 0.05, longest 0.1, look 0.2"
        print(f"{name:<34} {told.strip()} ({aims})", flush=True)

    return Measure(name, act)


def once(act: Callable[[Path], None]) -> Callable[[Path, int], None]:
    """A measure that takes the best of turns of its own."""
    return lambda folder, _rounds: act(folder)


MEASURES = (
    delivery("1080p EXR half, 240 frames", ".exr", (1920, 1080), 240, 1.10),
    delivery("1080p PNG, 240 frames", ".png", (1920, 1080), 240, 1.15),
    replace(
        delivery("640x360 EXR half, 48 frames", ".exr", (640, 360), 48, 2.5), rounds=5, quick=3
    ),
    delivery("360p PNG to 720p, 72 frames", ".png", (640, 360), 72, 1.3, to="1280x720"),
    delivery("2160p EXR to 1080p, 96 frames", ".exr", (3840, 2160), 96, 1.2, to="1920x1080"),
    with_alpha("1080p PNG to ProRes 4444, 48 frames", ".mov", "ProRes 4444", 1.15),
    with_alpha("1080p PNG to PNG, 48 frames", "_png", "PNG", 1.15),
    Measure("first of 100 080 frames", once(first_frame), quick=1),
    Measure("40 frames beside 200 overlays", once(many_overlays), quick=1),
    Measure("pictures", measure_pictures, rounds=7, quick=2),
    Measure("window start", window_start, rounds=7, quick=3),
    Measure("100 000 names", once(listing), quick=1),
    Measure("close look exr", once(lambda folder: deep_look(folder, ".exr"))),
    Measure("close look png", once(lambda folder: deep_look(folder, ".png"))),
    gaps("2 000 sequences dropped", "dropping"),
    gaps("trims and undo, 500 shots", "editing"),
    gaps("a job of 2 000 sources opened and saved", "opening"),
    gaps("acts, 2 000 sources, 500 shots", "acting"),
)


def main() -> None:
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument(
        "--quick", action="store_true", help="two minutes instead of a quarter of an hour"
    )
    words.add_argument("--only", default="", help="part of a measure's name")
    chosen = words.parse_args()
    folder = Path(tempfile.gettempdir()) / "waxseal-bench"
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ["XDG_CACHE_HOME"] = str(folder / "cache")  # not the user's own
    # Modules are compiled once, as on any machine, whatever this shell says.
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    for measure in MEASURES:
        rounds = measure.quick if chosen.quick else measure.rounds
        if rounds and chosen.only in measure.name:
            measure.act(folder, rounds)


if __name__ == "__main__":
    main()
