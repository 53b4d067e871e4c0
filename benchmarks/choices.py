"""Reels and deliveries that chance puts together: each is sealed, or refused for a good reason.

`make choices` makes small reels of every kind of frame (flat, noisy, dark, moving; with and
without alpha; of several sizes, lengths and rates), with finishes, joins of time and overlays,
and a delivery of each in a codec, a container, a size, a quality and a colour that go together.
A sealed file has to keep its seal and has to be as its reel. A refusal has to be one of what is
asked for: one of what was made means that an honest encode was taken for a mistake.
"""

from __future__ import annotations

import argparse
import random
import traceback
from collections.abc import Callable
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from benchmarks.seeds import try_each
from tests.making import write_layered, write_stated, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.codecs import CODECS, Codec
from waxseal.core.deliver.compare.compare_file import against_words, check_against
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.run.preflight import preflight
from waxseal.core.errors import DeliveryRefused, WaxSealError
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job import edits
from waxseal.core.job.corrections import (
    Border,
    Cdl,
    Correction,
    Exposure,
    Fade,
    Grain,
    Saturation,
    Sharpen,
    Soften,
    Text,
    Values,
    Vignette,
)
from waxseal.core.job.finish_settings import Inside
from waxseal.core.job.model import (
    Bitrate,
    ConstantQuality,
    Conversion,
    DeliveryState,
    Framing,
    Grade,
    Graded,
    Job,
    JoinKind,
    Size,
    StandIn,
    Turn,
    View,
)
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.record import check

Picture = NDArray[np.float64]

RATES = tuple(Fraction(one) for one in ("24", "25", "30", "24000/1001", "30000/1001", "12", "60"))
SIZES = ((160, 90), (176, 144), (128, 128), (201, 113), (320, 180), (96, 171))
OWN_SIZES = ((64, 64), (90, 65), (100, 90), (128, 180), (180, 128), (321, 128), (256, 256))
# Of refusals that only an encode can find.
ASKED = (
    "can only be kept by a picture",
    "cannot be kept",
    "The peaks of the sound",
    "The sound cannot be made",
    "is among the coarsest",
)
NOISE = "are little but noise"
SHAPES = tuple(Fraction(one) for one in ("4/3", "64/45", "16/15", "1/2"))


def picture(kind: str, number: int, width: int, height: int) -> Picture:
    """R, G, B of 0 to 1, (height, width, 3)."""
    y, x = np.mgrid[:height, :width].astype(np.float64)
    if kind == "soft":
        parts = [x / width * 0.8 + number * 0.004, y / height * 0.7, (x + y) / (width + height)]
    elif kind == "noise":
        return np.random.default_rng(number).random((height, width, 3))
    elif kind == "moving":
        parts = [np.sin((x + number * n) / 17) * 0.4 + 0.5 for n in (3, 2, 1)]
    elif kind == "dark":
        parts = [x / width * 0.03 + number * 0.001] * 3
    elif kind == "board":
        parts = [(x // 16 + y // 16) % 2 * 0.7 + 0.1] * 3
    else:
        parts = [np.full((height, width), number * 37 % 256 / 255)] * 3
    values: Picture = np.clip(np.stack(parts, axis=2), 0, 1)
    return values


def with_alpha(values: Picture) -> Picture:
    """A disc that is clear around."""
    height, width = values.shape[:2]
    y, x = np.mgrid[:height, :width]
    alpha = np.clip(1.2 - np.hypot(x - width / 2, y - height / 2) / (height / 2), 0, 1)
    return np.concatenate([values, alpha[..., None]], axis=2)


def write_shot(folder: Path, chance: random.Random) -> str:
    """Returns what is on it."""
    folder.mkdir(parents=True)
    kind = chance.choice(("soft", "noise", "moving", "dark", "board", "flash"))
    suffix = chance.choice((".png", ".png", ".exr", ".tif", ".jpg"))
    has_alpha = suffix != ".jpg" and chance.random() < 0.35
    first, size = chance.choice((0, 1, 1001)), chance.choice(SIZES)
    for number in range(first, first + chance.choice((1, 2, 3, 5, 8, 12, 25))):
        values = picture(kind, number, *size)
        values = with_alpha(values) if has_alpha else values
        stored: NDArray[Any] = (values * 255).astype(np.uint8)
        if suffix == ".exr":
            stored = (values**2.2).astype(np.float16)
        elif suffix == ".tif":
            stored = (values * 65_535).astype(np.uint16)
        write_pixels(folder / f"{folder.name}.{number:04}{suffix}", stored)
    return kind


def corrections(chance: random.Random) -> Correction:
    return chance.choice(
        (
            Text(words=chance.choice(("{name} {frame}", "words that wrap, and wrap again"))),
            Grain(amount=chance.choice((2.0, 10.0))),
            Fade(frames_in=chance.choice((0, 2, 5)), frames_out=chance.choice((0, 3))),
            Exposure(stops=chance.uniform(-2, 2)),
            Border(width=chance.choice((10, 50)), colour="#ff8000"),
            Cdl(power=(1.2, 1.0, 0.8), offset=(0.02, 0.0, -0.02)),
            Saturation(saturation=chance.choice((0.0, 1.5))),
            Sharpen(amount=2.0),
            Soften(radius=20.0),
            Vignette(strength=0.8),
        )
    )


def join(chance: random.Random) -> dict[str, object]:
    return {
        "kind": chance.choice(list(JoinKind)),
        "length": chance.choice((1, 2, 5, 12, 100)),
        "colour": chance.choice(("#000000", "#ffffff", "#8a6414")),
        "values": chance.choice(list(Values)),
    }


def timing(chance: random.Random) -> dict[str, object]:
    ways: tuple[dict[str, object], ...] = (
        {"backwards": True},
        {"to_and_fro": True, "times": 2},
        {"speed": Fraction(1, 2)},
        {"speed": Fraction(7, 3), "times": 3},
    )
    return chance.choice(ways)


# Seeds from here on draw layers, mattes, holes and high range besides.
RICHER = 20_000
BEAUTIES = ("beauty", "View.Combined", "rgba", "Main", "layer.color", "left.final")
HIGH = ((9, 16), (9, 18), (12, 16), (9, 14))


def directions(number: int, width: int, height: int) -> Picture:
    """Of a ball that moves: data by its pixels, whatever it is called."""
    y, x = np.mgrid[:height, :width].astype(np.float64)
    x, y = (x - width / 2 - number) / height * 2, (y - height / 2) / height * 2
    z = np.sqrt(np.clip(1 - x**2 - y**2, 0, 1))
    inside = (x**2 + y**2 < 1)[..., None]
    values: Picture = np.where(inside, np.stack([x, y, z], axis=2), 0)
    return values


def write_more(folder: Path, chance: random.Random) -> str:
    """Frames of layers, of high range or with a matte beside them; the layer that is the picture.

    Empty where there are no layers. Some of the frames may be missing.
    """
    kind, size = chance.choice(("layers", "high", "matte")), chance.choice(SIZES)
    numbers = range(1, 1 + chance.choice((3, 5, 8)))
    there = [one for one in numbers if one in (numbers[0], numbers[-1]) or chance.random() < 0.8]
    name = folder.name
    beauty, points = chance.choice(BEAUTIES), chance.choice(HIGH)
    if kind == "layers":
        folder.mkdir(parents=True)
        for number in there:
            layers = {
                "aaa": directions(number, *size),
                "View.AO": picture("board", number, *size),
                beauty: picture("moving", number, *size),
            }
            halves = {layer: values.astype(np.float16) for layer, values in layers.items()}
            write_layered(folder / f"{name}.{number:04}.exr", halves)
        return beauty
    folder.mkdir(parents=True)
    for number in there:
        path = folder / f"{name}.{number:04}.png"
        if kind == "high":
            write_stated(path, picture("soft", number, *size), points)
            continue
        write_pixels(path, (picture("soft", number, *size) * 255).astype(np.uint8))
    if kind == "matte":
        matte = folder.parent / "m"
        matte.mkdir()
        for number in numbers:
            values = (picture("board", number, *size) * 255).astype(np.uint8)
            write_pixels(matte / f"m.{number:04}.png", values)
    return ""


class Reel:
    """A job that chance changes; what it cannot be changed to is left as it was."""

    def __init__(self, job: Job, chance: random.Random) -> None:
        self.job, self._chance = job, chance
        self.acts: list[str] = []

    def maybe(self, share: float, edit: Callable[..., Job], **fields: object) -> None:
        if self._chance.random() >= share:
            return
        try:
            self.job = edit(self.job, **fields)
        except WaxSealError:
            return
        self.acts.append(f"{edit.__name__}({fields})")

    def finish(self) -> None:
        choose = self._chance.choice
        rate = choose(RATES)
        for source in self.job.sequences:
            own = choose((rate, rate, choose(RATES)))
            self.maybe(1, edits.change_reading, source=source.id, rate=own)
        self.maybe(0.3, edits.set_reel_size, size=size_of(choose(SIZES)))
        self.maybe(0.3, edits.set_reel_rate, rate=choose(RATES))
        for shot in self.job.reel.shots:
            self.maybe(0.3, edits.set_framing, shot=shot.id, framing=choose(list(Framing)))
            self.maybe(0.3, edits.change_timing, of=shot.id, conversion=choose(list(Conversion)))
            self.maybe(0.4, edits.change_join, shot=shot.id, **join(self._chance))
            self.maybe(0.2, edits.change_timing, of=shot.id, **timing(self._chance))
            self.maybe(0.5, edits.set_correction, of=shot.id, correction=corrections(self._chance))
            self.maybe(0.2, edits.set_correction, of=shot.id, correction=corrections(self._chance))
            scale, turn = choose((0.5, 1.3)), choose(list(Turn))
            self.maybe(0.15, edits.change_placing, of=shot.id, scale=scale, turn=turn, x=9)
        last = self.job.sequences[-1].id
        self.maybe(0.2, edits.set_correction, of="reel", correction=Fade(frames_in=3))
        self.maybe(0.2, edits.lay_over, source=last, at=choose((1, 2, 5)))
        self.maybe(0.2, edits.set_ground, colour="#336699")
        self.maybe(0.2, edits.change_colourway, view=choose(list(View)))

    def finish_more(self, more: random.Random) -> None:
        """Stand-ins for what is missing, and the matte where there is one."""
        stand_ins = (StandIn.HOLD, StandIn.NEAREST, StandIn.BLACK)
        for source in self.job.sequences:
            self.maybe(1, edits.change_reading, source=source.id, stand_in=more.choice(stand_ins))
        mattes = [one.id for one in self.job.sequences if one.name == "m"]
        for matte in mattes:
            lit = next(shot for shot in self.job.reel.shots if shot.source != matte)
            inside = Inside(source=matte, inverted=more.random() < 0.5)
            brighter = Exposure(stops=1.0)
            self.maybe(1, edits.set_correction, of=lit.id, correction=brighter)
            self.maybe(1, edits.keep_inside, of=lit.id, inside=inside)
            laid = next((one for one in self.job.reel.shots if one.source == matte), None)
            if laid is not None:
                self.maybe(1, edits.remove_shot, shot=laid.id)

    def order(self, part: str) -> None:
        """A delivery of what goes together; part: of the codec's name."""
        choose, chance = self._chance.choice, self._chance
        codec = choose([one for one in CODECS.values() if part in one.name])
        container = CONTAINERS[choose(codec.containers)]
        fields: dict[str, Any] = {
            "codec": codec.name,
            "container": container.name,
            "space": choose(list(codec.spaces)),
            "dither": chance.random() < 0.3,
            "quality": quality(codec, chance),
        }
        if container.name in codec.clear_containers and chance.random() < 0.5:
            fields["alpha"] = choose(codec.alphas)
        if chance.random() < 0.4:
            framing = choose((Framing.FIT, Framing.FILL, Framing.STRETCH))
            fields |= {"size": size_of(choose(OWN_SIZES)), "framing": framing}
        if chance.random() < 0.25 and container.says_pixel_shape(codec):
            fields["pixel_shape"] = choose(SHAPES)
        if chance.random() < 0.3:
            fields["rate"] = choose(RATES)
        if codec.has_key_frames and chance.random() < 0.3:
            fields["most_bytes"] = choose((4_000, 20_000, 200_000))
        if container.sounds and chance.random() < 0.3:
            fields["sound_codec"] = choose(container.sounds).name
        if container.sounds and chance.random() < 0.2:
            fields |= {"loudness": choose((-23.0, -14.0)), "true_peak": choose((-1.0, None))}
        if container.has_timecode and chance.random() < 0.2:
            fields["timecode"] = "01:00:00:00"
        if chance.random() < 0.2:
            fields["range"] = (1, choose((1, 4)))
        if codec.has_key_frames and chance.random() < 0.3:
            fields["key_seconds"] = choose((0.01, 0.1, 0.5))
        self.maybe(1, edits.change_delivery, delivery=self.job.deliveries[0].id, **fields)


def size_of(sides: tuple[int, int]) -> Size:
    return Size(width=sides[0], height=sides[1])


def quality(codec: Codec, chance: random.Random) -> Graded | ConstantQuality | Bitrate:
    if codec.has_bitrate and chance.random() < 0.2:
        return Bitrate(bits_per_second=chance.choice((300_000, 3_000_000)))
    if codec.grades and chance.random() < 0.5:
        return ConstantQuality(figure=float(round(chance.uniform(codec.best, codec.coarsest))))
    return Graded(grade=chance.choice(list(Grade)))


def trouble(job: Job) -> str:
    """What is wrong with what became of a delivery; empty where nothing is.

    What preflight refuses was asked for, and was said before the first frame.
    """
    delivery = job.deliveries[0]
    try:
        preflight(job, delivery)
    except DeliveryRefused:
        return ""
    outcome = make_delivery(job, delivery, silent, CancelToken())
    told = " ".join(outcome.reasons)
    if outcome.state is not DeliveryState.SEALED:
        is_asked = any(words in told for words in ASKED)
        return "" if is_asked else f"{outcome.state}: {told}"
    path = path_of(delivery)
    stood_in = [one for one in programme(job).missing() if one.is_stood_in]
    if stood_in and delivery.range is None and "stand" not in " ".join(outcome.notes):
        return f"sealed without a word of frames that are missing: {outcome.notes}"
    if 0 < delivery.most_bytes < path.stat().st_size:
        return f"over its limit: {path.stat().st_size} of {delivery.most_bytes} bytes"
    checked = check(path)
    if checked.state is not DeliveryState.SEALED:
        return f"{checked.state}: {' '.join(checked.reasons)}"
    if not CODECS[delivery.codec].takes_codes:
        return ""
    found = check_against(path, job, delivery)
    return "" if found.is_alike else f"beside its reel: {' '.join(against_words(found))}"


def try_one(folder: Path, seed: int, codec: str) -> str:
    chance = random.Random(seed)  # noqa: S311 - the same every time, not secret
    kinds = {
        write_shot(folder / "src" / f"sh{number:02}", chance)
        for number in range(chance.choice((1, 1, 2, 3)))
    }
    if chance.random() < 0.5:
        write_tone(folder / "src" / "tone.wav", seconds=chance.choice((0.2, 1.0, 2.0)))
    more = random.Random(f"{seed} more")  # noqa: S311
    beauty = write_more(folder / "src" / "more", more) if seed >= RICHER else ""
    out = folder / "out"
    out.mkdir()
    sources = scan([folder / "src"]).sources
    taken = next((one.reading.part.value for one in sources if one.name == "more"), "")  # type: ignore[union-attr]
    if beauty and taken != beauty:
        return f"of layers with {beauty} it takes {taken}"
    reel = Reel(edits.take_in(Job(), sources=sources, folder=str(out)), chance)
    reel.finish()
    if seed >= RICHER:
        reel.finish_more(more)
    reel.order(codec)
    try:
        found = trouble(reel.job)
    except Exception:  # noqa: BLE001 - whatever it is, it is a finding
        found = traceback.format_exc()
    if NOISE in found and "noise" in kinds:
        return ""  # what a codec leaves out of it may be most of the picture
    return f"{found}\n  " + "\n  ".join(reel.acts) if found else ""


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=1000)
    parser.add_argument("--seed", type=int, default=RICHER, help="of the first one")
    parser.add_argument("--codec", default="", help="part of the name of those that are tried")
    wishes = parser.parse_args()
    seeds = range(wishes.seed, wishes.seed + wishes.count)
    return try_each(seeds, partial(try_one, codec=wishes.codec), "reels")


if __name__ == "__main__":
    raise SystemExit(main())
