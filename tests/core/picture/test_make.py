from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.making import gradient, job_of, write_sequence
from waxseal.core.errors import FrameError
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_reading, set_framing, set_ground, set_reel_size
from waxseal.core.job.model import Alpha, Framing, Job, Size
from waxseal.core.picture.inspection.pixel_sample import sample
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Filter, Layout, Target
from waxseal.core.picture.transfer_tables import decode_srgb, encode_srgb
from waxseal.core.plan.programme import recipe


def screen(job: Job, frame: int = 1, **more: Any) -> NDArray[np.uint8]:
    """R, G, B of a reel frame at the reel's size."""
    size = job.reel_size
    target = Target(size.width, size.height, Layout.SCREEN, **more)
    return make(recipe(job, frame), target).planes[0][..., 2::-1]


def one_frame(folder: Path, name: str, values: NDArray[Any]) -> Job:
    (folder / "frames").mkdir(parents=True)
    write_pixels(folder / "frames" / name, values)
    return job_of(folder / "frames")


def test_eight_bit_frames_come_out_with_the_same_codes(tmp_path: Path) -> None:
    values = np.random.default_rng(2).integers(0, 256, (36, 64, 3), np.uint8)
    np.testing.assert_array_equal(screen(one_frame(tmp_path, "a.png", values)), values)


def test_opaque_alpha_changes_no_code(tmp_path: Path) -> None:
    values = np.random.default_rng(2).integers(0, 256, (36, 64, 4), np.uint8)
    values[..., 3] = 255
    np.testing.assert_array_equal(screen(one_frame(tmp_path, "a.png", values)), values[..., :3])


def test_opaque_parts_beside_clear_ones_keep_their_codes(tmp_path: Path) -> None:
    values = np.random.default_rng(2).integers(0, 256, (36, 64, 4), np.uint8)
    values[:, :32, 3], values[:, 32:, 3] = 255, 0
    job = set_ground(one_frame(tmp_path, "a.png", values), colour="#204060")
    shown = screen(job)
    np.testing.assert_array_equal(shown[:, :32], values[:, :32, :3])
    np.testing.assert_array_equal(shown[:, 32:], np.broadcast_to((0x20, 0x40, 0x60), (36, 32, 3)))


def test_one_clear_row_at_the_end_shows_the_ground(tmp_path: Path) -> None:
    """Whether a picture is covered is seen while it is coded: what was coded so far is left."""
    values = np.random.default_rng(2).integers(0, 256, (36, 64, 4), np.uint8)
    values[..., 3] = 255
    target = Target(64, 36, Layout.YUV420)
    covered = make(recipe(one_frame(tmp_path / "all", "a.png", values), 1), target).planes[0]
    values[-1, :, 3] = 0
    job = set_ground(one_frame(tmp_path / "holed", "a.png", values), colour="#ffffff")
    holed = make(recipe(job, 1), target).planes[0]
    assert (holed[-1] == 235).all()  # white, as ITU-R BT.709-6 has it
    away = np.abs(holed[:-1].astype(int) - covered[:-1])
    assert away.max() <= 1  # it went through light, and luma is rounded once more


def test_linear_light_is_encoded_as_srgb(tmp_path: Path) -> None:
    values = gradient(1, dtype="float16")
    expected = encode_srgb(values.astype(np.float64)) * 255
    shown = screen(one_frame(tmp_path, "a.exr", values))
    assert np.abs(shown - expected).max() <= 0.51


@pytest.mark.parametrize(("name", "dtype"), [("a.exr", "float16"), ("a.png", "uint8")])
def test_alpha_is_laid_over_the_ground_in_linear_light(
    tmp_path: Path, name: str, dtype: str
) -> None:
    """Held against Porter and Duff's over in float64."""
    straight = gradient(1, dtype="float32", channels=4).astype(np.float64)
    straight[..., 3] = np.linspace(0, 1, 64)[None, :]
    light = straight.copy()
    if dtype == "uint8":
        stored = (straight * 255 + 0.5).astype(np.uint8)
        light = stored / 255
        light[..., :3] = decode_srgb(light[..., :3]) * light[..., 3:]
    else:
        light[..., :3] *= light[..., 3:]
        stored = light.astype(np.float16)
        light = stored.astype(np.float64)
    job = set_ground(one_frame(tmp_path, name, stored), colour="#8040c0")
    ground = decode_srgb(np.array((0x80, 0x40, 0xC0)) / 255)
    over = light[..., :3] + ground * (1 - light[..., 3:])
    assert np.abs(screen(job) - encode_srgb(over) * 255).max() <= 0.6


def test_a_curve_is_never_applied_to_premultiplied_codes(tmp_path: Path) -> None:
    """8-bit premultiplied codes: half-covered white over black is half the light, code 188."""
    values = np.full((36, 64, 4), 128, np.uint8)
    job = one_frame(tmp_path, "a.png", values)
    job = change_reading(job, source="s1", alpha=Alpha.PREMULTIPLIED)
    assert abs(int(screen(job)[10, 10, 0]) - 188) <= 1
    ignored = change_reading(job, source="s1", alpha=Alpha.NONE)
    assert screen(ignored)[10, 10, 0] == 128


def test_no_numbers_and_negative_light_do_no_harm(tmp_path: Path) -> None:
    values = gradient(1, dtype="float16")
    values[0, 0], values[0, 1], values[0, 2] = np.nan, np.inf, -5
    shown = screen(one_frame(tmp_path, "a.exr", values))
    assert shown[0, 0].tolist() == [0, 0, 0]
    assert shown[0, 1].tolist() == [255, 255, 255]
    assert shown[0, 2].tolist() == [0, 0, 0]


def test_fit_leaves_the_ground_at_the_sides(tmp_path: Path) -> None:
    job = one_frame(tmp_path, "a.png", np.full((40, 40, 3), 200, np.uint8))
    job = set_ground(set_reel_size(job, size=Size(width=80, height=40)), colour="#0a141e")
    shown = screen(job)
    np.testing.assert_array_equal(shown[:, :20], np.broadcast_to((10, 20, 30), (40, 20, 3)))
    np.testing.assert_array_equal(shown[:, 20:60], np.full((40, 40, 3), 200))
    fill = screen(set_framing(job, shot="a1", framing=Framing.FILL))
    np.testing.assert_array_equal(fill, np.full((40, 80, 3), 200))


@pytest.mark.parametrize("framing", list(Framing))
@pytest.mark.parametrize("size", [(31, 17), (64, 36), (100, 100), (200, 50)])
def test_every_framing_gives_the_frame_its_size(
    tmp_path: Path, framing: Framing, size: tuple[int, int]
) -> None:
    job = one_frame(tmp_path, "a.exr", gradient(1, dtype="float16", channels=4))
    job = set_reel_size(job, size=Size(width=size[0], height=size[1]))
    shown = screen(set_framing(job, shot="a1", framing=framing))
    assert shown.shape == (size[1], size[0], 3)


def test_odd_sides_are_made_even_by_repeating_the_last_line(tmp_path: Path) -> None:
    job = one_frame(tmp_path, "a.png", gradient(1, width=63, height=35))
    target = Target(63, 35, Layout.YUV420)
    y, cb, cr = make(recipe(job, 1), target).planes
    assert (y.shape, cb.shape, cr.shape) == ((36, 64), (18, 32), (18, 32))
    np.testing.assert_array_equal(y[:, 63], y[:, 62])
    np.testing.assert_array_equal(y[35], y[34])


def test_grey_has_no_colour_and_white_is_235(tmp_path: Path) -> None:
    greys = np.repeat(np.arange(256, dtype=np.uint8)[None, :, None], 3, axis=2)
    job = one_frame(tmp_path, "a.png", np.repeat(greys, 16, axis=0))
    y, cb, cr = make(recipe(job, 1), Target(256, 16, Layout.YUV420)).planes
    assert (y[0, 0], y[0, 255]) == (16, 235)
    assert set(np.unique(cb)) == set(np.unique(cr)) == {128}
    nearest = np.floor(16 + 219 * np.arange(256) / 255 + 0.5)
    np.testing.assert_array_equal(y[0], nearest)


def test_other_primaries_are_turned_and_white_stays_white(tmp_path: Path) -> None:
    values = np.zeros((8, 8, 3), np.float16)
    values[:, :4] = 0.5
    values[:, 4:, 1] = 0.5  # a green outside BT.709
    (tmp_path / "frames").mkdir()
    p3 = (0.68, 0.32, 0.265, 0.69, 0.15, 0.06, 0.3127, 0.329)
    path = tmp_path / "frames" / "a.exr"
    write_pixels(path, values, attributes={"chromaticities": p3})
    job = job_of(tmp_path / "frames")
    assert job.sequences[0].reading.chromaticities.value == pytest.approx(p3)
    shown = screen(job)
    assert shown[0, 0].tolist() == [188, 188, 188]
    assert shown[0, 6].tolist() == [0, 191, 0]


def test_looking_smaller_is_the_mean_in_linear_light(tmp_path: Path) -> None:
    stripes = np.zeros((36, 64, 3), np.uint8)
    stripes[:, ::2] = 255
    job = one_frame(tmp_path, "a.png", stripes)
    target = Target(32, 18, Layout.SCREEN, Filter.AREA)
    shown = make(recipe(job, 1), target).planes[0]
    assert set(np.unique(shown[..., :3])) == {188}  # half the light, not half the code


def test_what_cannot_be_read_is_an_error_with_its_frame(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "frames"))
    (tmp_path / "frames" / "shot.0002.png").unlink()
    with pytest.raises(FrameError) as caught:
        screen(job, 2)
    assert caught.value.frame == 2


def test_the_values_under_the_pointer(tmp_path: Path) -> None:
    values = gradient(1, dtype="float16", channels=4)
    job = one_frame(tmp_path, "a.exr", values)
    target = Target(64, 36, Layout.YUV420)
    close = sample(recipe(job, 1), target)
    pixel = close.at(40, 20)
    assert pixel is not None
    assert pixel.source is not None
    assert pixel.source == pytest.approx(values[20, 40, :3].astype(float).tolist())
    assert pixel.alpha == 1
    assert pixel.delivered[0] == make(recipe(job, 1), target).planes[0][20, 40]
    assert close.at(64, 0) is None
