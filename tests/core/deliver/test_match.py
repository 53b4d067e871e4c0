"""The match table: each row from the timeline and the delivery, and nothing lost in silence."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from tests.making import write_sequence, write_tone
from waxseal.core.arrive.sources import scan
from waxseal.core.deliver.deliver import make_delivery
from waxseal.core.deliver.match import Row, State, match
from waxseal.core.deliver.naming import path_of
from waxseal.core.frames.writing import write_pixels
from waxseal.core.job.edits import (
    change_delivery,
    change_reading,
    put_behind,
    set_reel_rate,
    set_reel_size,
    take_in,
)
from waxseal.core.job.model import Alpha, Bitrate, DeliveryState, Framing, Job, Size
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.movies import measure_movie


@pytest.fixture
def job(tmp_path: Path) -> Job:
    """A sequence on twos with alpha, one without, and a sound."""
    clear = np.full((90, 160, 4), 128, np.uint8)
    (tmp_path / "a").mkdir()
    for number in range(1, 7):
        write_pixels(tmp_path / "a" / f"a.{number:04}.png", clear)
    write_sequence(tmp_path / "b", "b.%04d.png", frames=range(1, 13), width=320, height=180)
    write_tone(tmp_path / "a.wav", seconds=1.0, channels=2)
    job = take_in(Job(), sources=scan([tmp_path]).sources, folder=str(tmp_path))
    by_name = {one.name: one.id for one in job.sequences}
    job = change_reading(job, source=by_name["a"], rate=Fraction(12), alpha=Alpha.STRAIGHT)
    job = change_reading(job, source=by_name["b"], rate=Fraction(24))
    return set_reel_size(set_reel_rate(job, rate=Fraction(24)), size=Size(width=320, height=180))


def rows(job: Job, **fields: object) -> dict[str, Row]:
    job = change_delivery(job, delivery="d1", **fields)
    return {row.what: row for row in match(timeline_of(job), job.deliveries[0])}


def test_what_is_done_on_the_way_is_in_words_and_figures(job: Job) -> None:
    table = rows(job)
    assert table["frames"] == Row(
        *("frames", "18 frames", "24", "24"),
        "18 of the sources' frames make 24",
        State.CHANGED,
    )
    assert table["rate"] == Row(
        *("rate", "12, 24", "24", "24"), "a every frame twice", State.CHANGED
    )
    assert table["size"].sources == "160 × 90, 320 × 180"
    assert table["size"].done == "a fits, at 200 %"
    assert table["pixel shape"] == Row("pixel shape", "1", "1", "1")
    assert table["colour"].file == "sRGB, 8 bits"
    assert table["colour"].state is State.SAME
    assert table["sound"].file == "AAC, 48 kHz"
    assert (table["length"].sources, table["length"].file) == ("1.000 s", "1.000 s")
    assert table["length"].state is State.SAME
    assert table["file size"].file.startswith("up to about")


def test_alpha_that_is_lost_says_why(job: Job) -> None:
    lost = rows(job)["alpha"]
    assert (lost.sources, lost.file, lost.state) == ("straight", "none", State.LOST)
    assert lost.done == "what is clear shows the ground, #000000: H.264 carries none"
    able = rows(job, codec="PNG movie")["alpha"]
    assert able.done == "what is clear shows the ground, #000000"
    kept = rows(job, codec="PNG movie", alpha=Alpha.STRAIGHT)["alpha"]
    assert (kept.file, kept.done, kept.state) == ("straight", "", State.SAME)
    made = rows(job, codec="ProRes 4444", alpha=Alpha.PREMULTIPLIED)["alpha"]
    assert (made.done, made.state) == ("made premultiplied", State.CHANGED)


def test_alpha_over_a_picture(job: Job) -> None:
    behind = put_behind(job, source=job.sequences[1].id)
    assert rows(behind)["alpha"].done == "laid over what is behind"
    kept = rows(behind, codec="PNG movie", alpha=Alpha.STRAIGHT)["alpha"]
    assert (kept.done, kept.state) == ("the picture behind is left out", State.CHANGED)


def test_a_guess_needs_a_decision(tmp_path: Path) -> None:
    write_sequence(tmp_path / "b", "b.%04d.png", frames=range(1, 13))
    job = take_in(Job(), sources=scan([tmp_path]).sources, folder=str(tmp_path))
    row = rows(job)["rate"]
    assert (row.done, row.state) == ("the rate of b is a guess", State.DECIDE)


def test_frames_have_their_sound_beside_them(job: Job) -> None:
    row = rows(job, codec="EXR")["sound"]
    assert (row.file, row.state) == ("PCM, 24 bits, 48 kHz", State.SAME)


def test_the_deliverys_own_frame_rate_and_range(job: Job) -> None:
    table = rows(
        job,
        size=Size(width=180, height=180),
        framing=Framing.FILL,
        rate=Fraction(30),
        range=(13, 24),
    )
    assert table["size"].file == "180 × 180"
    assert table["size"].done == "the reel fills: 70 px lost each left and right"
    assert table["frames"].done == "frames 13-24 of 24, some frames repeated"
    assert (table["frames"].reel, table["frames"].file) == ("12", "15")
    assert table["rate"].file == "30"
    assert table["length"].done == ""
    near = rows(job, rate=Fraction(25), range=(13, 24))  # less than a frame off: each is shown once
    assert (near["frames"].file, near["length"].done) == ("12", "-0.020 s: whole frames")
    assert table["alpha"].sources == "none"  # the clear shot is not in the range


def test_a_limit_that_is_tight_lowers_the_quality(job: Job) -> None:
    assert rows(job, most_bytes=1000)["file size"].state is State.CHANGED
    roomy = rows(job, most_bytes=10**9, quality=Bitrate(bits_per_second=10**6))["file size"]
    assert (roomy.file[:6], roomy.state) == ("about ", State.SAME)
    assert roomy.done == "at most 1.0 GB"


@pytest.mark.parametrize(
    "fields",
    [
        {},
        {"codec": "ProRes HQ", "size": Size(width=256, height=256)},
        {"codec": "VP9", "rate": Fraction(30)},
        {"codec": "DNxHR SQ", "size": Size(width=480, height=270), "range": (3, 20)},
    ],
)
def test_the_file_is_what_the_table_says(
    job: Job, tmp_path: Path, fields: dict[str, object]
) -> None:
    table = rows(job, **fields)
    job = change_delivery(job, delivery="d1", folder=str(tmp_path), **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    measured = measure_movie(path_of(job.deliveries[0]))
    assert table["frames"].file == str(measured.frames)
    assert table["rate"].file == str(measured.rate)
    assert table["size"].file == f"{measured.width} × {measured.height}"
    assert measured.sound is not None
    assert float(table["length"].file.removesuffix(" s")) == pytest.approx(
        float(measured.sound.seconds), abs=0.001
    )
