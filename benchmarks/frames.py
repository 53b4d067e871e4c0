"""The frames that are measured with: a textured, mildly grainy picture that moves."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np

from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.picture.transfer_tables import encode_srgb

__all__ = ["write_frames"]


def write_frames(
    folder: Path, *, suffix: str, count: int, width: int, height: int, is_clear: bool = False
) -> Path:
    """EXR half RGBA or 8-bit PNG, seeded; kept from one run to the next.

    is_clear: whether a PNG has alpha, clear around a disc with a soft edge.
    """
    kind = f"{suffix.strip('.')}{'-clear' if is_clear else ''}"
    folder = folder / f"{kind}-{width}x{height}-{count}"
    if len(list(folder.glob(f"*{suffix}"))) == count:
        return folder
    folder.mkdir(parents=True, exist_ok=True)
    random = np.random.default_rng(7)
    coarse = random.random((height // 8 + 4, width // 8 + 4, 3)).astype(np.float32)
    texture = np.kron(coarse, np.ones((8, 8, 1), np.float32))
    for _ in range(2):
        texture = (texture + np.roll(texture, 3, 0) + np.roll(texture, 3, 1)) / 3
    fine = random.normal(0, 0.012, (8, height, width, 3)).astype(np.float32)
    ramp = np.linspace(0.05, 0.9, width, dtype=np.float32)[None, :, None]

    rows, columns = np.mgrid[0:height, 0:width]
    away = np.hypot(columns - width / 2, rows - height / 2)
    disc = np.clip((height * 0.4 - away) * 16, 0, 255).astype(np.uint8)[..., None]

    def one(number: int) -> None:
        shift = number * 2 % 32
        part = texture[shift // 2 : shift // 2 + height, shift : shift + width]
        light = 0.4 * part * ramp + 0.3 * ramp + fine[number % 8] * (0.3 + ramp)
        light = np.maximum(light, 0)
        path = folder / f"bench.{number:04}{suffix}"
        if suffix == ".exr":
            opaque = np.ones((height, width, 1), np.float32)
            write_pixels(path, np.concatenate([light, opaque], axis=2).astype(np.float16))
        else:
            codes = (encode_srgb(light) * 255 + 0.5).astype(np.uint8)
            write_pixels(path, np.concatenate([codes, disc], axis=2) if is_clear else codes)

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(one, range(1, count + 1)))
    return folder
