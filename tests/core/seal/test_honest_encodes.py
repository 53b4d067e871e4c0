"""An honest encode is never refused: pictures that codecs leave most out of, at coarse figures."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from tests.making import job_of
from waxseal.core.deliver.codecs import CODECS
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import ConstantQuality, DeliveryState
from waxseal.core.progress import CancelToken, silent

WIDE, TALL, COUNT = 90, 66, 24
ROWS, COLUMNS = np.mgrid[:TALL, :WIDE]
Picture = NDArray[Any]

chance = np.random.default_rng(7)
clouds = cv2.GaussianBlur(chance.random((TALL, WIDE + 3 * COUNT, 3)).astype(np.float32), (0, 0), 5)
CLOUDS = (clouds - clouds.min()) / (clouds.max() - clouds.min())


def grey(values: Picture) -> Picture:
    return np.asarray(np.repeat(values[..., None], 3, axis=2))


def picture(kind: str, at: int) -> Picture:
    """A picture of a kind, in codes of 8 bits."""
    cloud = CLOUDS[:, at : at + WIDE]
    odd = np.random.default_rng(at)
    match kind:
        case "dark and noisy":
            return np.asarray(cloud * 18 + odd.normal(size=(TALL, WIDE, 3)) * 6 + 4)
        case "noise":
            return odd.integers(0, 256, (TALL, WIDE, 3))
        case "noise of luma":
            return grey(odd.integers(0, 256, (TALL, WIDE)))
        case "noise of colour":
            return 128 + odd.normal(size=(TALL, WIDE, 3)) * 40
        case "stripes":
            return grey((COLUMNS + at) // 2 % 2 * 255)
        case "stripes across":
            return grey((ROWS + at) // 2 % 2 * 255)
        case "stripes of colour":
            red, green = (COLUMNS + at) // 3 % 2, (ROWS + at) // 3 % 2
            return np.dstack([red, green, (COLUMNS + ROWS) // 4 % 2]) * 255
        case "lines":
            is_line = ((ROWS + at) % 9 == 0) | ((COLUMNS + 2 * at) % 13 == 0)
            return grey(np.where(is_line, 10, 230))
        case "fine lines":
            return grey(np.where((COLUMNS + ROWS + at) % 5 == 0, 240, 20))
        case "flicker":
            return np.asarray(cloud * 120 + at % 2 * 60)
    raise ValueError(kind)


KINDS = (
    *("dark and noisy", "noise", "noise of luma", "noise of colour", "stripes", "stripes across"),
    *("stripes of colour", "lines", "fine lines", "flicker"),
)


@pytest.fixture(scope="module", params=KINDS)
def frames(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("honest") / "a"
    folder.mkdir()
    for at in range(COUNT):
        values = np.clip(picture(request.param, at), 0, 255).astype(np.uint8)
        write_pixels(folder / f"a.{at + 1:04}.png", values)
    return folder


@pytest.mark.parametrize(
    ("codec", "figure"),
    [
        *(("H.264", 36), ("H.264", 48), ("H.264", 51), ("H.265", 40), ("H.265", 51)),
        *(("VP9", 58), ("VP9", 63), ("AV1", 50), ("AV1", 63)),
    ],
)
def test_whatever_a_codec_leaves_out_it_is_sealed(frames: Path, codec: str, figure: int) -> None:
    job = job_of(frames)
    job = change_delivery(
        job,
        delivery="d1",
        codec=codec,
        container=CODECS[codec].containers[0],
        quality=ConstantQuality(figure=float(figure)),
    )
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken(), overwrite=True)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
