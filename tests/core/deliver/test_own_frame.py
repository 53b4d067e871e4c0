"""Deliveries of another size, shape, rate or range than the reel's; key frames; a size limit."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from tests.making import job_of, number_in, numbered, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.format.delivery_settings import bytes_of, film_keys, form_of, target_of
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.queue.still_sealed import is_still_sealed
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import Border
from waxseal.core.job.edits import change_delivery, set_correction, set_ground, take_in
from waxseal.core.job.model import (
    Alpha,
    Delivery,
    DeliveryState,
    Framing,
    Job,
    Outcome,
    Size,
    Space,
    change,
)
from waxseal.core.picture.framing import Box
from waxseal.core.plan.programme import programme
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.measure_movie import measure_movie

WIDE, TALL, COUNT = 320, 180, 24


@pytest.fixture(scope="module")
def reel(tmp_path_factory: pytest.TempPathFactory) -> Job:
    """24 frames with their numbers in them, on a grey that is not black; 24 fps, with sound."""
    folder = tmp_path_factory.mktemp("reel")
    (folder / "a").mkdir()
    for number in range(1, COUNT + 1):
        write_pixels(folder / "a" / f"a.{number:04}.png", numbered(number)[..., :3])
    write_tone(folder / "a.wav", seconds=1.0)
    job = take_in(Job(), sources=scan([folder]).sources, folder=str(folder))
    return set_ground(job, colour="#204060")


def delivered(job: Job, folder: Path, **fields: object) -> tuple[Outcome, Path]:
    job = change_delivery(job, delivery="d1", folder=str(folder), **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    return outcome, path_of(job.deliveries[0])


def frames_in(folder: Path) -> list[np.ndarray]:
    return [read_pixels(path).values for path in sorted(folder.glob("*.png"))]


def size(text: str) -> Size:
    wide, tall = text.split("x")
    return Size(width=int(wide), height=int(tall))


# By hand: 320 x 180 in each, scaled by the larger or the smaller of the two factors.
@pytest.mark.parametrize(
    ("wanted", "framing", "box"),
    [
        ("180x180", Framing.FILL, (-70, 0, 320, 180)),
        ("320x320", Framing.FIT, (0, 70, 320, 180)),
        ("640x360", Framing.FIT, (0, 0, 640, 360)),
        ("200x200", Framing.STRETCH, (0, 0, 200, 200)),
        ("90x160", Framing.FIT, (0, 54, 90, 52)),  # 50.6 high: to whole pixels, even for chroma
    ],
)
def test_the_reels_picture_sits_in_the_deliverys_frame(
    reel: Job, wanted: str, framing: Framing, box: tuple[int, int, int, int]
) -> None:
    job = change_delivery(reel, delivery="d1", size=size(wanted), framing=framing)
    target = target_of(timeline_of(job).size, job.deliveries[0])
    assert (target.placed or Box(0, 0, target.width, target.height)) == Box(*box)


@pytest.mark.parametrize("codec", ["PNG", "H.264", "EXR", "ProRes 4444"])
@pytest.mark.parametrize(
    ("wanted", "framing"),
    [("180x180", Framing.FILL), ("320x320", Framing.FIT), ("200x120", Framing.STRETCH)],
)
def test_another_shape_is_sealed_in_every_kind(
    reel: Job, tmp_path: Path, codec: str, wanted: str, framing: Framing
) -> None:
    space = Space.LINEAR if codec == "EXR" else Space.SRGB
    outcome, _ = delivered(
        *(reel, tmp_path), codec=codec, space=space, size=size(wanted), framing=framing
    )
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert any("The reel, 320 × 180, in" in note for note in outcome.notes)


def test_what_is_cut_off_is_cut_to_the_code_and_what_is_added_is_ground(
    reel: Job, tmp_path: Path
) -> None:
    files = reel.sequences[0].files
    whole = read_pixels(files.path_of(1)).values[..., :3]
    _, folder = delivered(reel, tmp_path, codec="PNG", size=size("180x180"), framing=Framing.FILL)
    np.testing.assert_array_equal(frames_in(folder)[0], whole[:, 70:250])
    _, folder = delivered(reel, tmp_path, codec="PNG", name="fit", size=size("320x320"))
    first = frames_in(folder)[0]
    np.testing.assert_array_equal(first[70:250], whole)
    assert (first[:70] == (0x20, 0x40, 0x60)).all()
    assert (first[250:] == (0x20, 0x40, 0x60)).all()
    _, folder = delivered(
        reel, tmp_path, codec="PNG", name="clear", alpha=Alpha.STRAIGHT, size=size("320x320")
    )
    first = frames_in(folder)[0]
    assert (first[:70] == 0).all()  # nothing is there
    assert (first[70:250, :, 3] == 255).all()


@pytest.mark.parametrize(
    ("rate", "shown"),
    [
        (Fraction(12), list(range(1, 25, 2))),
        (Fraction(48), [n for n in range(1, 25) for _ in (1, 2)]),
        (
            Fraction(30),
            [1, 1, 2, 3, 4, 5, 5, 6, 7, 8, 9, 9, 10, 11, 12, 13, 13, 14, 15, 16, 17, 17],
        ),
    ],
)
def test_another_rate_shows_the_same_time(
    reel: Job, tmp_path: Path, rate: Fraction, shown: list[int]
) -> None:
    outcome, folder = delivered(reel, tmp_path, codec="PNG", rate=rate)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    numbers = [number_in(values) for values in frames_in(folder)]
    assert numbers[: len(shown)] == shown
    assert len(numbers) == rate  # a second
    assert any("another rate" in note for note in outcome.notes)


def test_sound_is_as_long_as_the_picture_at_another_rate(reel: Job, tmp_path: Path) -> None:
    outcome, path = delivered(reel, tmp_path, rate=Fraction(25), container="MOV")
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    measured = measure_movie(path)
    assert measured.rate == Fraction(25)
    assert measured.frames == 25
    assert measured.sound is not None
    assert measured.sound.seconds == 1


def test_a_range_of_its_own(reel: Job, tmp_path: Path) -> None:
    outcome, folder = delivered(reel, tmp_path, codec="PNG", range=(5, 9))
    assert outcome.state is DeliveryState.SEALED
    assert [number_in(values) for values in frames_in(folder)] == [5, 6, 7, 8, 9]
    assert sorted(path.name for path in folder.glob("*.png"))[0].endswith(".0005.png")
    outcome, _ = delivered(reel, tmp_path, name="beyond", range=(20, 40))
    assert outcome.reasons == ("The reel has frames 1 to 24: beyond wants 20-40.",)


def test_only_the_frames_of_its_range_have_to_be_there(tmp_path: Path) -> None:
    (tmp_path / "a").mkdir()
    for number in (1, 2, 3, 5, 6):
        write_pixels(tmp_path / "a" / f"a.{number:04}.png", numbered(number))
    job = job_of(tmp_path / "a")
    assert delivered(job, tmp_path, range=(1, 3))[0].state is DeliveryState.SEALED
    assert delivered(job, tmp_path, name="all")[0].state is DeliveryState.REFUSED


@pytest.mark.parametrize("codec", ["H.264", "H.265", "VP9", "AV1"])
def test_key_frames_come_as_often_as_is_wanted(reel: Job, tmp_path: Path, codec: str) -> None:
    outcome, path = delivered(reel, tmp_path, codec=codec, key_seconds=0.25)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert measure_movie(path).key_gap <= 6


def test_a_file_over_its_limit_is_refused(reel: Job, tmp_path: Path) -> None:
    silent_reel = change(reel, reel=change(reel.reel, sounds=()))
    outcome, path = delivered(silent_reel, tmp_path, most_bytes=2000)
    assert outcome.state is DeliveryState.REFUSED
    assert "2.0 kB cannot be kept: even at the coarsest quality" in outcome.reasons[0]
    assert not path.exists()


def test_what_was_sealed_before_there_were_such_settings_stays_sealed() -> None:
    """The key of a delivery that has none of them, as it was."""
    plain = Delivery(id="d1", name="a", folder="/tmp")  # noqa: S108
    assert plain.key == "20d6cf6761ccdf1e95928979a3386f95"
    assert plain.key != Delivery(id="d1", name="a", folder="/tmp", range=(1, 2)).key  # noqa: S108


def test_what_is_estimated_is_of_its_own_frame(reel: Job) -> None:
    whole = bytes_of(timeline_of(reel), reel.deliveries[0])
    small = change_delivery(reel, delivery="d1", size=size("160x90"), range=(1, 12))
    assert bytes_of(timeline_of(small), small.deliveries[0]) < whole
    form = form_of(programme(small).timeline, small.deliveries[0])
    assert (form.frames.count, form.target.stored_size) == (12, (160, 90))


def test_what_cannot_be_made_any_more_is_never_taken_for_fresh(reel: Job, tmp_path: Path) -> None:
    outcome, _ = delivered(reel, tmp_path, name="kept")
    job = change_delivery(reel, delivery="d1", folder=str(tmp_path), name="kept", outcome=outcome)
    planned = programme(job)
    gone = change_delivery(job, delivery="d1", range=(20, 400)).deliveries[0]
    assert is_still_sealed(
        job.deliveries[0],
        reel_key=planned.key,
        film_key=film_keys(planned, job.deliveries)["d1"],
        token=CancelToken(),
    )
    key = film_keys(planned, [gone])["d1"]
    assert key
    assert not is_still_sealed(
        job.deliveries[0], reel_key=planned.key, film_key=key, token=CancelToken()
    )


@pytest.mark.parametrize("codec", ["PNG", "PNG 16", "EXR"])
def test_what_is_stretched_is_stretched_with_its_letters_and_borders(
    reel: Job, tmp_path: Path, codec: str
) -> None:
    """A border of a tenth of the height, 18 pixels; of the frame only the width is halved."""
    finished = set_correction(reel, of="a1", correction=Border(width=100, colour="#ff0000"))
    space = Space.LINEAR if codec == "EXR" else Space.SRGB
    fields = {"codec": codec, "size": Size(width=160, height=180), "space": space}
    outcome, path = delivered(
        finished, tmp_path, framing=Framing.STRETCH, range=(1, 2), name="s", **fields
    )
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    values = read_pixels(min(path.glob("s.*"))).values.astype(np.float32)
    is_red = values[..., 0] - values[..., 1] > 0.9 * values.max()
    row, column = is_red[90], is_red[:, 80]
    assert np.flatnonzero(~row)[0] == pytest.approx(9, abs=1)
    assert np.flatnonzero(~row)[-1] == pytest.approx(150, abs=1)
    assert np.flatnonzero(~column)[0] == pytest.approx(18, abs=1)


@pytest.mark.parametrize("codec", ["H.264", "H.265", "VP9", "AV1"])
@pytest.mark.parametrize("count", [1, COUNT])
def test_every_picture_may_be_a_key_frame(
    reel: Job, tmp_path: Path, codec: str, count: int
) -> None:
    """In the profile that players know: H.265 in key frames alone would have another."""
    outcome, path = delivered(
        *(reel, tmp_path), codec=codec, key_seconds=0.01, range=(1, count), container="MP4"
    )
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    found = measure_movie(path)
    assert (found.key_gap, found.frames) == (1, count)


def test_fine_patterns_in_a_tiny_frame_may_cost_what_they_cost(reel: Job, tmp_path: Path) -> None:
    """A block of the sketch is one pixel there, and keeps all the noise of the codec."""
    rows, columns = np.mgrid[:180, :320]
    folder = tmp_path / "board"
    folder.mkdir()
    for number in range(1, 9):
        grey = 30 * number if number < 6 else 25 + 178 * ((columns // 16 + rows // 16) % 2)
        picture = np.broadcast_to(np.asarray(grey)[..., None], (180, 320, 3)).astype(np.uint8)
        write_pixels(folder / f"board.{number:04}.png", np.ascontiguousarray(picture))
    job = job_of(folder)
    outcome, _ = delivered(
        *(job, tmp_path), codec="ProRes proxy", container="MOV", size=Size(width=100, height=65)
    )
    assert outcome.state is DeliveryState.SEALED, outcome.reasons


def test_what_is_not_squeezed_is_not_stretched(reel: Job) -> None:
    """The same shape in another size, or a frame that the picture fits into."""
    timeline = timeline_of(reel)
    for size, framing in (
        (Size(width=160, height=90), Framing.STRETCH),
        (Size(width=160, height=180), Framing.FIT),
        (Size(width=160, height=180), Framing.FILL),
    ):
        job = change_delivery(reel, delivery="d1", size=size, framing=framing)
        assert not target_of(timeline.size, job.deliveries[0]).is_stretched
