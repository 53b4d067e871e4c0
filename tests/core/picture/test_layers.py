"""Layers, finishes and stacks, seen in the light that they come to."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.core.picture.plain_kernels import plainly
from tests.making import job_of
from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import JobError
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import (
    Balance,
    Border,
    Cdl,
    Correction,
    Exposure,
    Fade,
    FadeTo,
    Gamma,
    Grain,
    Haze,
    Opacity,
    Saturation,
    Sharpen,
    Soften,
    Text,
    TextPlace,
    Values,
    Vignette,
)
from waxseal.core.job.edits import (
    REEL,
    add_sources,
    change_overlay,
    change_placing,
    change_reading,
    change_timing,
    keep_inside,
    lay_over,
    make_stack,
    put_behind,
    put_on_reel,
    set_correction,
    set_counting,
    set_framing,
    set_ground,
    set_reel_rate,
    set_reel_size,
)
from waxseal.core.job.finish_settings import Finish, Inside
from waxseal.core.job.model import (
    Alpha,
    Blend,
    Colour,
    Conversion,
    Framing,
    Job,
    Operation,
    Size,
    Stack,
    StackPass,
    Turn,
)
from waxseal.core.picture.make import light_for, make
from waxseal.core.picture.target import Filter, Layout, Target
from waxseal.core.plan.programme import programme, recipe
from waxseal.core.timing.timecode import Counting

WIDE, TALL = 16, 9


def write(folder: Path, name: str, values: NDArray[Any], frames: range = range(1, 5)) -> None:
    """The same picture as the frames of a sequence of this name."""
    (folder / name).mkdir(parents=True, exist_ok=True)
    for frame in frames:
        write_pixels(folder / name / f"{name}.{frame:04d}.exr", values.astype(np.float16))


def flat(*channels: float, width: int = WIDE, height: int = TALL) -> NDArray[np.float32]:
    return np.broadcast_to(np.array(channels, np.float32), (height, width, len(channels)))


def job_with(folder: Path, **pictures: NDArray[Any]) -> Job:
    """The first picture on the reel, the others in the in-tray, in the order they are given."""
    for name, values in pictures.items():
        write(folder, name, values)
    found = {source.name: source for source in scan([folder]).sources}
    job = add_sources(Job(), sources=[found[name] for name in pictures])
    return put_on_reel(job, sources=["s1"])


def light(job: Job, frame: int = 1, scale: float = 1) -> NDArray[np.float32]:
    size = job.reel_size
    width, height = round(size.width * scale), round(size.height * scale)
    target = Target(width, height, Layout.SCREEN, Filter.SHARP)
    return light_for(recipe(job, frame), target)


def finished(job: Job, *corrections: Correction, of: str = "a1") -> Job:
    for one in corrections:
        job = set_correction(job, of=of, correction=one)
    return job


def test_exposure_is_two_to_the_stops(tmp_path: Path) -> None:
    job = finished(job_with(tmp_path, a=flat(0.1, 0.2, 0.3)), Exposure(stops=1.5))
    np.testing.assert_allclose(light(job)[4, 8], np.array([0.1, 0.2, 0.3]) * 2**1.5, rtol=2e-3)


@pytest.mark.parametrize("of", ["a1", REEL])
def test_corrections_work_in_their_order_wherever_they_came_from(tmp_path: Path, of: str) -> None:
    job = job_with(tmp_path, a=flat(0.25, 0.25, 0.25))
    one = finished(job, Gamma(gamma=2), Exposure(stops=1), of=of)
    other = finished(job, Exposure(stops=1), Gamma(gamma=2), of=of)
    np.testing.assert_allclose(light(one)[0, 0], 0.5**0.5, rtol=2e-3)  # exposure first
    np.testing.assert_array_equal(light(one), light(other))


def test_a_warmer_grey_keeps_its_luminance(tmp_path: Path) -> None:
    job = finished(job_with(tmp_path, a=flat(0.2, 0.2, 0.2)), Balance(warmer=1, greener=0.5))
    red, green, blue = light(job)[0, 0]
    assert red / blue == pytest.approx(2, rel=1e-3)
    assert 0.2126 * red + 0.7152 * green + 0.0722 * blue == pytest.approx(0.2, rel=2e-3)


def test_colour_is_never_applied_to_premultiplied_values(tmp_path: Path) -> None:
    """A half-covering grey, gamma 2: the root of its straight light, covering half."""
    job = job_with(tmp_path, a=flat(0.125, 0.125, 0.125, 0.5))
    job = finished(set_ground(job, colour="#000000"), Gamma(gamma=2))
    np.testing.assert_allclose(light(job)[0, 0], 0.25**0.5 * 0.5, rtol=2e-3)


def test_negative_light_passes_powers_as_it_is(tmp_path: Path) -> None:
    job = finished(job_with(tmp_path, a=flat(-0.5, 4.0, 0.25)), Gamma(gamma=2))
    np.testing.assert_allclose(light(job)[0, 0], [-0.5, 2.0, 0.5], rtol=2e-3)


def test_what_is_off_or_does_nothing_is_not_in_the_recipe(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.1, 0.2, 0.3))
    idle = finished(job, Exposure(stops=1, on=False), Gamma(), Cdl(), Vignette(strength=0))
    assert recipe(idle, 1).key == recipe(job, 1).key


def test_saturation_of_nothing_is_the_luminance(tmp_path: Path) -> None:
    job = finished(job_with(tmp_path, a=flat(0.1, 0.2, 0.4)), Saturation(saturation=0))
    expected = 0.2126 * 0.1 + 0.7152 * 0.2 + 0.0722 * 0.4
    np.testing.assert_allclose(light(job)[0, 0], expected, rtol=2e-3)


def test_a_cdl_on_display_encoded_values_is_another_one(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.18, 0.18, 0.18))
    linear = finished(job, Cdl(offset=(0.1, 0.1, 0.1)))
    display = finished(job, Cdl(offset=(0.1, 0.1, 0.1), values=Values.DISPLAY))
    assert light(linear)[0, 0, 0] == pytest.approx(0.28, rel=2e-3)
    encoded = 1.055 * 0.18 ** (1 / 2.4) - 0.055 + 0.1
    assert light(display)[0, 0, 0] == pytest.approx(((encoded + 0.055) / 1.055) ** 2.4, rel=3e-3)


def test_a_lut_is_read_mixed_and_read_again_when_it_changes(tmp_path: Path) -> None:
    from waxseal.core.job.corrections import Lut

    file = tmp_path / "half.cube"
    write_halving(file, 0.5)
    job = job_with(tmp_path / "frames", a=flat(0.8, 0.4, 0.2))
    whole = finished(job, Lut(path=str(file), values=Values.LINEAR))
    np.testing.assert_allclose(light(whole)[0, 0], [0.4, 0.2, 0.1], rtol=5e-3)
    part = finished(job, Lut(path=str(file), values=Values.LINEAR, strength=0.5))
    np.testing.assert_allclose(light(part)[0, 0], [0.6, 0.3, 0.15], rtol=5e-3)
    before = recipe(whole, 1).key
    write_halving(file, 0.25)
    assert recipe(whole, 1).key != before
    np.testing.assert_allclose(light(whole)[0, 0], [0.2, 0.1, 0.05], rtol=5e-3)


def write_halving(file: Path, factor: float) -> None:
    lines = ["LUT_3D_SIZE 2"]
    for blue in (0, 1):
        for green in (0, 1):
            lines += [f"{red * factor} {green * factor} {blue * factor}" for red in (0, 1)]
    file.write_text("\n".join(lines) + "\n" + "# " + "x" * int(factor * 100) + "\n")


def test_a_lut_that_is_none_is_said(tmp_path: Path) -> None:
    from waxseal.core.job.corrections import Lut

    (tmp_path / "bad.cube").write_text("nothing of the kind")
    job = finished(job_with(tmp_path / "f", a=flat(1, 1, 1)), Lut(path=str(tmp_path / "bad.cube")))
    with pytest.raises(JobError, match=r"bad\.cube is not a cube LUT: it states no size"):
        light(job)


def test_a_vignette_leaves_its_middle_and_darkens_the_corners(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.5, 0.5, 0.5, width=64, height=36))
    shaded = light(finished(job, Vignette(strength=1, size=0.45, softness=0.4)))
    assert shaded[18, 32, 0] == pytest.approx(0.5, rel=1e-3)
    assert shaded[0, 0, 0] < 0.06
    assert np.all(np.diff(shaded[18, 32:, 0]) <= 1e-6)


def test_softness_keeps_the_light_and_sharpness_adds_contrast(tmp_path: Path) -> None:
    values = np.zeros((36, 64, 3), np.float32)
    values[:, 32:] = 1
    job = job_with(tmp_path, a=values)
    soft = light(finished(job, Soften(radius=60)))
    assert soft.mean() == pytest.approx(0.5, abs=1e-3)
    assert 0.02 < soft[18, 30, 0] < 0.5
    values[:, :32] = 0.5
    write(tmp_path, "a", values)
    sharp = light(finished(job, Sharpen(amount=1, radius=60)))
    assert sharp[18, 33, 0] > 1.05
    assert sharp[18, 30, 0] < 0.48


def test_grain_is_the_same_each_time_and_another_at_each_frame(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.18, 0.18, 0.18, width=64, height=36))
    job = finished(job, Grain(amount=10))
    np.testing.assert_array_equal(light(job, 1), light(job, 1))
    assert np.abs(light(job, 1) - light(job, 2)).max() > 0.01
    assert light(job).std() == pytest.approx(0.018, rel=0.1)
    assert light(job).mean() == pytest.approx(0.18, rel=0.01)


def linear(**values: Any) -> Fade:
    return Fade(values=Values.LINEAR, **values)


def test_a_fade_in_begins_with_nothing_and_ends_whole(tmp_path: Path) -> None:
    job = finished(job_with(tmp_path, a=flat(0.4, 0.4, 0.4)), linear(frames_in=2, frames_out=2))
    shown = [float(light(job, frame)[0, 0, 0]) for frame in (1, 2, 3, 4)]
    np.testing.assert_allclose(shown, [0, 0.2, 0.2, 0], atol=1e-3)


def test_a_fade_to_white_and_to_what_is_behind(tmp_path: Path) -> None:
    job = set_ground(job_with(tmp_path, a=flat(0.4, 0.4, 0.4)), colour="#ffffff")
    white = finished(job, linear(frames_in=2, to=FadeTo.WHITE))
    clear = finished(job, linear(frames_in=2, to=FadeTo.CLEAR))
    for one in (white, clear):
        assert light(one, 1)[0, 0, 0] == pytest.approx(1.0)
        assert light(one, 2)[0, 0, 0] == pytest.approx(0.7, rel=2e-3)


def test_opacity_goes_from_point_to_point(tmp_path: Path) -> None:
    job = finished(
        job_with(tmp_path, a=flat(0.4, 0.4, 0.4)), Opacity(points=((0, 1.0), (2, 0.0), (3, 0.0)))
    )
    shown = [float(light(job, frame)[0, 0, 0]) for frame in (1, 2, 3)]
    np.testing.assert_allclose(shown, [0.4, 0.2, 0.0], atol=1e-3)


def test_text_lies_where_it_is_said_inside_the_safe_area(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0, 0, 0, width=320, height=180))
    job = finished(job, Text(words="sh010 {frame}", place=TextPlace.BOTTOM_LEFT, size=80))
    shown = light(job)[..., 0]
    rows, columns = np.nonzero(shown > 0.3)
    assert columns.min() >= 16
    assert columns.max() < 200
    assert rows.min() > 120
    assert rows.max() < 180 - 8
    assert np.abs(light(job, 2) - light(job, 1)).max() > 0.5  # its number


def test_drop_frame_timecode_is_burnt_in_by_choice_of_the_reel(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0, 0, 0))
    job = finished(set_reel_rate(job, rate=Fraction(30_000, 1001)), Text(words="{timecode}"))
    shot = recipe(set_counting(job, counting=Counting.DROP), 2).shot
    assert shot is not None
    assert shot.finish.corrections[0].words == "00:00:00;01"  # type: ignore[union-attr]
    at_24 = set_reel_rate(set_counting(job, counting=Counting.DROP), rate=Fraction(24))
    other = recipe(at_24, 2).shot
    assert other is not None
    assert other.finish.corrections[0].words == "00:00:00:01"  # type: ignore[union-attr]


def test_a_border_is_drawn_around_the_picture_not_the_frame(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.5, 0.5, 0.5, width=64, height=64))
    job = set_reel_size(job, size=Size(width=128, height=64))
    shown = light(finished(job, Border(width=50, colour="#ff0000")))
    assert shown[32, 33, 0] == pytest.approx(1)
    assert shown[32, 33, 1] == 0
    assert shown[32, 64, 1] == pytest.approx(0.5, rel=2e-3)
    assert shown[32, 10].max() == 0


def test_haze_grows_with_the_depth(tmp_path: Path) -> None:
    depth = np.tile(np.linspace(0, 10, WIDE, dtype=np.float32)[None, :, None], (TALL, 1, 3))
    job = job_with(tmp_path, a=flat(0.2, 0.2, 0.2), depth=depth)
    hazy = light(finished(job, Haze(depth="s2", start=0, end=10, density=1, colour="#ffffff")))
    assert hazy[0, 0, 0] == pytest.approx(0.2, rel=2e-3)
    assert hazy[0, -1, 0] == pytest.approx(1, rel=2e-3)
    assert np.all(np.diff(hazy[0, :, 0]) > 0)


@pytest.mark.parametrize("inverted", [False, True])
def test_corrections_keep_inside_a_matte(tmp_path: Path, inverted: bool) -> None:
    matte = np.zeros((TALL, WIDE, 3), np.float32)
    matte[:, :8] = 1
    job = job_with(tmp_path, a=flat(0.2, 0.2, 0.2), m=matte)
    job = finished(job, Exposure(stops=1))
    from waxseal.core.job.edits import keep_inside

    job = keep_inside(job, of="a1", inside=Inside(source="s2", inverted=inverted))
    shown = light(job)[4, :, 0]
    inside, outside = (shown[12], shown[2]) if inverted else (shown[2], shown[12])
    np.testing.assert_allclose([inside, outside], [0.4, 0.2], rtol=2e-3)


# ---- layers -----------------------------------------------------------------------------------


BLENDED = [
    (Blend.OVER, [0.3 + 0.2 * 0.5, 0.3 + 0.4 * 0.5, 0.3 + 0.6 * 0.5]),
    (Blend.ADD, [0.5, 0.7, 0.9]),
    (Blend.MULTIPLY, [0.2 * 0.8, 0.4 * 0.8, 0.6 * 0.8]),
    (Blend.SCREEN, [0.2 + 0.3 * 0.8, 0.4 + 0.3 * 0.6, 0.6 + 0.3 * 0.4]),
]


@pytest.mark.parametrize(("blend", "expected"), BLENDED)
def test_overlays_are_laid_over_as_the_trade_does(
    tmp_path: Path, blend: Blend, expected: Sequence[float]
) -> None:
    job = job_with(tmp_path, a=flat(0.2, 0.4, 0.6), b=flat(0.3, 0.3, 0.3, 0.5))
    job = change_overlay(lay_over(job, source="s2", at=2), overlay="o1", blend=blend)
    np.testing.assert_allclose(light(job, 1)[0, 0], [0.2, 0.4, 0.6], rtol=2e-3)
    np.testing.assert_allclose(light(job, 2)[0, 0], expected, rtol=3e-3)
    with plainly():
        np.testing.assert_allclose(light(job, 2)[0, 0], expected, rtol=3e-3)


def test_an_overlay_laid_over_display_encoded_values_is_mixed_there(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0, 0, 0), b=flat(0.5, 0.5, 0.5, 0.5))
    job = lay_over(job, source="s2", at=1)
    assert light(job)[0, 0, 0] == pytest.approx(0.5, rel=2e-3)
    job = change_overlay(job, overlay="o1", values=Values.DISPLAY)
    # White at half the code, not at half the light.
    assert light(job)[0, 0, 0] == pytest.approx(((0.5 + 0.055) / 1.055) ** 2.4, rel=3e-3)


def test_an_overlay_stays_its_length_and_holds_its_last_frame(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0, 0, 0), b=flat(1, 1, 1))
    job = change_overlay(lay_over(job, source="s2", at=3), overlay="o1", first=1, last=1, length=1)
    assert [float(light(job, frame)[0, 0, 0]) for frame in (2, 3, 4)] == [0, 1, 0]


def test_a_picture_behind_shows_where_the_shot_is_clear(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.1, 0.1, 0.1, 0.5), b=flat(0.8, 0.8, 0.8, width=4, height=4))
    job = put_behind(job, source="s2")
    assert light(job)[0, 0, 0] == pytest.approx(0.1 + 0.8 * 0.5, rel=2e-3)
    assert light(job)[8, 15, 0] == pytest.approx(0.5, rel=2e-3)


@pytest.mark.parametrize(
    ("turn", "mirrored", "corner"),
    [
        (Turn.NONE, True, (0, -1)),
        (Turn.RIGHT, False, (0, -1)),
        (Turn.HALF, False, (-1, -1)),
        (Turn.LEFT, False, (-1, 0)),
        (Turn.RIGHT, True, (-1, -1)),
    ],
)
def test_the_first_pixel_goes_where_the_turn_takes_it(
    tmp_path: Path, turn: Turn, mirrored: bool, corner: tuple[int, int]
) -> None:
    values = np.zeros((8, 8, 3), np.float32)
    values[0, 0] = 1
    job = job_with(tmp_path, a=values)
    job = change_placing(job, of="a1", turn=turn, mirrored=mirrored)
    assert light(job)[corner][0] == pytest.approx(1)
    assert light(job).sum() == pytest.approx(3)
    target = Target(8, 8, Layout.SCREEN)
    assert make(recipe(job, 1), target).planes[0][corner][0] == 255


@pytest.mark.parametrize("turn", list(Turn))
@pytest.mark.parametrize("mirrored", [False, True])
def test_a_matte_is_mirrored_and_turned_with_its_picture(
    tmp_path: Path, turn: Turn, mirrored: bool
) -> None:
    """What it covers of a picture as it was rendered is what it covers in any placing."""
    matte = np.zeros((8, 8, 3), np.float32)
    matte[:2, :3] = 1
    job = job_with(tmp_path, a=flat(0.2, 0.2, 0.2, width=8, height=8), m=matte)
    job = finished(job, Exposure(stops=1))
    job = keep_inside(job, of="a1", inside=Inside(source="s2"))
    upright = light(job)
    job = change_placing(job, of="a1", turn=turn, mirrored=mirrored)
    expected = np.rot90(upright[:, ::-1] if mirrored else upright, -turn.quarters)
    np.testing.assert_allclose(light(job), expected, atol=1e-4)


def moving_by(number: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """A textured disc that moves 12 pixels a frame, and the matte of it."""
    down, across = np.mgrid[0:120, 0:200].astype(np.float32)
    middle = 80 + 12 * number
    cover = np.clip(26 - np.hypot(across - middle, down - 60), 0, 1)
    face = 0.25 + 0.1 * np.sin((across - middle) / 4) * np.cos(down / 5)
    ground = 0.05 + 0.03 * np.sin(across / 7) * np.sin(down / 9)
    picture = ground * (1 - cover) + face * cover
    return tuple(np.repeat(one[..., None], 3, axis=2) for one in (picture, cover))  # type: ignore[return-value]


@pytest.mark.parametrize("matte_size", [1, 2])
@pytest.mark.parametrize("conversion", [Conversion.BLEND, Conversion.MOTION])
def test_a_matte_is_between_two_frames_as_its_picture_is(
    tmp_path: Path, conversion: Conversion, matte_size: int
) -> None:
    """Half-way the matte covers what its picture shows half-way; a matte of another size, too."""
    for name in ("a", "m"):
        (tmp_path / name).mkdir()
    for number in range(2):
        picture, cover = moving_by(number)
        write_pixels(tmp_path / "a" / f"a.{number:04}.exr", picture.astype(np.float16))
        large = np.kron(cover, np.ones((matte_size, matte_size, 1)))
        write_pixels(tmp_path / "m" / f"m.{number:04}.exr", large.astype(np.float16))
    found = {source.name: source for source in scan([tmp_path]).sources}
    job = put_on_reel(add_sources(Job(), sources=[found["a"], found["m"]]), sources=["s1"])
    for source in ("s1", "s2"):
        job = change_reading(job, source=source, rate=Fraction(24))
    job = change_timing(set_reel_rate(job, rate=Fraction(48)), of="a1", conversion=conversion)
    plainly = light(job, 2)
    job = keep_inside(finished(job, Exposure(stops=1)), of="a1", inside=Inside(source="s2"))
    by = light(job, 2) / plainly - 1
    blended = np.mean([moving_by(0)[1], moving_by(1)[1]], axis=0)
    moved = np.roll(moving_by(0)[1], 6, axis=1)
    if conversion is Conversion.BLEND:
        assert np.abs(by - blended).mean() < 0.002
    else:
        assert np.abs(by - moved).mean() < 0.7 * np.abs(blended - moved).mean()


def test_a_picture_is_moved_and_scaled_in_the_frame(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(1, 1, 1, width=64, height=36))
    job = change_placing(job, of="a1", scale=0.5, x=16, y=-9)
    shown = light(job)[..., 0]
    assert shown[:18, 32:].min() == pytest.approx(1, abs=1e-3)
    assert shown[18:].max() == 0
    assert shown[:, :32].max() == 0


def test_no_light_is_lost_by_scaling(tmp_path: Path) -> None:
    values = np.zeros((36, 64, 4), np.float32)
    values[10:20, 20:40] = (3.0, 2.0, 1.0, 1.0)
    job = set_reel_size(job_with(tmp_path, a=values), size=Size(width=32, height=18))
    job = set_framing(job, shot="a1", framing=Framing.FIT)
    np.testing.assert_allclose(light(job).sum(), values[..., :3].sum() / 4, rtol=1e-2)


# ---- stacks -----------------------------------------------------------------------------------


def stacked(job: Job, *passes: StackPass) -> Job:
    return make_stack(job, source="s1", stack=Stack(passes=passes))


def test_passes_are_summed_with_gain_exposure_and_tint(tmp_path: Path) -> None:
    job = job_with(tmp_path, d=flat(0.1, 0.2, 0.3), s=flat(0.1, 0.1, 0.1), e=flat(5, 5, 5))
    job = stacked(
        job,
        StackPass(source="s1"),
        StackPass(source="s2", gain=2, exposure=1, tint="#ff0000"),
        StackPass(source="s3", on=False),
    )
    np.testing.assert_allclose(light(job)[0, 0], [0.5, 0.2, 0.3], rtol=3e-3)


def test_a_factor_multiplies_as_much_as_is_asked(tmp_path: Path) -> None:
    job = job_with(tmp_path, d=flat(0.4, 0.4, 0.4), ao=flat(0.5, 0.5, 0.5))
    for amount, expected in ((1.0, 0.2), (0.5, 0.3), (0.0, 0.4)):
        one = stacked(
            job,
            StackPass(source="s1"),
            StackPass(source="s2", operation=Operation.MULTIPLY, amount=amount),
        )
        assert light(one)[0, 0, 0] == pytest.approx(expected, rel=3e-3)


@pytest.mark.parametrize("inverted", [False, True])
def test_a_matte_gives_the_stack_its_alpha(tmp_path: Path, inverted: bool) -> None:
    job = set_ground(
        job_with(tmp_path, d=flat(0.4, 0.4, 0.4), m=flat(0.25, 0.25, 0.25)), colour="#ffffff"
    )
    job = stacked(
        job,
        StackPass(source="s1"),
        StackPass(source="s2", operation=Operation.MATTE, inverted=inverted),
    )
    share = 0.75 if inverted else 0.25
    assert light(job)[0, 0, 0] == pytest.approx(0.4 * share + 1 - share, rel=3e-3)


def test_a_pass_laid_over_another(tmp_path: Path) -> None:
    job = job_with(tmp_path, d=flat(0.4, 0.4, 0.4), t=flat(0.3, 0.3, 0.3, 0.5))
    job = stacked(job, StackPass(source="s1"), StackPass(source="s2", operation=Operation.OVER))
    assert light(job)[0, 0, 0] == pytest.approx(0.3 + 0.2, rel=3e-3)


def test_a_pass_whose_frame_is_gone_refuses_and_says_whose(tmp_path: Path) -> None:
    for name, frames in (("d", range(1, 5)), ("s", range(1, 4))):
        write(tmp_path, name, flat(0.1, 0.1, 0.1), frames)
    found = {source.name: source for source in scan([tmp_path]).sources}
    job = put_on_reel(add_sources(Job(), sources=[found["d"], found["s"]]), sources=["s1"])
    job = stacked(job, StackPass(source="s1"), StackPass(source="s2"))
    gone = programme(job).missing()
    assert [(one.sequence.name, set(one.frames), one.is_stood_in) for one in gone] == [
        ("s", {4}, False)
    ]


# ---- one way to a pixel ------------------------------------------------------------------------


def test_plain_and_compiled_kernels_make_the_same_picture(tmp_path: Path) -> None:
    random = np.random.default_rng(3)
    job = job_with(
        tmp_path,
        a=random.random((TALL, WIDE, 3)),
        b=random.random((TALL, WIDE, 4)) * 0.5,
    )
    job = lay_over(job, source="s2", at=1)
    job = finished(job, Cdl(slope=(1.2, 1.0, 0.8), power=(1.1, 1, 1)), Vignette())
    target = Target(WIDE, TALL, Layout.YUV420)
    one = make(recipe(job, 1), target)
    with plainly():
        other = make(recipe(job, 1), target)
    for before, after in zip(one.planes, other.planes, strict=True):
        np.testing.assert_array_equal(before, after)


def test_a_finish_that_does_nothing_goes_the_short_way(tmp_path: Path) -> None:
    (tmp_path / "frames").mkdir()
    values = np.random.default_rng(2).integers(0, 256, (36, 64, 3), np.uint8)
    write_pixels(tmp_path / "frames" / "a.png", values)
    job = finished(job_of(tmp_path / "frames"), Exposure(stops=0), of=REEL)
    shown = make(recipe(job, 1), Target(64, 36, Layout.SCREEN)).planes[0][..., 2::-1]
    np.testing.assert_array_equal(shown, values)


def test_the_long_way_gives_the_codes_of_the_short_one(tmp_path: Path) -> None:
    """All 256 codes through light and back are the same codes."""
    (tmp_path / "frames").mkdir()
    values = np.repeat(np.arange(256, dtype=np.uint8)[None, :, None], 3, axis=2)
    values = np.repeat(values, 16, axis=0)
    write_pixels(tmp_path / "frames" / "a.png", values)
    job = finished(job_of(tmp_path / "frames"), Border(width=1e-6))
    shown = make(recipe(job, 1), Target(256, 16, Layout.SCREEN)).planes[0][..., 2::-1]
    np.testing.assert_array_equal(shown, values)


def test_a_finish_knows_no_correction_twice() -> None:
    with pytest.raises(ValueError, match="two corrections"):
        Finish(corrections=(Exposure(stops=1), Exposure(stops=2)))


def test_alpha_of_straight_frames_is_read_before_any_correction(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.5, 0.5, 0.5, 0.5))
    straight = change_reading(job, source="s1", alpha=Alpha.STRAIGHT)
    assert light(straight)[0, 0, 0] == pytest.approx(0.25, rel=2e-3)
    raw = change_reading(job, source="s1", alpha=Alpha.NONE, colour=Colour.RAW)
    assert light(raw)[0, 0, 0] == pytest.approx(0.5**2.2, rel=0.05)


# ---- what is covered ---------------------------------------------------------------------------


def test_what_is_covered_is_not_even_read(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.1, 0.1, 0.1), b=flat(0.4, 0.4, 0.4))
    job = lay_over(job, source="s2", at=1)
    (tmp_path / "a" / "a.0001.exr").write_bytes(b"rubbish")
    np.testing.assert_allclose(light(job)[0, 0], 0.4, rtol=2e-3)


@pytest.mark.parametrize("how", ["clear", "smaller", "added", "faded", "bordered"])
def test_what_may_be_seen_through_is_read(tmp_path: Path, how: str) -> None:
    over = flat(0.2, 0.2, 0.2, 0.5) if how == "clear" else flat(0.4, 0.4, 0.4)
    job = job_with(tmp_path, a=flat(0.1, 0.1, 0.1), b=over)
    job = lay_over(job, source="s2", at=1)
    overlay = job.reel.overlays[0].id
    if how == "smaller":
        job = change_placing(job, of=overlay, scale=0.5)
    elif how == "added":
        job = change_overlay(job, overlay=overlay, blend=Blend.ADD)
    elif how == "faded":
        job = set_correction(job, of=overlay, correction=Opacity(points=((0, 0.5),)))
    elif how == "bordered":
        job = set_correction(job, of=overlay, correction=Exposure(stops=-1))
    corner = {"clear": 0.25, "smaller": 0.1, "added": 0.5, "faded": 0.25, "bordered": 0.2}[how]
    np.testing.assert_allclose(light(job)[0, 0], corner, rtol=3e-3)


def test_what_is_read_as_without_alpha_covers(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.1, 0.1, 0.1), b=flat(0.4, 0.4, 0.4, 0.5))
    job = lay_over(job, source="s2", at=1)
    job = change_reading(job, source="s2", alpha=Alpha.NONE)
    (tmp_path / "a" / "a.0001.exr").unlink()
    np.testing.assert_allclose(light(job)[0, 0], 0.4, rtol=2e-3)
