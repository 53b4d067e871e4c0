"""The passes of a shot: told from shots of their own, and laid on the reel only once."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.making import job_of, write_sequence
from waxseal.core.arrive.scanning import scan
from waxseal.core.job.edits import passes_for
from waxseal.core.job.model import Colour, Sequence
from waxseal.core.job.passes import PassKind, pass_name


@pytest.mark.parametrize(
    ("name", "said"),
    [
        ("sh010_diffuse.", (PassKind.DIFFUSE, "sh010")),
        ("sh010.Specular_", (PassKind.SPECULAR, "sh010")),
        ("depth", (PassKind.DEPTH, "")),
        ("Z_sh010", (PassKind.DEPTH, "sh010")),
        ("film_sh010_ao_", (PassKind.OCCLUSION, "film_sh010")),
        ("sh010_emission.", (PassKind.EMISSION, "sh010")),
        ("adopted.", None),  # begins with two letters of a pass, and is none
        ("sh010_zebra.", None),
        ("", None),
    ],
)
def test_a_name_says_which_pass_it_is(name: str, said: tuple[PassKind, str] | None) -> None:
    found = pass_name(name)
    assert (found and (found.kind, found.rest)) == said


def kinds_in(folder: Path) -> dict[str, str]:
    """Each sequence's pass and the shot it belongs to."""
    return {
        source.name: f"{source.belongs.kind} of {source.belongs.shot}" if source.belongs else ""
        for source in scan([folder]).sources
        if isinstance(source, Sequence)
    }


def test_passes_beside_each_other_belong_together(tmp_path: Path) -> None:
    for name in ("beauty", "diffuse", "specular", "depth"):
        write_sequence(tmp_path, f"sh010_{name}.%04d.png")
    write_sequence(tmp_path, "sh020.%04d.png")
    assert kinds_in(tmp_path) == {
        "sh010_beauty": "beauty of sh010",
        "sh010_depth": "depth of sh010",
        "sh010_diffuse": "diffuse of sh010",
        "sh010_specular": "specular of sh010",
        "sh020": "",
    }


@pytest.mark.parametrize(
    "pattern",
    [
        *("{0}/{0}.%04d.png", "{0}/sh.%04d.png", "{0}/sh_{0}.%04d.png", "{0}_sh.%04d.png"),
        *("sh/{0}/sh_{0}.%04d.png", "sh_{0}/sh_{0}.%04d.png", "sh.{0}/f.%04d.png"),
        *("sh_v003/{0}/a.%04d.png", "sh_v003/{0}/sh_v003_{0}.%04d.png", "sh_v003_{0}.%04d.png"),
    ],
)
def test_every_usual_layout_of_passes_is_one_shot(tmp_path: Path, pattern: str) -> None:
    kinds = ("beauty", "diffuse", "specular", "ao")
    for kind in kinds:
        folder, _, name = pattern.format(kind).rpartition("/")
        write_sequence(tmp_path / folder, name, frames=range(1, 3))
    said = [one.belongs for one in scan([tmp_path]).sources if isinstance(one, Sequence)]
    assert len(said) == len(kinds)
    assert len({one.shot for one in said if one}) == 1
    assert len({one.kind for one in said if one}) == len(kinds)
    job = job_of(tmp_path)
    assert len(job.reel.shots) == 1
    assert passes_for(job, job.reel.shots[0].source) is not None


def test_passes_in_folders_of_their_own_belong_together(tmp_path: Path) -> None:
    for name in ("diffuse", "specular", "shadow"):
        write_sequence(tmp_path / "sh010" / name, "f.%04d.png")
    said = [one.belongs for one in scan([tmp_path / "sh010"]).sources if isinstance(one, Sequence)]
    assert {(one.kind, one.shot) for one in said if one} == {
        (PassKind.DIFFUSE, "f"),
        (PassKind.SPECULAR, "f"),
        (PassKind.SHADOW, "f"),
    }


def test_what_only_looks_like_passes_is_left_alone(tmp_path: Path) -> None:
    write_sequence(tmp_path, "a_diffuse.%04d.png")
    write_sequence(tmp_path, "b_specular.%04d.png")  # of another shot
    write_sequence(tmp_path, "c_matte.%04d.png", width=32)
    write_sequence(tmp_path, "c_beauty.%04d.png")  # of another size
    write_sequence(tmp_path, "d_beauty.%04d.png")
    write_sequence(tmp_path, "d_shadow.%04d.png", frames=range(50, 60))  # of other frames
    assert set(kinds_in(tmp_path).values()) == {""}


def test_only_one_pass_of_a_shot_is_laid_on_the_reel(tmp_path: Path) -> None:
    for name in ("beauty", "depth", "diffuse"):
        write_sequence(tmp_path / "f", f"sh010_{name}.%04d.png")
    write_sequence(tmp_path / "f", "sh020.%04d.png")
    job = job_of(tmp_path / "f")
    assert [job.sequence(shot.source).name for shot in job.reel.shots] == ["sh010_beauty", "sh020"]
    for name in ("diffuse", "specular", "normal"):
        write_sequence(tmp_path / "g", f"sh030_{name}.%04d.png")
    job = job_of(tmp_path / "g")
    assert [job.sequence(shot.source).name for shot in job.reel.shots] == ["sh030_diffuse"]


def test_the_values_of_a_matte_are_read_as_they_are(tmp_path: Path) -> None:
    for name in ("beauty", "matte"):
        write_sequence(tmp_path, f"sh010_{name}.%04d.png")
    colours = {source.name: source.reading.colour.value for source in job_of(tmp_path).sequences}
    assert colours == {"sh010_beauty": Colour.SRGB, "sh010_matte": Colour.RAW}


LAYOUTS = (
    "sh010/{0}/sh010.%04d.exr",
    "sh010/sh010_{0}.%04d.exr",
    "sh010/{0}/sh010_{0}.%04d.exr",
    "sh010/{0}_sh010.%04d.exr",
    "sh010/{0}/{0}_sh010.%04d.exr",
    "sh010/sh010_{0}_v003.%04d.exr",
    "sh010/sh010_v003_{0}.%04d.exr",
    "sh010/v003/{0}/sh010_{0}_v003.%04d.exr",
    "sh010/{0}/v003/sh010_{0}_v003.%04d.exr",
    "sh010/{0}/v003/{0}.%04d.exr",
    "sh010/{0}/{0}.%04d.exr",
    "sh010/{0}/%04d.exr",
    "sh010_{0}/sh010_{0}.%04d.exr",
    "sh010_{0}_v003/sh010_{0}_v003.%04d.exr",
    "sh010/{0}/sh010.{0}.%04d.exr",
)


@pytest.mark.parametrize("layout", LAYOUTS)
@pytest.mark.parametrize("beauty", ["beauty", "rgba"])
def test_every_usual_layout_of_passes_is_one_stack_a_shot(
    tmp_path: Path, layout: str, beauty: str
) -> None:
    """Common practice, no source: the pass in the folder, in the file, in both, with versions."""
    for shot in ("sh010", "sh020"):
        for name in (beauty, "diffuse", "depth"):
            file = tmp_path / layout.format(name).replace("sh010", shot)
            write_sequence(file.parent, file.name, frames=range(1, 3), width=16, height=16)
    sources = scan([tmp_path]).sources
    kinds: dict[str, set[PassKind]] = {}
    for one in sources:
        assert isinstance(one, Sequence)
        assert one.belongs is not None, one.name
        kinds.setdefault(one.belongs.shot[:5], set()).add(one.belongs.kind)
    stack = {PassKind.BEAUTY, PassKind.DIFFUSE, PassKind.DEPTH}
    assert kinds == {"sh010": stack, "sh020": stack}
