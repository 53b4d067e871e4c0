"""Small jobs and the bytes that they deliver.

A change of the house behind the pictures leaves every digest as it is. One that
changes pixels on purpose changes digests, and the version of the picture's
arithmetic with them (see `plan.recipe_keys`).
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.making import cut, gradient, write_movie, write_sequence, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import (
    Border,
    Cdl,
    Correction,
    Exposure,
    Fade,
    FadeTo,
    Gamma,
    Grain,
    Haze,
    Opacity,
    Saturation,
    Sharpen,
    Soften,
    Text,
    Vignette,
)
from waxseal.core.job.edits import (
    REEL,
    add_text,
    change_colourway,
    change_delivery,
    change_join,
    change_overlay,
    change_placing,
    change_reading,
    change_timing,
    keep_inside,
    lay_over,
    make_stack,
    mark,
    put_behind,
    put_on_reel,
    remove_shot,
    set_correction,
    set_framing,
    set_ground,
    set_reel_rate,
    set_reel_size,
    take_in,
)
from waxseal.core.job.finish_settings import Inside
from waxseal.core.job.model import (
    Blend,
    Colour,
    Conversion,
    DeliveryState,
    Framing,
    Job,
    JoinKind,
    Scaling,
    Size,
    Space,
    StandIn,
    Turn,
    View,
    Working,
)
from waxseal.core.progress import CancelToken, silent

LARGE: dict[str, Any] = {"width": 160, "height": 90}


def job_in(folder: Path, name: str = "a") -> Job:
    """What is in a folder as a job; only the source of this name is on the reel."""
    out = folder / "out"
    out.mkdir()
    job = take_in(Job(name="film"), sources=scan([folder]).sources, folder=str(out))
    for shot in job.reel.shots:
        if job.sequence(shot.source).name != name:
            job = remove_shot(job, shot=shot.id)
    return job


def named(job: Job, name: str) -> str:
    return next(one.id for one in job.sequences if one.name == name)


def finished(job: Job, *corrections: Correction, of: str = "") -> Job:
    for one in corrections:
        job = set_correction(job, of=of or job.reel.shots[0].id, correction=one)
    return job


def ordered(job: Job, **fields: object) -> Job:
    return change_delivery(job, delivery="d1", **fields)


def clear(frame: int, dtype: str = "uint8", scale: float = 0.6) -> Any:
    """A gradient whose alpha is a ramp; premultiplied where it is light."""
    values = gradient(frame, **LARGE, dtype="float32", channels=4)
    values[..., 3] = np.linspace(0, 1, values.shape[1])[None] * scale
    if dtype == "float16":
        values[..., :3] *= values[..., 3:]
        return values.astype(dtype)
    return (values * np.iinfo(dtype).max + 0.5).astype(dtype)


def write_clear(folder: Path, name: str, suffix: str, dtype: str, count: int = 8) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for frame in range(1, count + 1):
        write_pixels(folder / f"{name}.{frame:04d}{suffix}", clear(frame, dtype))


def plain_png(folder: Path) -> Job:
    write_sequence(folder, "a.%04d.png", frames=range(1, 17), **LARGE)
    return job_in(folder)


def light_with_sound(folder: Path) -> Job:
    write_sequence(folder, "a.%04d.exr", frames=range(1001, 1017), dtype="float16", **LARGE)
    write_tone(folder / "a.wav", seconds=1.0, rate=44_100)
    job = job_in(folder)
    job = change_reading(job, source=job.sequences[0].id, rate=Fraction(24_000, 1001))
    return mark(job, first=3, last=14)


def scaled_over_ground(folder: Path) -> Job:
    write_clear(folder, "a", ".png", "uint8")
    job = set_ground(
        set_reel_size(job_in(folder), size=Size(width=101, height=75)), colour="#345678"
    )
    job = set_framing(job, shot="a1", framing=Framing.FILL)
    return change_placing(job, of="a1", x=7, y=-3, scale=0.8, turn=Turn.RIGHT, mirrored=True)


def between_frames(folder: Path) -> Job:
    write_sequence(folder, "a.%04d.exr", frames=range(1, 9), dtype="float16", **LARGE)
    write_sequence(folder, "b.%04d.png", frames=range(1, 9), dtype="uint16", **LARGE)
    out = folder / "out"
    out.mkdir()
    job = take_in(Job(name="film"), sources=scan([folder]).sources, folder=str(out))
    for source in job.sequences:
        job = change_reading(job, source=source.id, rate=Fraction(12))
    job = change_timing(job, of="a1", conversion=Conversion.BLEND, to_and_fro=True)
    job = change_timing(job, of="a2", conversion=Conversion.MOTION, speed=Fraction(3, 4))
    return set_reel_rate(job, rate=Fraction(25))


def much_finished(folder: Path) -> Job:
    write_sequence(folder, "a.%04d.exr", frames=range(1, 13), dtype="float16", **LARGE)
    write_sequence(folder, "m.%04d.png", frames=range(1, 13), **LARGE)
    write_sequence(folder, "z.%04d.exr", frames=range(1, 2), dtype="float32", **LARGE)
    job = job_in(folder)
    job = finished(
        job,
        Cdl(slope=(1.1, 1.0, 0.9), power=(1.0, 1.1, 1.0)),
        Saturation(saturation=0.7),
        Haze(depth=named(job, "z"), start=0.2, end=0.9),
        Soften(radius=4),
        Vignette(strength=0.6),
        Grain(amount=6),
        Text(words="{name} {frame} {timecode}", size=80, shade=0.5),
        Fade(frames_in=4, frames_out=3),
    )
    job = keep_inside(job, of="a1", inside=Inside(source=named(job, "m"), soften=3))
    job = add_text(job, of=REEL, text=Text(words="reel {reel frame}", size=60))
    return finished(
        job,
        Exposure(stops=0.5),
        Sharpen(amount=0.4),
        Border(width=20),
        Fade(frames_out=2, to=FadeTo.WHITE),
        of=REEL,
    )


def stacked(folder: Path) -> Job:
    for name in ("sh_beauty", "sh_diffuse", "sh_specular"):
        write_sequence(folder, f"{name}.%04d.exr", frames=range(1, 9), dtype="float16", **LARGE)
    job = job_in(folder, "sh_beauty")
    return make_stack(job, source=job.reel.shots[0].source)


def laid_over(folder: Path) -> Job:
    write_sequence(folder, "a.%04d.png", frames=range(1, 13), **LARGE)
    write_clear(folder, "b", ".exr", "float16")
    write_clear(folder, "c", ".png", "uint16", count=5)
    (folder / "plate").mkdir()
    write_pixels(folder / "plate" / "plate.png", gradient(1, width=80, height=60))
    job = job_in(folder)
    job = lay_over(lay_over(job, source=named(job, "b"), at=3), source=named(job, "c"), at=5)
    job = change_overlay(job, overlay="o2", blend=Blend.SCREEN, length=6)
    job = change_placing(job, of="o2", scale=0.5, scaling=Scaling.SOFT)
    job = finished(job, Opacity(points=((0, 0.2), (5, 1.0))), of="o1")
    job = finished(job, Opacity(points=((0, 0.7),)))
    job = put_behind(job, source=named(job, "plate"))
    return ordered(job, codec="H.265", space=Space.P3, dither=True)


def as_light(folder: Path) -> Job:
    write_sequence(folder, "a.%04d.exr", frames=range(1, 9), dtype="float16", **LARGE)
    write_clear(folder, "b", ".exr", "float16")
    job = lay_over(job_in(folder), source="s2", at=2)
    job = change_colourway(finished(job, Gamma(gamma=1.2)), working=Working.ACESCG)
    return ordered(job, codec="EXR", space=Space.LINEAR, name="light")


def holes_held(folder: Path) -> Job:
    write_sequence(folder, "a.%04d.exr", frames=range(1, 13), dtype="float16", **LARGE)
    (folder / "a.0004.exr").unlink()
    cut(folder / "a.0009.exr")
    job = change_colourway(job_in(folder), view=View.ACES_SDR)
    job = change_reading(job, source=job.sequences[0].id, stand_in=StandIn.HOLD)
    return ordered(job, space=Space.BT709)


def movie_in_high_range(folder: Path) -> Job:
    write_movie(folder / "a.mp4", count=12, sound_seconds=0.5)
    write_sequence(folder, "b.%04d.exr", frames=range(1, 7), dtype="float16", **LARGE)
    job = change_colourway(job_in(folder), view=View.ACES_HDR)
    job = change_reading(job, source=named(job, "a"), colour=Colour.BT709)
    job = change_overlay(
        lay_over(job, source=named(job, "b"), at=4), overlay="o1", framing=Framing.ACTUAL
    )
    return ordered(job, codec="H.265", space=Space.PQ)


def codes_before_a_plate(folder: Path) -> Job:
    """What covers the picture behind it keeps its codes under every view."""
    write_sequence(folder, "a.%04d.tif", frames=range(1, 9), dtype="uint16", **LARGE)
    (folder / "plate").mkdir()
    write_pixels(folder / "plate" / "plate.png", gradient(1, width=80, height=60))
    job = put_behind(job_in(folder), source="s2")
    return change_colourway(job, view=View.ACES_SDR)


def joined_shots(folder: Path) -> Job:
    """A dissolve over letterboxes, and a dip."""
    write_sequence(folder, "a.%04d.png", frames=range(1, 13))
    write_sequence(folder, "b.%04d.exr", frames=range(1, 13), dtype="float16", **LARGE)
    write_sequence(folder, "c.%04d.png", frames=range(1, 13))
    job = put_on_reel(job_in(folder), sources=["s2", "s3"])
    job = set_reel_size(job, size=Size(width=96, height=54))
    job = change_join(job, shot="a2", kind=JoinKind.DISSOLVE, length=6)
    job = change_join(job, shot="a3", kind=JoinKind.DIP, length=7, colour="#c08020")
    return set_ground(job, colour="#102030")


DIGESTS: dict[Callable[[Path], Job], str] = {
    plain_png: "55c06d916f1d6b73",
    light_with_sound: "557c73f7bfd9ca4a",
    scaled_over_ground: "563d6dac4e6c60fb",
    between_frames: "c78b0d728b6f2d10",
    much_finished: "a1b3f4722e841ef2",
    stacked: "208bd6b2a48ec185",
    laid_over: "aec0ea1d353318e8",
    as_light: "fc6ba9ac943fb27c",
    holes_held: "de33ebb98db8564c",
    movie_in_high_range: "4832af1a72808de1",
    codes_before_a_plate: "01cfad7b6a19985a",
    joined_shots: "0a35c63e8a7c872c",
}


def digest_of(folder: Path) -> str:
    """One digest over the names and bytes of all that was delivered, without the seals."""
    total = hashlib.sha256()
    for path in sorted(folder.rglob("*")):
        if path.is_file() and not path.name.endswith(".seal.json"):
            total.update(path.name.encode() + path.read_bytes())
    return total.hexdigest()[:16]


@pytest.mark.parametrize("make", DIGESTS, ids=lambda make: make.__name__)
def test_a_job_delivers_the_bytes_that_it_always_did(
    make: Callable[[Path], Job], tmp_path: Path
) -> None:
    job = make(tmp_path)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert digest_of(tmp_path / "out") == DIGESTS[make]
