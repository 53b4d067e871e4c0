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


def text(name: str, words: str) -> typer.models.OptionInfo:
    option: typer.models.OptionInfo = typer.Option(f"--{name}", help=words)
    return option


Json = Annotated[bool, typer.Option("--json", help="One machine-readable answer on stdout.")]
Frames = Annotated[Path, typer.Argument(metavar="PATH", help="A folder, or a frame.")]
Out = Annotated[Path, typer.Option("--out", help="The file to make.", metavar="FILE")]
Rate = Annotated[str | None, text("rate", "The rate the frames are read at: 24, 24000/1001.")]
ToRate = Annotated[str | None, text("to-rate", "The file's rate; frames repeat or drop.")]
Size = Annotated[str | None, text("size", "The file's size: 1920x1080.")]
Framing = Annotated[str, text("framing", "fit, fill, stretch or actual, in another size.")]
Range = Annotated[str | None, text("range", "Frames of the result, from 1, as 1-48.")]
FilesFrames = Annotated[
    str | None, text("frames", "Instead of --range: in the files' own numbers, as 1001-1048.")
]
Expect = Annotated[
    str | None, text("expect", "The frames that should be there: what is missing is refused.")
]
Reverse = Annotated[bool, text("reverse", "Last frame first.")]
Quality = Annotated[
    str | None,
    text("quality", "draft, good, high, master, or the codec's own figure; high if left out."),
]
Bitrate = Annotated[str | None, text("bitrate", "Instead of a quality: 5M, 800k.")]
Sounds = Annotated[
    list[str] | None,
    typer.Option(
        "--sound",
        metavar="FILE[@FRAME][-3dB]",
        help="A sound, from the reel's start or a frame of it, by a gain; more than once.",
    ),
]
AcceptDamagedSound = Annotated[
    bool, text("accept-damaged-sound", "Use sounds that are cut short or damaged.")
]
ReversedSound = Annotated[
    str | None,
    text("reversed-sound", "What the sound of frames that run backwards does: turned, left out."),
]
NoSound = Annotated[bool, text("no-sound", "Leave out the sound beside the frames.")]
StandIn = Annotated[
    str, text("stand-in", "For frames that are missing: stop, hold, nearest, black.")
]
JoinBy = Annotated[
    str,
    text("join", "How shots meet: cut, dissolve 12, dip 24, dip 24 white; in frames."),
]
Ground = Annotated[str, text("ground", "Behind the picture: #rrggbb, black, white, grey.")]
Colour = Annotated[
    str | None, text("colour", "How frames are read: linear, sRGB, ACEScg, … or an OCIO space.")
]
Config = Annotated[
    Path | None, text("config", "An OCIO config; else that of OCIO, else the built-in one.")
]
TakenAs = Annotated[
    str | None,
    text("taken-as", "scene (goes through the view) or graphics (after it); else by the colour."),
]
GraphicsWhite = Annotated[
    str, text("graphics-white", "The white of graphics in PQ and HLG: 203 or 100 cd/m².")
]
View = Annotated[str, text("view", "plain, ACES SDR or ACES HDR: how light is shown.")]
Codec = Annotated[
    str | None,
    text("codec", "H.264 (if left out), ProRes 4444, PNG, EXR, …; the guide names all."),
]
Container = Annotated[
    str | None, text("container", "MP4, MOV, MKV, WebM, AVI, MXF; else by the file's name.")
]
Alpha = Annotated[
    str | None, text("alpha", "straight or premultiplied, where the codec keeps alpha; or none.")
]
Spec = Annotated[str | None, text("spec", "Of the spec book: what the destination takes.")]
CheckSpec = Annotated[str | None, text("spec", "Say what this spec does not take of a file.")]
Specs = Annotated[list[str] | None, text("spec", "Of the spec book; a delivery for each.")]
Only = Annotated[list[str] | None, text("only", "A delivery's name, or its spec's.")]
SoundCodec = Annotated[
    str | None, text("sound-codec", "AAC, Opus, FLAC, “PCM, 24 bits”, … where the file carries it.")
]
SoundChannels = Annotated[
    str | None, text("sound-channels", "mono, stereo or 5.1; as the sounds are if left out.")
]
SoundBitrate = Annotated[
    str | None, text("sound-bitrate", "Of AAC or Opus: 96k. The codec's usual if left out.")
]
Loudness = Annotated[str | None, text("loudness", "The sound is made as loud, in LUFS: -14.")]
TruePeak = Annotated[str | None, text("true-peak", "Peaks are held under it, in dBTP: -1.")]
Timecode = Annotated[str | None, text("timecode", "Of the file's first frame: 01:00:00:00.")]
Mastering = Annotated[
    str | None, text("mastering", "The display it was judged on, of BT.2020 PQ: P3 1000 0.005.")
]
PixelShape = Annotated[
    str | None, text("pixel-shape", "The shape of the file's pixels, width to height: 64:45.")
]
MaxSize = Annotated[str | None, text("max-size", "A larger file is refused: 8MB.")]
Space = Annotated[
    str | None,
    text(
        "space",
        "What the codes mean: sRGB (if left out), BT.709, Display P3; "
        "with H.265 BT.2020 PQ or HLG.",
    ),
]
Exposure = Annotated[float, text("exposure", "Stops, in scene-linear light.")]
Gamma = Annotated[float, text("gamma", "Above 1 is lighter.")]
Lut = Annotated[Path | None, text("lut", "A look: a LUT on display-encoded values.")]
BurnIn = Annotated[str | None, text("burn-in", "Text: {name} {frame} {timecode} …")]
DropFrame = Annotated[bool, text("drop-frame", "Count timecode by drop-frame at 29.97 and 59.94.")]
Between = Annotated[str, text("between", "At another rate: nearest, blend or motion.")]
Part = Annotated[
    str | None,
    text("part", "Which picture of files that hold several: the name of a layer or a part."),
]
Passes = Annotated[bool, text("passes", "Put the passes of shots together.")]
AcceptGuesses = Annotated[
    bool, text("accept-guesses", "A rate or a layer that is a guess is no finding.")
]
Overwrite = Annotated[bool, text("overwrite", "Replace a file of that name.")]
