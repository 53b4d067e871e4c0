"""A delivery beside its file: the same frames, in the same codes, where both can be looked at."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.making import job_of, write_sequence
from waxseal.core.deliver.format.output_path import file_made
from waxseal.core.deliver.preview.delivery_pixels import file_frame, hold, screen_of
from waxseal.core.deliver.preview.file_view import BESIDE_TIMES, FileView, Pair, Show
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.errors import FrameError, JobError
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import Alpha, DeliveryState, Job, Size, Space
from waxseal.core.plan.programme import programme
from waxseal.core.plan.recipe_range import Stretch
from waxseal.core.progress import CancelToken, silent
from waxseal.core.timing.ranges import FrameRange

WIDE, TALL, COUNT = 160, 90, 12


@pytest.fixture
def job(tmp_path: Path) -> Job:
    folder = write_sequence(
        tmp_path / "a", "a.%04d.png", frames=range(1, COUNT + 1), width=WIDE, height=TALL
    )
    return job_of(folder)


def beside(job: Job, file: Path | None = None, **fields: object) -> FileView:
    job = change_delivery(job, delivery="d1", **fields)
    return FileView(programme(job), job.deliveries[0], file)


def delivered(job: Job, **fields: object) -> Path:
    job = change_delivery(job, delivery="d1", **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    file = file_made(job.deliveries[0])
    assert file is not None
    return file


def pair_at(held: FileView, frame: int) -> Pair:
    pair = held.pair(frame)
    assert pair is not None
    return pair


def flat(folder: Path, values: NDArray[np.uint8]) -> Path:
    """A folder with one frame."""
    folder.mkdir()
    write_pixels(folder / "f.0001.png", values)
    return folder


@pytest.mark.parametrize("fields", [{"codec": "PNG"}, {"codec": "FFV1", "container": "MKV"}])
def test_what_loses_nothing_is_nowhere_apart(job: Job, fields: dict[str, object]) -> None:
    held = hold(pair_at(beside(job, delivered(job, **fields), **fields), 7))
    assert held.read is not None
    away = np.abs(held.made - held.read).max()
    assert away < (0.01 if fields["codec"] == "PNG" else 1.5)  # FFV1 holds Y'CbCr


def test_a_codec_that_loses_is_a_little_apart(job: Job) -> None:
    held = hold(pair_at(beside(job, delivered(job)), 7))
    assert held.read is not None
    away = np.abs(held.made - held.read)
    assert 0 < away.mean() < 2
    made, there = held.at(20, 30) or ((), ())
    assert made == pytest.approx(held.made[30, 20])
    assert there == pytest.approx(held.read[30, 20])
    assert held.at(WIDE, 0) is None
    assert held.at(-1, 0) is None


def test_each_frame_has_its_own_beside_it(job: Job) -> None:
    file = delivered(job, codec="PNG", range=(4, 9))
    held = beside(job, file, codec="PNG", range=(4, 9))
    assert held.pair(3) is None
    assert held.pair(10) is None
    for frame in range(4, 10):
        pair = pair_at(held, frame)
        assert pair.frame == frame - 3
        both = hold(pair)
        assert both.read is not None
        np.testing.assert_allclose(both.made, both.read, atol=0.01)


def test_the_size_is_the_delivery_s(job: Job) -> None:
    square = beside(job, size=Size(width=64, height=64))
    assert (square.size.width, square.size.height) == (64, 64)
    assert hold(pair_at(square, 1)).made.shape == (64, 64, 3)


def test_another_file_is_shown_in_the_delivery_s_size(job: Job, tmp_path: Path) -> None:
    small = flat(tmp_path / "small", np.full((30, 40, 3), 77, np.uint8))
    held = beside(job, small)
    there = hold(pair_at(held, 1)).read
    assert there is not None
    assert there.shape == (TALL, WIDE, 3)
    assert there.mean() == pytest.approx(77)
    with pytest.raises(FrameError, match="1 frames"):
        hold(pair_at(held, 2))


def test_the_screen_has_one_or_both(job: Job) -> None:
    pair = pair_at(beside(job, delivered(job, codec="PNG"), codec="PNG"), 5)
    reel, file = (screen_of(pair, show, 80, 45) for show in (Show.REEL, Show.FILE))
    assert reel.shape == (45, 80, 4)
    np.testing.assert_array_equal(reel, file)
    both = screen_of(pair, Show.BOTH, 80, 45)
    np.testing.assert_array_equal(both, np.concatenate([reel, file]))
    assert screen_of(pair, Show.DIFFERENCE, 80, 45)[..., :3].max() == 0
    assert np.all(both[..., 3] == 255)


def test_a_difference_is_stronger_than_it_is(tmp_path: Path) -> None:
    job = job_of(flat(tmp_path / "reel", np.full((8, 8, 3), 60, np.uint8)))
    other = flat(tmp_path / "other", np.full((8, 8, 3), 63, np.uint8))
    screen = screen_of(pair_at(beside(job, other, codec="PNG"), 1), Show.DIFFERENCE, 8, 8)
    assert np.all(screen[..., :3] == 3 * BESIDE_TIMES)


def test_a_weave_is_under_what_is_clear(tmp_path: Path) -> None:
    values = np.zeros((8, 8, 4), np.uint8)
    values[:, 4:] = (200, 10, 10, 255)
    job = job_of(flat(tmp_path / "clear", values))
    pair = pair_at(beside(job, codec="PNG", alpha=Alpha.STRAIGHT), 1)
    screen = screen_of(pair, Show.REEL, 8, 8)
    assert set(screen[:, :4, 0].ravel()) == {104, 112}
    assert np.all(screen[:, 4:, :3] == (10, 10, 200))


@pytest.mark.parametrize("space", [Space.PQ, Space.HLG])
def test_a_high_range_is_fitted_to_an_ordinary_screen(tmp_path: Path, space: Space) -> None:
    """Graphics look as they are up to a shoulder; the values stay those of the delivery."""
    values = np.repeat(np.array([20, 60, 128, 200, 255], np.uint8), 32)[None, :, None]
    job = job_of(flat(tmp_path / "greys", np.tile(values, (64, 1, 3))))
    high = {"codec": "H.265", "space": space}
    pair = pair_at(beside(job, delivered(job, **high), **high), 1)
    for show, room in ((Show.REEL, 1), (Show.FILE, 3)):
        greys = screen_of(pair, show, 160, 64)[32, 16::32, 1].astype(int)
        assert np.abs(greys - (20, 60, 128, 200, 242)).max() <= room
    # 203 cd/m² is 58 % of the codes in PQ, and 75 % in HLG: ITU-R BT.2408.
    white = hold(pair).made[32, 144, 1] / 255
    assert white == pytest.approx(0.58 if space is Space.PQ else 0.75, abs=0.005)


def test_light_is_looked_at_elsewhere(job: Job) -> None:
    with pytest.raises(JobError, match="in-tray"):
        beside(job, codec="EXR")


def test_nothing_made_is_nothing_read(job: Job) -> None:
    held = beside(job)
    assert not held.has_file
    assert hold(pair_at(held, 1)).read is None
    with pytest.raises(FrameError, match="nothing has been made"):
        screen_of(pair_at(held, 1), Show.FILE, 8, 8)


@pytest.mark.parametrize("rate", ["12", "24", "25", "30", "60", "24000/1001"])
def test_the_frame_of_another_rate_is_the_one_at_that_time(rate: str) -> None:
    stretch = Stretch(FrameRange(5, 76), Fraction(24), Fraction(rate))
    assert stretch.shown_at(4) is None
    assert stretch.shown_at(77) is None
    for frame in range(5, 77):
        shown = stretch.shown_at(frame)
        assert shown is not None
        assert shown in stretch.shown
        # Half the rate shows every other frame: its own or the one before it.
        assert abs(stretch.reel_frame(shown) - frame) <= (1 if Fraction(rate) < 24 else 0)


def test_a_file_of_another_rate_is_met_at_the_same_time() -> None:
    assert file_frame(25, Fraction(24), Fraction(12)) == 13
    assert file_frame(25, Fraction(24), Fraction(24000, 1001)) == 25
    assert file_frame(25, Fraction(24), Fraction(30)) == 31
