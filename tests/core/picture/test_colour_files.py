"""Files that the colour library reads: whatever they hold, a sentence, and soon."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from zipfile import ZipFile, ZipInfo

import numpy as np
import pytest

from waxseal.core.errors import JobError
from waxseal.core.job.model import Colourway
from waxseal.core.picture.colour import grading, lut_files
from waxseal.core.picture.colour.cdlfiles import read_cdl
from waxseal.core.picture.colour.colour_file_states import config_states
from waxseal.core.picture.colour.colour_spaces import own_config, source_spaces, source_to_working
from waxseal.core.picture.colour.grading import lut_process
from waxseal.core.plan.filestates import state_of

CONFIG = """ocio_profile_version: 2
environment: {}
search_path: "."
roles: {default: raw, aces_interchange: aces}
file_rules:
  - !<Rule> {name: Default, colorspace: raw}
displays:
  sRGB:
    - !<View> {name: Raw, colorspace: raw}
colorspaces:
  - !<ColorSpace>
    name: raw
    isdata: true
  - !<ColorSpace> {name: aces}
  - !<ColorSpace>
    name: film
    to_scene_reference: !<GroupTransform> {children: [!<FileTransform> {src: NAME}]}
"""
CORRECTION = (
    '<ColorCorrection id="x"><SOPNode><Slope>SLOPE</Slope><Offset>0 0 0</Offset>'
    "<Power>1 1 1</Power></SOPNode></ColorCorrection>"
)
LAUGHS = "".join(f'<!ENTITY {chr(98 + n)} "{f"&{chr(97 + n)};" * 10}">' for n in range(9))


def read_lut(path: Path) -> None:
    light = np.full((2, 2, 3), 0.5, np.float32)
    lut_process(state_of(path)).apply(light)


READERS: dict[str, Callable[[Path], object]] = {
    "a.cube": read_lut,
    "a.cc": read_cdl,
    "a.ocio": lambda path: source_spaces(str(path)),
}


@pytest.mark.parametrize("name", READERS)
def test_a_pipe_or_a_device_is_refused_at_once(tmp_path: Path, name: str) -> None:
    os.mkfifo(tmp_path / name)
    with pytest.raises(JobError, match="is not an ordinary file"):
        READERS[name](tmp_path / name)
    (tmp_path / name).unlink()
    (tmp_path / name).symlink_to("/dev/zero")
    with pytest.raises(JobError, match="is not an ordinary file"):
        READERS[name](tmp_path / name)


@pytest.mark.parametrize("name", READERS)
def test_what_is_far_too_large_is_refused_before_it_is_read(
    tmp_path: Path, name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(lut_files, "LARGEST_BYTES", 1000)
    (tmp_path / name).write_bytes(b"0 0 0\n" * 1000)
    with pytest.raises(JobError, match=r"has 6\.0 kB, more than"):
        READERS[name](tmp_path / name)


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("a.cube", b""),
        ("a.cube", bytes(range(256)) * 100),
        ("a.cube", b"LUT_3D_SIZE 1000\n0 0 0\n"),
        ("a.cube", b"LUT_1D_SIZE 2000000000\n0 0 0\n"),
        ("a.cube", b"LUT_3D_SIZE -5\n0 0 0\n"),
        ("a.cc", b"<a>" * 10_000),
        ("a.cc", bytes(range(256)) * 100),
        ("a.cc", CORRECTION.replace("SLOPE", "nan inf 1e99").encode()),
        (
            "a.cc",
            f'<!DOCTYPE x [<!ENTITY a "ha">{LAUGHS}]>{CORRECTION.replace("SLOPE", "&j;")}'.encode(),
        ),
        (
            "a.cc",
            b'<!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/hostname">]>'
            + CORRECTION.replace("SLOPE", "&a;").encode(),
        ),
        ("a.ocio", b"ocio_profile_version: 2\n"),
        ("a.ocio", b"[" * 100_000),
        ("a.ocio", bytes(1000)),
    ],
)
def test_a_hostile_file_gets_a_sentence(tmp_path: Path, name: str, text: bytes) -> None:
    (tmp_path / name).write_bytes(text)
    with pytest.raises(JobError) as caught:
        READERS[name](tmp_path / name)
    assert "\n" not in str(caught.value)


def cube(*lines: str, size: str = "LUT_3D_SIZE 2") -> bytes:
    return "\n".join((f'TITLE "a look"\n# by hand\n{size}\nDOMAIN_MIN 0 0 0', *lines)).encode()


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (cube(*["0 0 0"] * 7), "should hold 8 colours and holds 7"),
        (cube(*["0 0 0"] * 9), "should hold 8 colours and holds 9"),
        (cube(*["0 0 0"] * 7, "0 0"), "Line 12 of a.cube is not three numbers"),
        (cube(*["0 0 0"] * 7, "0 0 1,5"), "Line 12 of a.cube is not three numbers"),
        (cube("9" * 1_000_000), "Line 5 of a.cube is not three numbers"),
        (cube("0 0 0", size="LUT_3D_SIZE 1000"), "states a size of 1000"),
        (cube("0 0 0", size="SIZE 2"), "states no size"),
    ],
)
def test_a_damaged_cube_is_said_without_trying_all_formats(
    tmp_path: Path, text: bytes, said: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "a.cube").write_bytes(text)
    monkeypatch.setattr(grading, "make_process", lambda *_: pytest.fail("the library was asked"))
    with pytest.raises(JobError, match=said):
        read_lut(tmp_path / "a.cube")


@pytest.mark.parametrize("end", ["\n", "\r\n", "\n\n"])
def test_whole_cubes_are_read_however_their_lines_end(tmp_path: Path, end: str) -> None:
    curve = ["0 0 0", "  1.0 1 1.e0"]
    both = ["LUT_1D_SIZE 2", "LUT_3D_SIZE 2", *curve, *["+.5 5E-1 0.5 "] * 8]
    (tmp_path / "a.cube").write_text(end.join(both) + end)
    light = np.full((1, 1, 3), 0.2, np.float32)
    lut_process(state_of(tmp_path / "a.cube")).apply(light)
    assert light == pytest.approx(0.5)


@pytest.mark.parametrize(
    "text",
    [
        "lut_3d_size 2\n" + "0.5 0.5 0.5\n" * 8,
        "LUT_3D_SIZE 2\n" + "0.5, 0.5,\t0.5,\n" * 8,
        "LUT_3D_SIZE 2\nLUT_3D_SIZE 2\n" + "0.5 0.5 0.5\n" * 8,
        "LUT_1D_SIZE 70000\n" + "0.5 0.5 0.5\n" * 70_000,
    ],
)
def test_what_the_library_reads_is_not_refused(tmp_path: Path, text: str) -> None:
    (tmp_path / "a.cube").write_text(text)
    light = np.full((1, 1, 3), 0.2, np.float32)
    lut_process(state_of(tmp_path / "a.cube")).apply(light)
    assert light == pytest.approx(0.5)


def test_a_config_that_names_a_device_is_refused(tmp_path: Path) -> None:
    (tmp_path / "a.ocio").write_text(CONFIG.replace("NAME", "/dev/zero"))
    with pytest.raises(JobError, match="zero is not an ordinary file"):
        own_config(str(tmp_path / "a.ocio"))
    (tmp_path / "b.ocio").write_text(CONFIG.replace("NAME", "not-there.cube"))
    assert source_spaces(str(tmp_path / "b.ocio")) == ("raw", "aces", "film")
    needed = Colourway(config=str(tmp_path / "b.ocio"))
    with pytest.raises(JobError, match="not-there"):
        source_to_working("film", needed)


ONES = (("sh010", "1.5 1.5 1.5"), ("sh020", "0.5 0.5 0.5"))
SHOTS = CONFIG.replace("{src: NAME}", '{src: grades.ccc, cccid: "${SHOT}"}')
GRADES = (
    "<ColorCorrectionCollection>"
    + "".join(CORRECTION.replace("x", shot).replace("SLOPE", slope) for shot, slope in ONES)
    + "</ColorCorrectionCollection>"
)


def test_a_variable_that_a_config_grades_by_is_part_of_what_is_made(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A config that grades each shot by the environment: other pictures are not taken for these."""
    (tmp_path / "config.ocio").write_text(SHOTS.replace("environment: {}", "environment: {SHOT: }"))
    (tmp_path / "grades.ccc").write_text(GRADES)
    states = []
    for shot in ("sh010", "sh020", "sh010"):
        monkeypatch.setenv("SHOT", shot)
        states.append(config_states(str(tmp_path / "config.ocio")))
    assert states[0] == states[2] != states[1]
    assert any(str(tmp_path / "grades.ccc") in repr(one) for one in states[0])


def test_a_file_of_transforms_brings_no_other_along(tmp_path: Path) -> None:
    text = (
        '<ProcessList version="1.7" id="a"><Reference inBitDepth="32f" outBitDepth="32f" '
        'path="/dev/zero"/></ProcessList>'
    )
    (tmp_path / "a.ctf").write_text(text)
    with pytest.raises(JobError, match="reads another file"):
        read_lut(tmp_path / "a.ctf")
    (tmp_path / "config.ocio").write_text(CONFIG.replace("NAME", "a.ctf"))
    with pytest.raises(JobError, match="reads another file"):
        lut_files.read_config(str(tmp_path / "config.ocio"))


HALVING = "Version 1\nFrom 0 1\nLength 2\nComponents 1\n{\n0.0\n0.5\n}\n"
REFERRING = '<ProcessList id="a" compCLFversion="3"><Reference path="b.ctf"/></ProcessList>'


def config_naming(folder: Path, name: str, search: str = "luts") -> Path:
    folder.mkdir(exist_ok=True)
    path = folder / "config.ocio"
    text = CONFIG.replace('search_path: "."', f'search_path: "{search}"').replace("NAME", name)
    path.write_text(text)
    return path


def halved(config: Path) -> float:
    light = np.ones((1, 1, 3), np.float32)
    source_to_working("film", Colourway(config=str(config))).apply(light)
    return float(light[0, 0, 0])


def archived(folder: Path, members: dict[str, str | ZipInfo]) -> Path:
    path = folder / "a.ocioz"
    with ZipFile(path, "w") as archive:
        for name, text in members.items():
            archive.writestr(name, text) if isinstance(text, str) else archive.writestr(text, "x")
    return path


def test_an_archive_is_a_config_with_its_files(tmp_path: Path) -> None:
    text = config_naming(tmp_path / "c", "half.spi1d").read_text()
    path = archived(tmp_path, {"config.ocio": text, "luts/half.spi1d": HALVING})
    assert halved(path) == pytest.approx(0.5)
    before = config_states(str(path))
    assert len(before) == 2  # the archive, and the variables: none
    archived(tmp_path, {"config.ocio": text, "luts/half.spi1d": HALVING.replace("0.5", "0.25")})
    os.utime(path, (1, 1))
    assert config_states(str(path)) != before
    assert halved(path) == pytest.approx(0.25)


def test_a_variable_in_an_archive_is_part_of_what_is_made(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    text = config_naming(tmp_path / "c", "${SHOT}.spi1d").read_text()
    path = archived(tmp_path, {"config.ocio": text, "luts/a.spi1d": HALVING})
    monkeypatch.setenv("SHOT", "a")
    before = config_states(str(path))
    monkeypatch.setenv("SHOT", "b")
    assert config_states(str(path)) != before


def link() -> ZipInfo:
    member = ZipInfo("luts/half.spi1d")
    member.external_attr = 0o120777 << 16
    return member


def large() -> str:
    return "0" * (64 * 1024 * 1024 + 1)


HOSTILE: dict[str, tuple[dict[str, Callable[[], str | ZipInfo]], str]] = {
    "nothing in it": ({}, "holds no config.ocio"),
    "one that leads out": ({"../a.spi1d": lambda: HALVING}, "leads out of it"),
    "one from the root": ({"/etc/a": lambda: HALVING}, "leads out of it"),
    "a link": ({"luts/half.spi1d": link}, "no ordinary file"),
    "one that is huge": ({"luts/half.spi1d": large}, "more than any LUT"),
}


@pytest.mark.parametrize("name", HOSTILE)
def test_a_hostile_archive_gets_a_sentence(tmp_path: Path, name: str) -> None:
    members, says = HOSTILE[name]
    text = config_naming(tmp_path / "c", "half.spi1d").read_text()
    made = {one: make() for one, make in members.items()}
    path = archived(tmp_path, {"config.ocio": text, **made} if made else {"a": "b"})
    with pytest.raises(JobError, match=says):
        own_config(str(path))


@pytest.mark.parametrize(
    ("name", "says"),
    [
        ("absent.spi1d", "cannot be read"),
        ("/etc/hostname", "outside its folders"),
        ("a.ctf", "reads another file"),
    ],
)
def test_an_archive_names_what_is_in_it_alone(tmp_path: Path, name: str, says: str) -> None:
    text = config_naming(tmp_path / "c", name).read_text()
    path = archived(tmp_path, {"config.ocio": text, "luts/a.ctf": REFERRING})
    with pytest.raises(JobError, match=says):
        halved(path)


def test_what_is_no_archive_gets_a_sentence(tmp_path: Path) -> None:
    (tmp_path / "a.ocioz").write_bytes(b"PK\3\4 and no more")
    with pytest.raises(JobError, match="no archive"):
        own_config(str(tmp_path / "a.ocioz"))


@pytest.mark.parametrize(
    ("name", "search", "is_taken"),
    [
        ("half.spi1d", "luts", True),
        ("half.spi1d", "../shared", True),  # where the config itself says that it looks
        ("../beside/half.spi1d", "luts", False),
        ("ABSOLUTE", "luts", False),
    ],
)
def test_a_config_reads_from_its_folders_alone(
    tmp_path: Path, name: str, search: str, *, is_taken: bool
) -> None:
    for folder in ("c/luts", "shared", "beside"):
        (tmp_path / folder).mkdir(parents=True)
        (tmp_path / folder / "half.spi1d").write_text(HALVING)
    absolute = str(tmp_path / "beside" / "half.spi1d")
    name = name.replace("ABSOLUTE", absolute).replace("../beside", "../../beside")
    config = config_naming(tmp_path / "c", name, search)
    if is_taken:
        assert halved(config) == pytest.approx(0.5)
    else:
        with pytest.raises(JobError, match="outside its folders"):
            own_config(str(config))
