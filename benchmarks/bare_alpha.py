"""Bare loops that keep alpha: PNG to ProRes 4444 in MOV, and PNG to PNG.

Run as a process of its own, `python -m benchmarks.bare_alpha FOLDER OUT`: a movie where OUT has
a suffix, else a folder of frames. Decoding in two threads; the encoder with the settings
that keep alpha whole, and the libraries' own conversion; no checks, no job, no seal. PNG is read
by libavcodec and written by OpenImageIO, each with zlib: ours packs with libdeflate. ProRes is
written by the one encoder of the libraries whose opaque alpha is opaque; ours uses the other, and
codes alpha itself.
"""

from __future__ import annotations

import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import av
import numpy as np

from benchmarks.bare import encode_all
from waxseal.core.frames.frame_writer import write_pixels


def read(path: Path) -> av.VideoFrame:
    context = av.CodecContext.create("png", "r")
    context.thread_count = 1
    frame = context.decode(av.Packet(path.read_bytes()))[0]
    assert isinstance(frame, av.VideoFrame)
    return frame


def converted(path: Path) -> av.VideoFrame:
    return read(path).reformat(format="yuva444p10le", dst_colorspace="itu709")


def to_movie(files: list[Path], out: Path) -> None:
    first = read(files[0])
    with av.open(str(out), "w") as container, ThreadPoolExecutor(2) as pool:
        options = {"profile": "4444", "alpha_bits": "16"}
        stream = container.add_stream("prores_ks", rate=24, options=options)
        stream.width, stream.height, stream.pix_fmt = first.width, first.height, "yuva444p10le"
        stream.codec_context.thread_type = "FRAME"
        stream.codec_context.thread_count = 4
        encode_all(files, converted, container, stream, pool)


def to_frames(files: list[Path], out: Path) -> None:
    out.mkdir(exist_ok=True)

    def one(path: Path) -> None:
        frame = read(path)
        plane = frame.planes[0]
        lines = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
        pixels = lines[: frame.height, : frame.width * 4].reshape(frame.height, frame.width, 4)
        write_pixels(out / path.name, pixels)

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(one, files))


if __name__ == "__main__":
    names, target = sorted(Path(sys.argv[1]).iterdir()), Path(sys.argv[2])
    (to_movie if target.suffix else to_frames)(names, target)
