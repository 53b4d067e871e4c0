"""Of a config of thousands of spaces the library is given what is needed, and gives the same."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import PyOpenColorIO as ocio
import pytest

from waxseal.core.errors import JobError
from waxseal.core.job.model import Colourway
from waxseal.core.picture.colour import colour_spaces, config_excerpt
from waxseal.core.picture.colour.colour_file_states import config_states
from waxseal.core.picture.colour.colour_spaces import own_views, source_spaces, source_to_working
from waxseal.core.picture.colour.config_excerpt import large_config

HEAD = """ocio_profile_version: 2
search_path: luts
roles:
  default: raw
  scene_linear: lin
  aces_interchange: lin
file_rules:
  - !<Rule> {name: Default, colorspace: default}
displays:
  sRGB:
    - !<View> {name: Raw, colorspace: raw}
    - !<View> {name: Show, colorspace: "shown, here"}
looks:
  - !<Look> {name: warm, process_space: graded 2, transform: !<CDLTransform> {slope: [1.1, 1, 1]}}
colorspaces:
  - !<ColorSpace>
    name: raw
    isdata: true
  - !<ColorSpace>
    name: lin
  - !<ColorSpace>
    name: "shown, here"
    from_scene_reference: !<ExponentTransform> {value: [0.5, 0.5, 0.5, 1]}
  - !<ColorSpace> {name: graded 1, to_scene_reference: !<CDLTransform> {slope: [2, 1, 1]}}
  - !<ColorSpace> {name: graded 2, to_scene_reference: !<CDLTransform> {slope: [3, 1, 1]}}
  - !<ColorSpace>
    name: 'by another'
    aliases: [other way]
    to_scene_reference: !<GroupTransform>
      children:
        - !<ColorSpaceTransform> {src: graded 1, dst: lin}
        - !<ColorSpaceTransform> {src: "chained", dst: lin}
  - !<ColorSpace>
    name: chained
    to_scene_reference: !<ColorSpaceTransform> {src: graded 2, dst: lin}
  - !<ColorSpace>
    name: by file
    to_scene_reference: !<FileTransform> {src: half.spi1d}
"""
ASKED = ("graded 1", "by another", "chained", "by file", "plain 37", "shown, here")
HALVING = "Version 1\nFrom 0 1\nLength 2\nComponents 1\n{\n0.0\n0.5\n}\n"


def config_of(folder: Path, count: int) -> Path:
    (folder / "luts").mkdir()
    (folder / "luts" / "half.spi1d").write_text(HALVING)
    many = (
        f"  - !<ColorSpace>\n    name: plain {at}\n    to_scene_reference: "
        f"!<CDLTransform> {{slope: [1.{at:04}, 1, 1]}}\n"
        for at in range(count)
    )
    path = folder / "config.ocio"
    path.write_text(HEAD + "".join(many) + "view_transforms: []\n")
    return path


@pytest.fixture
def few(monkeypatch: pytest.MonkeyPatch) -> None:
    """Large is what has more than twenty spaces."""
    monkeypatch.setattr(config_excerpt, "MANY", 20)
    large_config.cache_clear()
    colour_spaces.config_from.cache_clear()
    colour_spaces.ready_source.cache_clear()


@pytest.mark.usefixtures("few")
def test_each_space_is_as_the_library_has_it_of_the_whole(tmp_path: Path) -> None:
    path = config_of(tmp_path, 60)
    whole = ocio.Config.CreateFromFile(str(path))
    assert set(source_spaces(str(path))) == set(whole.getColorSpaceNames())
    assert own_views(str(path)) == (("sRGB", "Raw"), ("sRGB", "Show"))
    built = ocio.Config.CreateFromBuiltinConfig("studio-config-latest")
    for name in ASKED:
        light = np.full((1, 1, 3), 0.25, np.float32)
        source_to_working(name, Colourway(config=str(path))).apply(light)
        told = ocio.Config.GetProcessorFromConfigs(whole, name, built, "Linear Rec.709 (sRGB)")
        wanted = told.getDefaultCPUProcessor().applyRGB([0.25] * 3)
        np.testing.assert_allclose(light[0, 0], wanted, rtol=1e-5)


@pytest.mark.usefixtures("few")
def test_what_nothing_refers_to_is_left_out(tmp_path: Path) -> None:
    large = large_config(config_of(tmp_path, 60).read_text())
    assert large is not None
    config = ocio.Config.CreateFromStream(large.with_only(["by another"]))
    config.validate()
    kept = {"raw", "lin", "shown, here", "graded 1", "graded 2", "chained", "by another"}
    assert set(config.getColorSpaceNames()) == kept


@pytest.mark.usefixtures("few")
def test_its_files_are_part_of_what_is_made_and_stay_in_its_folders(tmp_path: Path) -> None:
    path = config_of(tmp_path, 60)
    named = [one for one in config_states(str(path)) if "half" in str(one)]
    assert named
    path.write_text(path.read_text().replace("half.spi1d", "/etc/hostname"))
    with pytest.raises(JobError, match="outside its folders"):
        source_to_working("by file", Colourway(config=str(path)))


@pytest.mark.usefixtures("few")
def test_a_space_that_is_not_there_is_said(tmp_path: Path) -> None:
    with pytest.raises(JobError, match="has no space “plain 99”"):
        source_to_working("plain 99", Colourway(config=str(config_of(tmp_path, 60))))


def test_ten_thousand_are_opened(tmp_path: Path) -> None:
    """The library alone takes most of a minute for them."""
    path = str(config_of(tmp_path, 10_000))
    assert len(source_spaces(path)) == 10_008
    light = np.ones((1, 1, 3), np.float32)
    source_to_working("plain 9999", Colourway(config=path)).apply(light)
    assert own_views(path)
