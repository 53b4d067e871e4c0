"""What was said on the command line, word by word, as the values that a job takes."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from pathlib import Path
from typing import Any, cast

from waxseal.cli.sound_options import SoundOrders, read_sound_orders
from waxseal.core.deliver.codecs import Codec, codec_named
from waxseal.core.deliver.containers import CONTAINERS, Container, container_for
from waxseal.core.deliver.format.output_path import named_container
from waxseal.core.deliver.format.quality import (
    parse_bitrate,
    parse_bytes,
    parse_level,
    parse_quality,
)
from waxseal.core.deliver.specs.spec_book import spec_book
from waxseal.core.errors import JobError, WrongUse
from waxseal.core.filenames import FRAME_SUFFIXES
from waxseal.core.job.corrections import Correction
from waxseal.core.job.finish_settings import Finish
from waxseal.core.job.joins import CUT, Join, JoinKind
from waxseal.core.job.model import (
    BT709,
    GRAPHICS_WHITES,
    Alpha,
    Colour,
    ColourReference,
    Conversion,
    Framing,
    Graded,
    Quality,
    Size,
    Space,
    StandIn,
    View,
    change,
    colour_choices,
    colour_words,
    parse_pixel_shape,
)
from waxseal.core.job.sizes import parse_size
from waxseal.core.picture.colour.colour_spaces import source_spaces
from waxseal.core.plan.join_styles import STYLES
from waxseal.core.sound.layouts import LAYOUTS
from waxseal.core.timing.parse_length import parse_frames
from waxseal.core.timing.ranges import FrameRange, parse_range
from waxseal.core.timing.rates import parse_rate
from waxseal.core.timing.timecode import Counting

__all__ = ["Orders", "colour_wish", "parse_ground", "parse_join", "read_orders"]


@dataclass(frozen=True, slots=True)
class Orders:
    """What was said on the command line.

    range: of the reel, from 1. frames: in the files' own numbers, in its place.
    expected: what should be there. delivery: settings that were said of it, besides spec.
    """

    path: Path
    out: Path
    rate: Fraction | None
    reel_rate: Fraction | None
    size: Size | None
    framing: Framing
    range: FrameRange | None
    frames: FrameRange | None
    expected: FrameRange | None
    is_reversed: bool
    sounds: SoundOrders
    stand_in: StandIn
    join: Join
    ground: str
    colour: dict[str, object] | None  # values of a reading
    config: str
    taken_as: ColourReference | None
    view: View
    graphics_white: int
    delivery: dict[str, object]
    spec: str
    looks: tuple[Correction, ...]
    between: Conversion
    counting: Counting
    part: str | None
    with_passes: bool
    accepts_guesses: bool
    overwrite: bool

    @property
    def pixel_shape(self) -> Fraction:
        """Of the file's pixels, width to height."""
        return cast(Fraction, self.delivery.get("pixel_shape", Fraction(1)))


def parse_ground(text: str) -> str:
    """`#rrggbb`, `black`, `white` or `grey`. Raises WrongUse."""
    named = {"black": "#000000", "white": "#ffffff", "grey": "#808080"}
    colour = named.get(text.strip().lower(), text.strip())
    if not re.fullmatch(r"#[0-9a-fA-F]{6}", colour):
        raise WrongUse(f"“{text}” is not a colour: write it as #1a2b3c, black, white or grey.")
    return colour.lower()


def parse_join(text: str) -> Join:
    """`cut`, `dissolve 12`, `dip 24`, `dip 24 white`. Raises WrongUse."""
    name, *said = text.split() or [text]
    kind = next((one for one in JoinKind if one.value == name.lower()), None)
    style = STYLES[kind] if kind is not None else None
    if style is None or len(said) > bool(style.asked(CUT.length)) + style.has_colour:
        raise WrongUse(f"“{text}” is not a join: write cut, dissolve 12, dip 24 or dip 24 white.")
    try:
        length = {"length": parse_frames(said[0])} if said else {}
        colour = {"colour": parse_ground(said[1])} if len(said) > 1 else {}
        return change(CUT, kind=kind, **length, **colour)
    except JobError as error:
        raise WrongUse(f"--join {text}: {error}") from error


def parse_white(text: str) -> int:
    """Raises WrongUse."""
    if text.strip() not in [str(one) for one in GRAPHICS_WHITES]:
        raise WrongUse(f"--graphics-white {text}: choose one of 203, 100.")
    return int(text)


# What is written as text: the name of the option, of the order, and how it is read.
WRITTEN: tuple[tuple[str, str, Callable[[str], object]], ...] = (
    ("rate", "rate", parse_rate),
    ("to_rate", "reel_rate", parse_rate),
    ("size", "size", parse_size),
    ("range_", "range", parse_range),
    ("frames", "frames", parse_range),
    ("expect", "expected", parse_range),
    ("join", "join", parse_join),
    ("ground", "ground", parse_ground),
    ("graphics_white", "graphics_white", parse_white),
)
# What is one of a few words.
CHOSEN: tuple[tuple[str, type[StrEnum]], ...] = (
    ("framing", Framing),
    ("stand_in", StandIn),
    ("view", View),
    ("between", Conversion),
)


def read_orders(said: Mapping[str, Any]) -> Orders:
    """The orders of the options of `assemble`, by their names. Raises WrongUse, JobError."""
    values: dict[str, Any] = {}
    for option, name, parse in WRITTEN:
        values[name] = parse(said[option]) if said[option] is not None else None
    for option, kind in CHOSEN:
        values[option] = choose(said[option], option, kind)
    if values["range"] is not None and values["frames"] is not None:
        raise WrongUse(
            "--range counts frames of the result, --frames those of the files: give one of them."
        )
    config, taken_as = said["config"], said["taken_as"]
    values["taken_as"] = (
        choose(taken_as, "taken_as", ColourReference) if taken_as is not None else None
    )
    return Orders(
        path=said["path"],
        out=said["out"],
        is_reversed=said["reverse"],
        sounds=read_sound_orders(said),
        colour=colour_wish(said["colour"], config) if said["colour"] is not None else None,
        config=str(config.absolute()) if config is not None else "",
        looks=looks_of(said),
        counting=Counting.DROP if said["drop_frame"] else Counting.NON_DROP,
        part=said["part"],
        with_passes=said["passes"],
        accepts_guesses=said["accept_guesses"],
        overwrite=said["overwrite"],
        **delivery_orders(said),
        **values,
    )


def choose(text: str, option: str, kind: type[StrEnum]) -> StrEnum:
    """One of a few words, in whatever case. Raises WrongUse."""
    names = {one.value.casefold(): one for one in kind}
    if text.casefold() not in names:
        known = ", ".join(one.value for one in kind)
        raise WrongUse(f"--{option.replace('_', '-')} {text}: choose one of {known}.")
    return names[text.casefold()]


# By the suffix of a file, where no codec is said.
CODECS_OF = {".webm": "VP9", ".avi": "MJPEG", ".mxf": "DNxHR HQ"}
USUAL_CODEC = "H.264"


def delivery_orders(said: Mapping[str, Any]) -> dict[str, Any]:
    """What the file is to be, and whether it goes together. Raises WrongUse, JobError."""
    out, spec = said["out"], said["spec"]
    if spec is not None:
        return {"spec": said_spec(said), "delivery": {}}
    suffix = out.suffix.lower()
    codec = codec_named(said["codec"] or CODECS_OF.get(suffix, USUAL_CODEC))
    container = container_said(said["container"], suffix, codec)
    check_suffix(out, codec, container)
    space, alpha = said["space"], said["alpha"]
    chosen = choose(space, "space", Space) if space is not None else codec.usual_space
    delivery: dict[str, object] = {
        "codec": codec.name,
        "container": container.name,
        "quality": quality_said(said["quality"], said["bitrate"], codec),
        "space": chosen,
    }
    if alpha is not None:
        delivery["alpha"] = choose(alpha, "alpha", Alpha)
        trouble = codec.alpha_trouble(delivery["alpha"], container.name)  # type: ignore[arg-type]
        if trouble:
            raise WrongUse(trouble)
    if said["max_size"] is not None:
        delivery["most_bytes"] = parse_bytes(said["max_size"])
    if said["sound_codec"] is not None:
        found = container.sound_codec(said["sound_codec"])
        delivery["sound_codec"] = found.name if found is not None else ""
    if said["sound_channels"] is not None:
        delivery["sound_channels"] = channels_said(said["sound_channels"])
    if said["sound_bitrate"] is not None:
        delivery["sound_bits"] = parse_bitrate(said["sound_bitrate"]).bits_per_second
    for name in ("loudness", "true_peak"):
        if said[name] is not None:
            delivery[name] = parse_level(said[name])
    for name in ("timecode", "mastering"):
        if said[name] is not None:
            delivery[name] = said[name]
    if said["pixel_shape"] is not None:
        delivery["pixel_shape"] = shape = pixel_shape_said(said["pixel_shape"])
        trouble = container.pixel_shape_trouble(shape, codec)
        if trouble:
            raise WrongUse(trouble)
    return {"spec": "", "delivery": delivery}


def pixel_shape_said(text: str) -> Fraction:
    """Raises WrongUse."""
    try:
        return parse_pixel_shape(text)
    except ValueError as error:
        raise WrongUse(str(error)) from None


def channels_said(text: str) -> int:
    """`mono`, `stereo` or `5.1`. Raises WrongUse."""
    for count, name in LAYOUTS.items():
        if text.casefold() == name:
            return count
    raise WrongUse(f"--sound-channels {text}: choose one of {', '.join(LAYOUTS.values())}.")


def said_spec(said: Mapping[str, Any]) -> str:
    """The spec's name, as the book has it. Raises WrongUse, JobError."""
    beside = (
        *("codec", "container", "alpha", "quality", "bitrate", "space", "max_size"),
        *(
            "sound_codec",
            "sound_channels",
            "sound_bitrate",
            "loudness",
            "true_peak",
            "timecode",
            "mastering",
        ),
        "pixel_shape",
    )
    both = [name for name in beside if said[name] is not None]
    if both:
        option = both[0].replace("_", "-")
        raise WrongUse(f"--spec says what the file is: leave out --{option}, or --spec.")
    spec = spec_book().named(said["spec"])
    check_suffix(said["out"], codec_named(spec.codec), CONTAINERS[spec.container_name])
    return spec.name


def quality_said(quality: str | None, bitrate: str | None, codec: Codec) -> Quality:
    """Raises WrongUse."""
    if quality is not None and bitrate is not None:
        raise WrongUse("A quality and a bitrate exclude each other: give one of them.")
    if bitrate is None and quality is None:
        return Graded()
    chosen = parse_bitrate(bitrate) if bitrate is not None else parse_quality(quality or "")
    is_idle = isinstance(chosen, Graded) and not codec.grades
    trouble = codec.quality_trouble(chosen)
    if trouble or is_idle:
        option = "--bitrate" if bitrate is not None else "--quality"
        has_none = f"{codec.name} has no quality to choose: leave out {option}."
        raise WrongUse(has_none if not codec.grades else trouble)
    return chosen


def container_said(name: str | None, suffix: str, codec: Codec) -> Container:
    """The container of that name, else the one that the file's suffix asks for. Raises JobError."""
    if name is not None:
        return container_for(codec, name)
    return container_for(codec, named_container(f"x{suffix}", codec))


def check_suffix(out: Path, codec: Codec, container: Container) -> None:
    """Raises WrongUse where the file's name says another container than it will have."""
    suffix = out.suffix.lower()
    if container.is_folder:
        known = {one.suffix for one in CONTAINERS.values()} | FRAME_SUFFIXES
        if suffix in known - {""}:
            raise WrongUse(f"{out.name}: {codec.name} frames go into a folder, name it {out.stem}.")
    elif suffix not in ("", container.suffix):
        raise WrongUse(
            f"{out.name}: {codec.name} is written as {container.name} here, "
            f"name the file {out.stem}{container.suffix}."
        )


def looks_of(said: Mapping[str, Any]) -> tuple[Correction, ...]:
    """What a shot is corrected with. Raises JobError for a value out of bounds."""
    looks: list[dict[str, object]] = []
    if said["exposure"]:
        looks.append({"kind": "exposure", "stops": said["exposure"]})
    if said["gamma"] != 1:
        looks.append({"kind": "gamma", "gamma": said["gamma"]})
    if said["lut"] is not None:
        looks.append({"kind": "lut", "path": str(said["lut"].absolute())})
    if said["burn_in"] is not None:
        looks.append({"kind": "text", "words": said["burn_in"], "size": 32, "shade": 0.6})
    return change(Finish(), corrections=tuple(looks)).corrections


def colour_wish(text: str, config: Path | None = None) -> dict[str, object]:
    """`linear`, `sRGB`, `ACEScg`, `BT.709 display`, `film log`, …, as values of a reading.

    Else a space of the OCIO config, by its name there. Raises WrongUse, JobError.
    """
    names = {"linear": (Colour.LINEAR, BT709), "scene-linear": (Colour.LINEAR, BT709)}
    for choice in colour_choices():
        whole = colour_words(*choice)
        names |= {whole.casefold(): choice, whole.removeprefix("scene-linear ").casefold(): choice}
    known_as = names.get(text.strip().casefold())
    if known_as is not None:
        return {"colour": known_as[0], "chromaticities": known_as[1]}
    spaces = {name.casefold(): name for name in source_spaces(str(config or ""))}
    if text.strip().casefold() in spaces:
        return {"colour": Colour.OWN, "space": spaces[text.strip().casefold()]}
    known = ", ".join(colour_words(*choice) for choice in colour_choices())
    raise WrongUse(
        f"“{text}” is not a known colour: use one of {known}, or a space of the OCIO config."
    )
