"""Small sequences, sounds and jobs, made by code: no binaries in the repository."""

from __future__ import annotations

import os
import struct
import subprocess
import sys
import time
import zlib
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
import soundfile
from numpy.typing import NDArray

from waxseal.core.arrive.scanning import scan
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import take_in
from waxseal.core.job.model import (
    BT709,
    Alpha,
    Colour,
    Files,
    Finding,
    FindingKind,
    Found,
    Job,
    Order,
    Origin,
    Reading,
    Sequence,
    Size,
    Sound,
    StandIn,
    WithOrigin,
)
from waxseal.core.process_identity import process_name
from waxseal.core.timing.ranges import runs_of

__all__ = [
    "aged",
    "cut",
    "dead_process",
    "emptied",
    "gradient",
    "job_of",
    "number_in",
    "numbered",
    "reading",
    "sequence",
    "sound",
    "write_jpegs",
    "write_movie",
    "write_sequence",
    "write_tone",
    "write_with",
]


def dead_process() -> str:
    """The name of a process that is gone, by a number that another one has: this one."""
    before = subprocess.Popen([sys.executable, "-c", ""])
    _, _, began = process_name(before.pid).partition("-")
    before.wait()
    return f"{os.getpid()}-{began}"


SMALL = 64_000  # pixels


def gradient(
    frame: int, *, width: int = 64, height: int = 36, dtype: str = "uint8", channels: int = 3
) -> NDArray[Any]:
    """A picture that differs from frame to frame, exactly known: two ramps and a moving bar."""
    light = np.zeros((height, width, channels))
    light[..., 0] = np.linspace(0, 1, width)[None, :]
    light[..., 1] = np.linspace(0, 1, height)[:, None]
    light[..., 2] = 0.25
    bar = (frame * 3) % width
    light[:, bar : bar + 3, :3] = 0.9
    if channels == 4:
        light[..., 3] = 1.0
    if dtype in ("float16", "float32"):
        return light.astype(dtype)
    return (light * np.iinfo(dtype).max + 0.5).astype(dtype)


def write_sequence(
    folder: Path,
    pattern: str = "shot.%04d.png",
    *,
    frames: range = range(1, 9),
    rate: Fraction | None = None,
    **kind: Any,
) -> Path:
    """Write frames named by a printf pattern; returns the folder."""
    folder.mkdir(parents=True, exist_ok=True)
    is_small = kind.get("width", 64) * kind.get("height", 36) <= SMALL
    for frame in frames:
        path = folder / (pattern % frame)
        if is_small:
            path.write_bytes(small_file(path.suffix, frame, rate, **kind))
        else:
            write_pixels(path, gradient(frame, **kind), rate=rate)
    return folder


@lru_cache(maxsize=2048)
def small_file(suffix: str, frame: int, rate: Fraction | None, **kind: Any) -> bytes:
    """What the file of a small frame holds: hundreds of tests write the same ones."""
    with TemporaryDirectory() as folder:
        path = Path(folder, f"frame{suffix}")
        write_pixels(path, gradient(frame, **kind), rate=rate)
        return path.read_bytes()


def write_jpegs(folder: Path, *, frames: range = range(1, 5)) -> Path:
    """JPEG is only read by us: written by imageio's reader-writer, which is not our code."""
    import imageio.v3

    folder.mkdir(parents=True, exist_ok=True)
    for frame in frames:
        imageio.v3.imwrite(folder / f"shot {frame}.jpg", gradient(frame), quality=95)
    return folder


def write_with(path: Path, spec: Any, values: NDArray[Any]) -> Path:
    """A frame with whatever windows, channels and tiles the OpenImageIO spec has."""
    import OpenImageIO

    output = OpenImageIO.ImageOutput.create(str(path))
    assert output is not None
    assert output.open(str(path), spec)
    assert output.write_image(values)
    assert output.close()
    return path


def numbered(number: int, *, width: int = 320, height: int = 180) -> NDArray[np.uint8]:
    """A picture with its number drawn in as eight blocks, and an alpha ramp in its lower half."""
    picture = np.zeros((height, width, 4), np.uint8)
    picture[..., 0] = np.linspace(0, 255, width)[None]
    picture[..., 1] = np.linspace(0, 255, height)[:, None]
    picture[..., 2] = 60
    picture[..., 3] = 255
    for bit in range(8):
        picture[10:30, 10 + bit * 20 : 26 + bit * 20, :3] = 255 if number >> bit & 1 else 0
    picture[height // 2 :, :, 3] = np.linspace(0, 255, width)[None].astype(np.uint8)
    return picture


def number_in(values: NDArray[Any]) -> int:
    """The number that `numbered` drew."""
    half = np.iinfo(values.dtype).max // 2
    return sum(int(values[20, 18 + bit * 20, 0] > half) << bit for bit in range(8))


def write_movie(
    path: Path,
    *,
    codec: str = "libx264",
    kind: str = "yuv420p",
    rate: Fraction = Fraction(24),
    count: int = 40,
    options: dict[str, str] | None = None,
    times_ms: list[int] | None = None,
    sound_seconds: float = 0,
    shape: Fraction | None = None,
) -> Path:
    """A movie of numbered pictures (from 0), written by the codecs' library; BT.709."""
    import av
    from av.video.reformatter import VideoReformatter

    is_rgb = kind.startswith(("rgb", "gbr", "argb", "bgr"))
    coded = {} if is_rgb else {"dst_colorspace": 1, "src_color_range": 2, "dst_color_range": 1}
    path.parent.mkdir(parents=True, exist_ok=True)
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream(codec, rate=rate, options=options or {})
        stream.width, stream.height, stream.pix_fmt = 320, 180, kind
        stream.codec_context.time_base = Fraction(1, 1000) if times_ms else 1 / rate
        if shape is not None:
            stream.codec_context.sample_aspect_ratio = shape
        if not is_rgb:
            stream.codec_context.color_range = 1
            stream.codec_context.colorspace = stream.codec_context.color_primaries = 1
            stream.codec_context.color_trc = 1
        heard: Any = container.add_stream("aac", rate=48_000) if sound_seconds else None
        for number in range(count):
            frame = av.VideoFrame.from_ndarray(numbered(number), format="rgba")
            frame = VideoReformatter().reformat(frame, format=kind, **coded)
            frame.pts = times_ms[number] if times_ms else number
            frame.time_base = stream.codec_context.time_base
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
        if heard is not None:
            mux_tone(container, heard, sound_seconds)
    return path


def mux_tone(container: Any, stream: Any, seconds: float) -> None:
    """A quiet tone in stereo into a movie's sound stream of 48 kHz."""
    import av

    samples = np.zeros((1, round(seconds * 48_000)), np.float32)
    samples[0] = 0.25 * np.sin(np.arange(samples.shape[1]) * (2 * np.pi * 1000 / 48_000))
    tone = av.AudioFrame.from_ndarray(samples, format="fltp", layout="mono")
    tone.sample_rate, tone.pts, tone.time_base = 48_000, 0, Fraction(1, 48_000)
    for part in av.AudioResampler("fltp", "stereo", 48_000, frame_size=1024).resample(tone):
        container.mux(stream.encode(part))
    container.mux(stream.encode(None))


def write_tone(path: Path, *, seconds: float = 1.0, rate: int = 48_000, channels: int = 2) -> Path:
    """A quiet 1 kHz tone."""
    time = np.arange(round(seconds * rate)) / rate
    tone = 0.25 * np.sin(2 * np.pi * 1000 * time)
    path.parent.mkdir(parents=True, exist_ok=True)
    soundfile.write(path, np.repeat(tone[:, None], channels, axis=1), rate)
    return path


def cut(path: Path, share: float = 0.5) -> Path:
    """Cut a file short, as a renderer does that was stopped an hour ago."""
    with path.open("r+b") as file:
        file.truncate(int(path.stat().st_size * share))
    return aged(path)


def emptied(path: Path) -> Path:
    """A file that a renderer opened an hour ago, and never wrote."""
    path.write_bytes(b"")
    return aged(path)


def aged(path: Path, seconds: int = 3600) -> Path:
    """Set a file's time back: what was written a moment ago may still be growing."""
    now = time.time()
    os.utime(path, (now - seconds, now - seconds))
    return path


def job_of(folder: Path, **fields: Any) -> Job:
    """The job that dropping a folder makes; its delivery goes beside the folder."""
    out = folder.parent / "out"
    out.mkdir(exist_ok=True)
    return take_in(Job(**fields), sources=scan([folder]).sources, folder=str(out))


def reading(rate: Fraction = Fraction(24), origin: Origin = Origin.SAID, **values: Any) -> Reading:
    plain: dict[str, Any] = {
        "order": Order.FORWARD,
        "alpha": Alpha.NONE,
        "colour": Colour.SRGB,
        "chromaticities": BT709,
        "stand_in": StandIn.STOP,
    } | values
    told: dict[str, Any] = {
        name: WithOrigin(value=value, origin=Origin.HABIT) for name, value in plain.items()
    }
    return Reading(rate=WithOrigin(value=rate, origin=origin), **told)


def sequence(
    id_: str = "s1",
    *,
    frames: tuple[int, ...] = tuple(range(1, 9)),
    damaged: tuple[int, ...] = (),
    folder: str = "/frames",
    size: tuple[int, int] = (64, 36),
    read: Reading | None = None,
) -> Sequence:
    """A sequence that is nowhere on the disk."""
    files = Files(folder=folder, prefix="shot.", suffix=".png", padding=4, runs=runs_of(frames))
    findings = tuple(
        Finding(kind=FindingKind.DAMAGED, frame=frame, file=files.name_of(frame), what="cut short")
        for frame in damaged
    )
    found = Found(
        format="PNG",
        size=Size(width=size[0], height=size[1]),
        channels=("R", "G", "B"),
        depth="uint8",
        findings=findings,
    )
    return Sequence(id=id_, name=id_, files=files, found=found, reading=read or reading())


def sound(id_: str = "s9", *, samples: int = 48_000, rate: int = 48_000) -> Sound:
    return Sound(
        id=id_,
        name="tone.wav",
        path="/frames/tone.wav",
        format="WAV",
        sample_rate=rate,
        channels=2,
        samples=samples,
    )


def write_layers(folder: Path, layers: dict[str, NDArray[Any]], count: int = 2) -> Path:
    """EXR frames of one part with these layers, (h, w, 3 or 4) each."""
    folder.mkdir()
    for number in range(1, count + 1):
        write_layered(folder / f"a.{number:04}.exr", layers)
    return folder


def write_layered(path: Path, layers: dict[str, NDArray[Any]]) -> None:
    """An EXR of one part with these layers, by the reference library."""
    import OpenEXR

    channels = {
        f"{name}.{letter}" if name else letter: np.ascontiguousarray(values[..., at])
        for name, values in layers.items()
        for at, letter in enumerate("RGBA"[: values.shape[2]])
    }
    head = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    OpenEXR.File(head, channels).write(str(path))


def write_stated(path: Path, values: NDArray[Any], points: tuple[int, int]) -> None:
    """A PNG of 16 bits, values of 0 to 1, that says its primaries and transfer function.

    A cICP chunk behind the header. Source: W3C, PNG (third edition).
    """
    write_pixels(path, np.rint(values * 65_535).astype(np.uint16))
    content = path.read_bytes()
    chunk = b"cICP" + bytes((*points, 0, 1))
    stated = struct.pack(">I", 4) + chunk + struct.pack(">I", zlib.crc32(chunk))
    end = 8 + 25  # the signature, and the header's own chunk
    path.write_bytes(content[:end] + stated + content[end:])
