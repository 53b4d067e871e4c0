"""What is looked at beside the picture: its path, its scopes, how passes compare, CDL files."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from tests.core.picture.test_layers import finished, flat, job_with, stacked
from waxseal.core.errors import JobError
from waxseal.core.job.corrections import Cdl, Exposure, Gamma
from waxseal.core.job.edits import REEL, change_colourway, lay_over, make_stack, set_ground
from waxseal.core.job.model import Stack, StackPass, View
from waxseal.core.picture.colour.cdlfiles import read_cdl, write_cdl
from waxseal.core.picture.inspection.colour_path import trace
from waxseal.core.picture.inspection.pass_comparison import compare_frame, compare_stack
from waxseal.core.picture.inspection.scopes import scopes_of
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import recipe

TARGET = Target(16, 9, Layout.YUV420)


def test_a_pixel_is_followed_through_every_step(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(0.1, 0.1, 0.1, 0.5), b=flat(0.25, 0.25, 0.25, 0.5))
    job = set_ground(lay_over(job, source="s2", at=1), colour="#000000")
    job = finished(finished(job, Exposure(stops=1)), Gamma(gamma=2), of=REEL)
    steps = trace(recipe(job, 1), TARGET).at(3, 4)
    assert [step.words.split(":")[0] for step in steps] == [
        "in the file",
        "as light",
        "finished",
        "over the ground with 1 more over or behind it",
        "the reel finished",
        "view",
        "delivered",
    ]
    reds = [step.values[0] for step in steps]
    over = 0.25 + 0.2 * 0.5
    expected = [0.1, 0.1, 0.2, over, over**0.5]
    np.testing.assert_allclose(reds[:5], expected, rtol=3e-3)
    planes = make(recipe(job, 1), TARGET).planes
    assert steps[-1].values == (planes[0][4, 3], planes[1][2, 1], planes[2][2, 1])
    assert "exposure" in steps[2].words


def test_beside_the_picture_a_step_has_no_values(tmp_path: Path) -> None:
    job = job_with(tmp_path, a=flat(1, 1, 1))
    steps = trace(recipe(job, 1), TARGET).at(99, 99)
    assert all(step.values == () for step in steps)


def test_the_path_names_the_view(tmp_path: Path) -> None:
    job = change_colourway(job_with(tmp_path, a=flat(1, 1, 1)), view=View.ACES_SDR)
    assert any("ACES 2.0" in step.words for step in trace(recipe(job, 1), TARGET).at(0, 0))


def test_scopes_show_where_codes_lie_and_what_is_clipped() -> None:
    screen = np.zeros((40, 100, 4), np.uint8)
    screen[:, :, :3] = 128
    screen[:10, :, 2] = 255  # red
    screen[:2, :, 0] = 0
    scopes = scopes_of(screen)
    assert scopes.at_white == pytest.approx(0.25)
    assert scopes.at_black == pytest.approx(0.05)
    assert scopes.histogram[-1, 128, 1] > 0
    assert scopes.histogram[:, 60].max() == 0
    lit = np.nonzero(scopes.waveform[:, 10, 3])[0]
    assert 127 - 64 in lit
    assert scopes.waveform.shape == (128, 256, 4)
    assert scopes.clipped[:10, :, 3].any()
    assert not scopes.clipped[10:, :, 3].any()


def test_passes_that_sum_to_the_beauty_and_passes_that_do_not(tmp_path: Path) -> None:
    pictures = {"d": flat(0.1, 0.2, 0.3), "s": flat(0.2, 0.2, 0.2), "b": flat(0.3, 0.4, 0.5)}
    job = job_with(tmp_path, **pictures)
    passes = (StackPass(source="s1"), StackPass(source="s2"))
    equal = make_stack(job, source="s1", stack=Stack(passes=passes, beauty="s3"))
    found = compare_stack(equal, "s1", range(1, 5))
    assert found.is_equal
    assert found.frames == 4
    assert "add up to the beauty: they" in found.words
    half = make_stack(job, source="s1", stack=Stack(passes=passes[:1], beauty="s3"))
    apart, picture = compare_frame(half, "s1", 2)
    assert apart.greatest == pytest.approx(0.2, rel=5e-3)
    assert apart.part == pytest.approx(0.6 / 1.2, rel=5e-3)
    np.testing.assert_allclose(picture[0, 0], [0.2, 0.2, 0.2], rtol=5e-3)
    assert "do not add up to the beauty" in compare_stack(half, "s1", [1]).words
    with pytest.raises(JobError, match="no beauty"):
        compare_frame(stacked(job, *passes), "s1", 1)


@pytest.mark.parametrize("suffix", [".cdl", ".ccc", ".cc"])
def test_cdl_files_are_written_and_read_again(tmp_path: Path, suffix: str) -> None:
    one = Cdl(slope=(1.1, 1, 0.9), offset=(0.01, 0, -0.02), power=(1, 1.2, 1), saturation=0.8)
    file = tmp_path / f"look{suffix}"
    write_cdl(file, {"sh010": one})
    ((name, read),) = read_cdl(file)
    assert name == "sh010"
    np.testing.assert_allclose(read.slope, one.slope)
    np.testing.assert_allclose(read.offset, one.offset)
    np.testing.assert_allclose(read.power, one.power)
    assert read.saturation == pytest.approx(0.8)


def test_a_file_that_holds_no_cdl_is_said(tmp_path: Path) -> None:
    (tmp_path / "a.ccc").write_text("<nothing/>")
    with pytest.raises(JobError, match="as a CDL file"):
        read_cdl(tmp_path / "a.ccc")
    with pytest.raises(JobError, match=r"called \.cdl"):
        write_cdl(tmp_path / "a.txt", {"a": Cdl()})
