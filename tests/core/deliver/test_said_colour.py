"""PNG frames say what their codes mean, and the seal measures it."""

from __future__ import annotations

import json
from pathlib import Path

import av
import numpy as np
import pytest

from tests.making import job_of
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.frame_writer import write_codes, write_pixels
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import DeliveryState, Job, Outcome, Space
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.measure_frames import measure_frames
from waxseal.core.seal.record import DIGEST, check, read_seal, record_digest, seal_path


@pytest.fixture
def reel(tmp_path: Path) -> Job:
    """sRGB's red beside its white, two frames."""
    folder = tmp_path / "flag"
    folder.mkdir()
    values = np.full((90, 160, 3), 255, np.uint8)
    values[:, :80] = (255, 0, 0)
    for number in (1, 2):
        write_pixels(folder / f"flag.{number:04}.png", values)
    return job_of(folder)


def delivered(job: Job, **fields: object) -> tuple[Outcome, Path]:
    job = change_delivery(job, delivery="d1", **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    return outcome, path_of(job.deliveries[0])


# Red in Display P3: from the two sets of primaries, by hand, (0.917, 0.200, 0.139). White in PQ
# and HLG: 203 cd/m² and 75 %, ITU-R BT.2408; red in BT.2020 is left to the colour's own tests.
@pytest.mark.parametrize(
    ("codec", "space", "points", "red", "white"),
    [
        ("PNG", Space.SRGB, (1, 13), (1.0, 0.0, 0.0), 1.0),
        ("PNG", Space.P3, (12, 13), (0.9175, 0.2003, 0.1386), 1.0),
        ("PNG 16", Space.P3, (12, 13), (0.9175, 0.2003, 0.1386), 1.0),
        ("PNG 16", Space.PQ, (9, 16), None, 0.5807),
        ("PNG 16", Space.HLG, (9, 18), None, 0.75),
    ],
)
def test_a_png_says_its_colour_and_has_its_codes(
    reel: Job,
    codec: str,
    space: Space,
    points: tuple[int, int],
    red: tuple[float, float, float] | None,
    white: float,
) -> None:
    outcome, folder = delivered(reel, codec=codec, space=space)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    first = min(folder.glob("*.png"))
    with av.open(str(first)) as file:
        frame = next(file.decode(video=0))
    assert (int(frame.color_primaries), int(frame.color_trc)) == points
    assert measure_frames(folder).colour == (*points, 0, True)
    values = read_pixels(first).values
    most = float(np.iinfo(values.dtype).max)
    assert values[45, 120] / most == pytest.approx([white] * 3, abs=0.003)
    if red is not None:
        assert values[45, 40] / most == pytest.approx(red, abs=0.003)
    record = read_seal(folder)
    assert record is not None
    assert (record["colour"]["primaries"], record["colour"]["transfer"]) == points
    assert check(folder).state is DeliveryState.SEALED


def test_eight_bits_are_too_few_for_a_high_range(reel: Job) -> None:
    outcome, _ = delivered(reel, codec="PNG", space=Space.PQ)
    assert outcome.state is DeliveryState.REFUSED
    assert "PNG cannot carry BT.2020 PQ" in " ".join(outcome.reasons)


def test_a_frame_that_says_another_colour_is_found(reel: Job) -> None:
    _, folder = delivered(reel, codec="PNG")
    values = read_pixels(max(folder.glob("*.png"))).values
    write_codes(max(folder.glob("*.png")), values, code_points=(12, 13))
    assert measure_frames(folder).damaged_frames == 1


def test_a_seal_that_did_not_measure_the_colour_is_one_still(reel: Job) -> None:
    _, folder = delivered(reel, codec="PNG")
    record = read_seal(folder)
    assert record is not None
    record["colour"] |= {"primaries": 0, "transfer": 0}
    record[DIGEST] = record_digest(record)
    seal_path(folder).write_text(json.dumps(record))
    assert check(folder).state is DeliveryState.SEALED
    record["colour"] |= {"primaries": 12, "transfer": 13}
    record[DIGEST] = record_digest(record)
    seal_path(folder).write_text(json.dumps(record))
    assert check(folder).state is DeliveryState.SEAL_BROKEN
