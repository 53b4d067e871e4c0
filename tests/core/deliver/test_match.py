"""The match table: each row from the timeline and the delivery, and nothing lost in silence."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from tests.making import write_sequence, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.format.delivery_settings import form_of
from waxseal.core.deliver.format.expected_file import expected_of
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.match import Row, State, match, notes_in
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.run.preflight import preflight
from waxseal.core.deliver.specs.apply_spec import add_as
from waxseal.core.deliver.specs.spec_book import spec_book
from waxseal.core.errors import DeliveryRefused
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import (
    change_delivery,
    change_reading,
    put_behind,
    refresh_sources,
    set_reel_rate,
    set_reel_size,
    take_in,
)
from waxseal.core.job.model import (
    Alpha,
    Bitrate,
    ConstantQuality,
    DeliveryState,
    Framing,
    Job,
    Sequence,
    Size,
    Space,
    change,
)
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.measure_movie import measure_movie
from waxseal.core.timing.rates import rate_words


@pytest.fixture
def job(tmp_path: Path) -> Job:
    """A sequence on twos with alpha, one without, and a sound."""
    clear = np.full((90, 160, 4), 128, np.uint8)
    (tmp_path / "a").mkdir()
    for number in range(1, 7):
        write_pixels(tmp_path / "a" / f"a.{number:04}.png", clear)
    write_sequence(tmp_path / "b", "b.%04d.png", frames=range(1, 13), width=320, height=180)
    write_tone(tmp_path / "a.wav", seconds=0.5, channels=2)
    job = take_in(Job(), sources=scan([tmp_path]).sources, folder=str(tmp_path))
    by_name = {one.name: one.id for one in job.sequences}
    job = change_reading(job, source=by_name["a"], rate=Fraction(12), alpha=Alpha.STRAIGHT)
    job = change_reading(job, source=by_name["b"], rate=Fraction(24))
    return set_reel_size(set_reel_rate(job, rate=Fraction(24)), size=Size(width=320, height=180))


def rows(job: Job, **fields: object) -> dict[str, Row]:
    job = change_delivery(job, delivery="d1", **fields)
    return {row.what: row for row in match(programme(job), job.deliveries[0])}


def test_what_is_done_on_the_way_is_in_words_and_figures(job: Job) -> None:
    table = rows(job)
    assert table["frames"] == Row(
        *("frames", "18 frames", "24", "24"),
        "18 source frames become 24",
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


def test_a_high_range_whose_file_does_not_say_how_bright_it_gets(job: Job) -> None:
    words = "MKV does not say how bright the film gets (MaxCLL, MaxFALL)"
    told = rows(job, codec="H.265", space=Space.PQ)["colour"]
    assert "how bright" not in told.done
    assert words in rows(job, codec="H.265", space=Space.PQ, container="MKV")["colour"].done
    assert (
        "how bright"
        not in rows(job, codec="H.265", space=Space.HLG, container="MKV")["colour"].done
    )


def test_alpha_that_is_lost_says_why(job: Job) -> None:
    lost = rows(job)["alpha"]
    assert (lost.sources, lost.file, lost.state) == ("straight", "none", State.LOST)
    assert lost.done == "transparent areas show the ground, #000000: H.264 carries none"
    able = rows(job, codec="PNG movie")["alpha"]
    assert able.done == "transparent areas show the ground, #000000"
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
    assert table["size"].done == "the reel fills: 70 px cropped each left and right"
    assert table["frames"].done == "frames 13-24 of 24, some frames repeated"
    assert (table["frames"].reel, table["frames"].file) == ("12", "15")
    assert table["rate"].file == "30"
    assert table["length"].done == ""
    near = rows(job, rate=Fraction(25), range=(13, 24))  # less than a frame off: each is shown once
    assert (near["frames"].file, near["length"].done) == ("12", "-0.020 s: whole frames")
    assert table["alpha"].sources == "none"  # the clear shot is not in the range


def test_a_limit_that_is_tight_lowers_the_quality(job: Job) -> None:
    assert rows(job, most_bytes=30_000)["file size"].state is State.CHANGED
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


# ---- nothing disagrees -------------------------------------------------------------------------


def refused(job: Job, **fields: object) -> tuple[str, ...]:
    job = change_delivery(job, delivery="d1", **fields)
    with pytest.raises(DeliveryRefused) as error:
        preflight(job, job.deliveries[0])
    return error.value.reasons


@pytest.mark.parametrize(
    ("row", "fields"),
    [
        ("rate", {"codec": "DNxHR HQ", "container": "MXF", "rate": Fraction(12)}),
        ("rate", {"timecode": "00:00:00:24"}),
        ("size", {"size": Size(width=20_000, height=20_000)}),
        ("colour", {"space": Space.PQ}),
        ("colour", {"codec": "H.265", "space": Space.PQ, "no_flashes": True}),
        ("colour", {"codec": "H.265", "space": Space.HLG, "mastering": "P3 1000"}),
        ("alpha", {"alpha": Alpha.STRAIGHT}),
        ("file size", {"quality": ConstantQuality(figure=900)}),
    ],
)
def test_what_refuses_a_delivery_is_said_in_its_row(
    job: Job, row: str, fields: dict[str, object]
) -> None:
    found = rows(job, **fields)[row]
    (reason,) = found.reasons
    assert found.state is State.DECIDE
    assert reason in found.done
    assert reason in refused(job, **fields)


def test_frames_that_are_missing_are_said_in_their_row(job: Job, tmp_path: Path) -> None:
    (tmp_path / "b" / "b.0005.png").unlink()
    files = next(one for one in scan([tmp_path / "b"]).sources if isinstance(one, Sequence))
    job = refresh_sources(job, sources=[change(files, id=job.sequences[1].id)])
    found = rows(job)["frames"]
    assert "5 is missing" in found.done
    assert found.state is State.DECIDE
    assert found.reasons == refused(job)
    assert rows(job, range=(1, 12))["frames"].reasons == ()  # the other shot


def test_the_notes_of_a_seal_are_those_of_the_table(job: Job, tmp_path: Path) -> None:
    job = change_delivery(
        job, delivery="d1", folder=str(tmp_path), size=Size(width=181, height=180), rate=30
    )
    table = match(programme(job), job.deliveries[0])
    assert notes_in(table) == (
        "The reel is shown at another rate, 24 → 30: some frames repeated.",
        "a, 160 × 90: fits, at 200 %.",
        "181 × 180 becomes 182 × 180: the codec needs even sides, "
        "so the last column or row is repeated.",
        "The reel, 320 × 180, in 181 × 180 fits: 39 px of ground each above and below.",
        "a is enlarged × 2: it may look soft.",
        "The alpha of a is not delivered: transparent areas show the ground, #000000.",
    )
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.notes[: len(notes_in(table))] == notes_in(table)


def test_every_shipped_spec_is_held_to_what_its_table_says(job: Job) -> None:
    for spec in spec_book():
        made = add_as(job, spec, folder="/")
        planned, delivery = programme(made), made.deliveries[-1]
        table = {row.what: row for row in match(planned, delivery)}
        expected = expected_of(form_of(planned.timeline, delivery))
        assert table["frames"].file == str(expected.frames)
        assert table["rate"].file == rate_words(expected.rate)
        assert table["size"].file == f"{expected.width} × {expected.height}"
        assert (table["sound"].file == "none") == (expected.sound is None)
        assert expected.level in table["file size"].file
        assert table["alpha"].file == delivery.alpha
