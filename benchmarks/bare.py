"""Bare loops over the same libraries: what the job costs with nothing around it.

Run as a process of its own, `python -m benchmarks.bare FOLDER OUT [WIDTHxHEIGHT]`: decode
in two threads, a table, the encoder with the settings that we use; no checks, no
job, no seal. The kernel of the conversion is its own. To another size the encoder's
library scales: 8-bit codes, with a filter of the same reach.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import av
import numpy as np

AHEAD = 4


def linear_table() -> Any:
    bits = np.arange(65_536, dtype=np.uint16).view(np.float16).astype(np.float64)
    light = np.clip(np.nan_to_num(bits, nan=0, posinf=1, neginf=0), 0, 1)
    coded = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    return coded.astype(np.float32)


def read_exr(path: Path) -> Any:
    import OpenEXR

    with OpenEXR.File(str(path)) as file:
        channels = file.channels()
        return (channels.get("RGBA") or channels["RGB"]).pixels.view(np.uint16)


def read_png(path: Path) -> Any:
    context = av.CodecContext.create("png", "r")
    context.thread_count = 1
    frame = context.decode(av.Packet(path.read_bytes()))[0]
    plane = frame.planes[0]
    lines = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
    return lines[: frame.height, : frame.width * 3].reshape(frame.height, frame.width, 3)


def compiled_kernel() -> Any:
    import numba

    @numba.njit(nogil=True, cache=True, fastmath=True)
    def fill(values, table, y, cb, cr):  # type: ignore[no-untyped-def]
        for top in range(0, y.shape[0], 2):
            for left in range(0, y.shape[1], 2):
                r, g, b = 0.0, 0.0, 0.0
                for dy in range(2):
                    for dx in range(2):
                        pixel = values[top + dy, left + dx]
                        red, green, blue = table[pixel[0]], table[pixel[1]], table[pixel[2]]
                        luma = 0.2126 * red + 0.7152 * green + 0.0722 * blue
                        y[top + dy, left + dx] = np.uint8(16.5 + 219 * luma)
                        r, g, b = r + red, g + green, b + blue
                luma = 0.2126 * r + 0.7152 * g + 0.0722 * b
                cb[top // 2, left // 2] = np.uint8(128.5 + (b - luma) * 0.25 * 224 / 1.8556)
                cr[top // 2, left // 2] = np.uint8(128.5 + (r - luma) * 0.25 * 224 / 1.5748)

    return fill


def plain_convert(values: Any, table: Any, size: tuple[int, int]) -> av.VideoFrame:
    """A table to 8-bit codes, and the library's own conversion: nothing to compile."""
    codes = np.take((table * 255 + 0.5).astype(np.uint8), values[..., :3])
    frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(codes), format="rgb24")
    return frame.reformat(*size, format="yuv420p", dst_colorspace="itu709", interpolation="LANCZOS")


def kernel_convert(values: Any, table: Any, fill: Any) -> av.VideoFrame:
    frame = av.VideoFrame(values.shape[1], values.shape[0], "yuv420p")
    planes = []
    for plane in frame.planes:
        lines = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
        planes.append(lines[: plane.height, : plane.width])
    fill(values, table, *planes)
    return frame


def encode_all(
    files: list[Path],
    one: Callable[[Path], av.VideoFrame],
    container: av.container.OutputContainer,
    stream: Any,
    pool: ThreadPoolExecutor,
) -> None:
    """Make frames a few ahead of the encoder."""
    waiting = [pool.submit(one, path) for path in files[:AHEAD]]
    for number in range(len(files)):
        frame = waiting.pop(0).result()
        if number + AHEAD < len(files):
            waiting.append(pool.submit(one, files[number + AHEAD]))
        frame.pts = number
        container.mux(stream.encode(frame))
    container.mux(stream.encode(None))


def main(folder: Path, out: Path, to: tuple[int, int] | None) -> None:
    files = sorted(folder.iterdir())
    is_exr = files[0].suffix == ".exr"
    read = read_exr if is_exr else read_png
    table = linear_table() if is_exr else (np.arange(256) / 255).astype(np.float32)
    height, width = read(files[0]).shape[:2]
    is_long = len(files) * width * height > 150_000_000
    fill = compiled_kernel() if is_long and to is None else None
    width, height = to or (width, height)

    def one(path: Path) -> av.VideoFrame:
        values = read(path)
        return (
            kernel_convert(values, table, fill)
            if fill
            else plain_convert(values, table, (width, height))
        )

    with av.open(str(out), "w") as container, ThreadPoolExecutor(2) as pool:
        stream = container.add_stream(
            "libx264", rate=24, options={"preset": "medium", "crf": "18", "profile": "high"}
        )
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
        stream.codec_context.thread_type = "FRAME"
        stream.codec_context.thread_count = 2
        encode_all(files, one, container, stream, pool)


if __name__ == "__main__":
    wide, _, high = "".join(sys.argv[3:]).partition("x")
    main(Path(sys.argv[1]), Path(sys.argv[2]), (int(wide), int(high)) if high else None)
