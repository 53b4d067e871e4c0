"""The options of `waxseal assemble`: how each is called, and what the help says of it."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

__all__ = [
    "AcceptDamagedSound",
    "Alpha",
    "Between",
    "Bitrate",
    "BurnIn",
    "CheckSpec",
    "Codec",
    "Colour",
    "Config",
    "Container",
    "Expect",
    "Exposure",
    "FilesFrames",
    "Frames",
    "Framing",
    "Gamma",
    "Ground",
    "Json",
    "Loudness",
    "Lut",
    "MaxSize",
    "NoSound",
    "Only",
    "Out",
    "Overwrite",
    "Part",
    "Passes",
    "Quality",
    "Range",
    "Rate",
    "Reverse",
    "ReversedSound",
    "Size",
    "SoundBitrate",
    "SoundChannels",
    "SoundCodec",
    "Sounds",
    "Space",
    "Spec",
    "Specs",
    "StandIn",
    "Timecode",
    "ToRate",
    "TruePeak",
    "View",
]


# The groups of `assemble --help`.
FRAMES, PICTURE, SOUND, FILE, SIZE = "Frames", "Picture", "Sound", "File", "Size and quality"


def text(name: str, words: str, group: str | None = None) -> typer.models.OptionInfo:
    option: typer.models.OptionInfo = typer.Option(f"--{name}", help=words, rich_help_panel=group)
    return option


Json = Annotated[bool, typer.Option("--json", help="One machine-readable answer on stdout.")]
Frames = Annotated[Path, typer.Argument(metavar="PATH", help="A folder, or a frame.")]
Out = Annotated[
    Path, typer.Option("--out", help="The file to make.", metavar="FILE", rich_help_panel=FILE)
]
Rate = Annotated[str | None, text("rate", "Frame rate of the sources: 24, 24000/1001.", FRAMES)]
ToRate = Annotated[
    str | None, text("to-rate", "Frame rate of the file: frames repeat or drop.", FILE)
]
Size = Annotated[str | None, text("size", "Size of the file: 1920x1080.", PICTURE)]
Framing = Annotated[
    str,
    text(
        "framing", "How frames of another size are placed: fit, fill, stretch or actual.", PICTURE
    ),
]
Range = Annotated[
    str | None, text("range", "Reel frames to deliver, counted from 1: 1-48.", FRAMES)
]
FilesFrames = Annotated[
    str | None,
    text("frames", "The same as --range, in the numbers of the files: 1001-1048.", FRAMES),
]
Expect = Annotated[
    str | None,
    text(
        "expect", "Frames that have to be there: if one is missing, nothing is delivered.", FRAMES
    ),
]
Reverse = Annotated[bool, text("reverse", "Play the frames backwards.", FRAMES)]
Quality = Annotated[
    str | None,
    text("quality", "draft, good, high, master, or a number of the codec (default: high).", SIZE),
]
Bitrate = Annotated[str | None, text("bitrate", "Bitrate, in place of a quality: 5M, 800k.", SIZE)]
Sounds = Annotated[
    list[str] | None,
    typer.Option(
        "--sound",
        metavar="FILE[@FRAME][-3dB]",
        help="Sound, from the start of the reel or from FRAME, louder or softer. Can be repeated.",
        rich_help_panel=SOUND,
    ),
]
AcceptDamagedSound = Annotated[
    bool, text("accept-damaged-sound", "Use sounds that are cut short or damaged.", SOUND)
]
ReversedSound = Annotated[
    str | None,
    text("reversed-sound", "Sound of frames that run backwards: turned, or 'left out'.", SOUND),
]
NoSound = Annotated[bool, text("no-sound", "Leave out the sound beside the frames.", SOUND)]
StandIn = Annotated[
    str, text("stand-in", "In place of missing frames: stop, hold, nearest, black.", FRAMES)
]
JoinBy = Annotated[
    str,
    text("join", "Joins between shots, in frames: cut, dissolve 12, dip 24, dip 24 white.", FRAMES),
]
Ground = Annotated[str, text("ground", "Background colour: #rrggbb, black, white, grey.", PICTURE)]
Colour = Annotated[
    str | None,
    text(
        "colour",
        "Colour space of the frames: linear, sRGB, ACEScg, …, or a space of the OCIO config.",
        PICTURE,
    ),
]
Config = Annotated[
    Path | None, text("config", "OCIO config file (default: $OCIO, then built-in).", PICTURE)
]
TakenAs = Annotated[
    str | None,
    text(
        "taken-as", "Treat frames as scene (through the view) or as graphics (after it).", PICTURE
    ),
]
GraphicsWhite = Annotated[
    str, text("graphics-white", "White of graphics in PQ and HLG: 203 or 100 cd/m².", PICTURE)
]
View = Annotated[str, text("view", "View transform: plain, ACES SDR or ACES HDR.", PICTURE)]
Codec = Annotated[
    str | None,
    text("codec", "H.264 (default), ProRes 4444, PNG, EXR, …; the guide lists all.", FILE),
]
Container = Annotated[
    str | None,
    text("container", "MP4, MOV, MKV, WebM, AVI, MXF (default: from the file name).", FILE),
]
Alpha = Annotated[
    str | None, text("alpha", "straight, premultiplied or none, if the codec keeps alpha.", FILE)
]
Spec = Annotated[
    str | None, text("spec", "Spec from the spec book: the settings of a destination.", FILE)
]
CheckSpec = Annotated[str | None, text("spec", "Compare the file with this spec.")]
Specs = Annotated[
    list[str] | None, text("spec", "Spec from the spec book. Can be repeated: a delivery for each.")
]
Only = Annotated[list[str] | None, text("only", "Name of a delivery, or of its spec.")]
SoundCodec = Annotated[
    str | None,
    text("sound-codec", "AAC, Opus, FLAC, “PCM, 24 bits”, …, if the container takes it.", SOUND),
]
SoundChannels = Annotated[
    str | None, text("sound-channels", "mono, stereo or 5.1 (default: like the sounds).", SOUND)
]
SoundBitrate = Annotated[str | None, text("sound-bitrate", "Bitrate of AAC or Opus: 96k.", SOUND)]
Loudness = Annotated[str | None, text("loudness", "Loudness of the sound in LUFS: -14.", SOUND)]
TruePeak = Annotated[str | None, text("true-peak", "Highest true peak in dBTP: -1.", SOUND)]
Timecode = Annotated[
    str | None, text("timecode", "Timecode of the first frame: 01:00:00:00.", FILE)
]
Mastering = Annotated[
    str | None, text("mastering", "Mastering display, with BT.2020 PQ: P3 1000 0.005.", FILE)
]
PixelShape = Annotated[
    str | None, text("pixel-shape", "Pixel aspect ratio of the file: 64:45.", PICTURE)
]
MaxSize = Annotated[
    str | None,
    text(
        "max-size",
        "Keep the file below this size: 8MB. The quality is lowered until it fits.",
        SIZE,
    ),
]
Space = Annotated[
    str | None,
    text(
        "space",
        "Colour space of the file: sRGB (default), BT.709, Display P3; "
        "with H.265 BT.2020 PQ or HLG.",
        FILE,
    ),
]
Exposure = Annotated[float, text("exposure", "Exposure in stops.", PICTURE)]
Gamma = Annotated[float, text("gamma", "Gamma: above 1 is lighter.", PICTURE)]
Lut = Annotated[Path | None, text("lut", "LUT file, applied to display values.", PICTURE)]
BurnIn = Annotated[
    str | None, text("burn-in", "Text burnt into the picture: {name} {frame} {timecode} …", PICTURE)
]
DropFrame = Annotated[bool, text("drop-frame", "Drop-frame timecode, at 29.97 and 59.94.", FILE)]
Between = Annotated[
    str, text("between", "Frames between two at another rate: nearest, blend or motion.", PICTURE)
]
Part = Annotated[
    str | None,
    text("part", "Layer or part to read, if files have several.", FRAMES),
]
Passes = Annotated[bool, text("passes", "Combine the passes of each shot.", FRAMES)]
AcceptGuesses = Annotated[
    bool, text("accept-guesses", "Accept guessed frame rates and layers.", FRAMES)
]
Overwrite = Annotated[bool, text("overwrite", "Replace an existing file.", FILE)]
