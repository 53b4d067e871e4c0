"""`assemble` with looks, views, passes: what comes out is measured in the decoded file."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest

from tests.cli.test_commands import answer, run
from waxseal.core.frames.frame_writer import write_pixels


@pytest.fixture
def grey(tmp_path: Path) -> Path:
    """Twelve frames of scene-linear middle grey."""
    folder = tmp_path / "frames"
    folder.mkdir()
    for frame in range(1, 13):
        write_pixels(folder / f"a.{frame:04d}.exr", np.full((90, 160, 3), 0.18, np.float16))
    return folder


def luma(file: Path) -> float:
    """The mean Y' of the first frame of a file."""
    with av.open(str(file)) as container:
        first = next(container.decode(video=0))
        return float(first.to_ndarray()[: first.height].mean())


def code(light: float) -> float:
    """Y' of a grey of this light behind the sRGB curve, 8-bit limited range."""
    encoded = float(1.055 * light ** (1 / 2.4) - 0.055)
    return 16 + 219 * min(1.0, encoded)


@pytest.mark.parametrize(
    ("words", "light"),
    [
        ((), 0.18),
        (("--exposure", "1"), 0.36),
        (("--gamma", "2"), 0.18**0.5),
        (("--exposure", "-1", "--gamma", "2"), 0.09**0.5),
    ],
)
def test_a_look_is_in_the_file(
    grey: Path, tmp_path: Path, words: tuple[str, ...], light: float
) -> None:
    out = tmp_path / "film.mp4"
    done = run("assemble", grey, "--out", out, "--rate", "24", *words, "--json")
    assert answer(done)["state"] == "sealed", done.stderr
    assert luma(out) == pytest.approx(code(light), abs=1.2)


@pytest.mark.parametrize("codec", ["AV1", "H.265", "VP9"])
def test_a_library_does_not_talk_into_ours(grey: Path, tmp_path: Path, codec: str) -> None:
    done = run("assemble", grey, "--out", tmp_path / "x.mkv", "--rate", "24", "--codec", codec)
    assert done.returncode == 0, done.stderr
    ours = ("looking", "a.####.exr", "encoding", "checking", "sealed", "frames, 160")
    assert all(line.startswith(ours) for line in done.stderr.splitlines() if line), done.stderr


def test_an_aces_view_rolls_off_and_bt1886_has_other_codes(grey: Path, tmp_path: Path) -> None:
    plain, aces, wide = (tmp_path / f"{name}.mp4" for name in ("plain", "aces", "wide"))
    for out, more in ((plain, ()), (aces, ("--view", "aces sdr")), (wide, ("--space", "BT.709"))):
        done = run("assemble", grey, "--out", out, "--rate", "24", *more)
        assert done.returncode == 0, done.stderr
    assert luma(aces) < luma(plain) - 10
    assert luma(wide) == pytest.approx(16 + 219 * 0.18 ** (1 / 2.4), abs=1.2)


def test_a_lut_and_a_burn_in(grey: Path, tmp_path: Path) -> None:
    cube = tmp_path / "dark.cube"
    lines = ["LUT_3D_SIZE 2"]
    lines += [f"{r / 2} {g / 2} {b / 2}" for b in (0, 1) for g in (0, 1) for r in (0, 1)]
    cube.write_text("\n".join(lines))
    out = tmp_path / "film.mp4"
    done = run("assemble", grey, "--out", out, "--rate", "24", "--lut", cube)
    assert done.returncode == 0, done.stderr
    assert luma(out) == pytest.approx(16 + (code(0.18) - 16) / 2, abs=1.2)
    done = run(
        "assemble", grey, "--out", out, "--overwrite", "--rate", "24", "--burn-in", "{timecode}"
    )
    assert done.returncode == 0, done.stderr
    with av.open(str(out)) as container:
        first = next(container.decode(video=0)).to_ndarray()[:90]
    assert first.max() > 160
    assert first[:60].max() < 130


def test_passes_are_put_together(tmp_path: Path) -> None:
    folder = tmp_path / "frames"
    folder.mkdir()
    for frame in range(1, 5):
        for kind, light in (("diffuse", 0.1), ("specular", 0.3)):
            values = np.full((90, 160, 3), light, np.float16)
            write_pixels(folder / f"sh_{kind}.{frame:04d}.exr", values)
    out = tmp_path / "film.mp4"
    done = run("assemble", folder, "--out", out, "--rate", "24", "--passes")
    assert done.returncode == 0, done.stderr
    assert luma(out) == pytest.approx(code(0.4), abs=1.2)
    assert "is a guess" not in done.stderr  # a pass goes at the rate of what it is a pass of


def test_light_taken_as_graphics_is_not_touched_by_the_view(grey: Path, tmp_path: Path) -> None:
    out = tmp_path / "film.mp4"
    view = ("--view", "ACES SDR", "--taken-as", "graphics")
    done = run("assemble", grey, "--out", out, "--rate", "24", *view)
    assert done.returncode == 0, done.stderr
    assert luma(out) == pytest.approx(code(0.18), abs=1.2)


def test_a_space_of_the_config_by_its_name(grey: Path, tmp_path: Path) -> None:
    out = tmp_path / "film.mp4"
    done = run("assemble", grey, "--out", out, "--rate", "24", "--colour", "acescct")
    assert done.returncode == 0, done.stderr
    assert luma(out) < code(0.18) - 20


@pytest.mark.parametrize(
    ("option", "value", "words"),
    [
        ("--view", "cinema", "choose one of plain"),
        ("--taken-as", "light", "--taken-as light: choose one of scene, graphics"),
        ("--graphics-white", "120", "choose one of 203, 100"),
        ("--space", "BT.2020 PQ", "H.264 cannot carry BT.2020 PQ"),
        ("--codec", "EXR", "go into a folder, name it film"),
        ("--codec", "DV", "choose one of H.264, H.265, "),
        ("--lut", "gone.cube", "is not there any more"),
        ("--colour", "purple", "not a known colour"),
        ("--config", "gone.ocio", "not there"),
        ("--exposure", "99", "20 or less"),
        ("--passes", None, "has no passes"),
    ],
)
def test_what_cannot_be_meant_gets_a_sentence(
    grey: Path, tmp_path: Path, option: str, value: str | None, words: str
) -> None:
    more = [option] if value is None else [option, value]
    done = run("assemble", grey, "--out", tmp_path / "film.mp4", "--rate", "24", *more)
    assert done.returncode in (1, 2)
    assert words in done.stderr
    assert not (tmp_path / "film.mp4").exists()


def test_light_goes_out_as_frames(grey: Path, tmp_path: Path) -> None:
    out = tmp_path / "light"
    frames = ("assemble", grey, "--out", out, "--rate", "24", "--codec", "exr")
    assert "leave out --quality" in run(*frames, "--quality", "good").stderr
    assert "EXR cannot carry sRGB" in run(*frames, "--space", "sRGB").stderr
    assert not out.exists()
    done = run(*frames, "--json")
    assert done.returncode == 0, done.stderr
    assert answer(done)["codec"] == "exr"
    assert run("check", out).returncode == 0
