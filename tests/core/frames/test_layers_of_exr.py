"""EXR files that hold layers: which one is the picture, what is data, what can be put together."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from tests.making import job_of, write_layers
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.match import State, match, notes_in
from waxseal.core.frames.headers.exr_parts import parts_of
from waxseal.core.job.edits import change_reading, make_stack, set_part
from waxseal.core.job.layers import chosen_picture, layer_name
from waxseal.core.job.model import Operation, Origin, Sequence
from waxseal.core.job.passes import PassKind
from waxseal.core.picture.inspection.pass_comparison import compare_stack
from waxseal.core.plan.programme import programme

RGB = ("R", "G", "B")


def chosen(*layers: str) -> tuple[str, bool]:
    """The layer that is taken, and whether that is a guess; `Z` and `n.XYZ` are channels."""
    channels = []
    for layer in layers:
        name, _, letters = layer.partition(":")
        channels += [f"{name}.{one}" if name else one for one in letters or "RGB"]
    found = chosen_picture(parts_of([("", tuple(channels))]))
    return found.part.name, found.is_guess


@pytest.mark.parametrize(
    ("layers", "taken", "is_guess"),
    [
        (("beauty", "diffuse", "ao"), "beauty", False),
        (("View.AO", "View.Combined", "View.Depth:Z"), "View.Combined", False),
        (("N", "beauty"), "beauty", False),
        (("ao", ""), "", False),
        (("", "beauty"), "", False),
        (("crypto00", "rgba", "z:Z"), "rgba", False),
        (("Main", "diffuse"), "Main", False),
        (("layer1.color", "layer1.mask"), "layer1.color", False),
        (("left.final", "left.spec"), "left.final", False),
        (("View.Combined", "Composite.Combined"), "Composite.Combined", False),
        (("Combined", "Combined_key", "Combined_fill"), "Combined", False),
        (("diffuse", "depth:Z", "N:XYZ", "uv:UV"), "diffuse", False),
        (("P:XYZ", "hero"), "hero", False),
        (("normal", "position", "motion", "id", "uv", "fog"), "fog", False),
        (("diffuse", "specular"), "diffuse", True),
        (("foo", "bar"), "bar", True),
        (("View1.Combined", "View2.Combined"), "View1.Combined", True),
        (("N", "P"), "N", True),
    ],
)
def test_the_picture_among_layers(layers: tuple[str, ...], taken: str, is_guess: bool) -> None:
    assert chosen(*layers) == (taken, is_guess)
    assert chosen(*reversed(layers))[1] == is_guess


@pytest.mark.parametrize(
    ("name", "kind", "split"),
    [
        ("View.DiffDir", PassKind.DIFFUSE, "direct"),
        ("GlossInd", PassKind.SPECULAR, "indirect"),
        ("View.TransCol", PassKind.SURFACE, "refraction"),
        ("diffuse_indirect", PassKind.DIFFUSE, "indirect"),
        ("direct_specular", PassKind.SPECULAR, "direct"),
        ("Env", PassKind.ENVIRONMENT, ""),
        ("lg_key", PassKind.LIGHT_GROUP, "key"),
        ("Combined_key", PassKind.LIGHT_GROUP, "key"),
        ("View.Emit", PassKind.EMISSION, ""),
        ("CryptoObject00", PassKind.ID, ""),
        ("IndexOB", PassKind.ID, ""),
        ("UV", PassKind.UV, ""),
        ("final_diffuse", PassKind.DIFFUSE, ""),
        ("Composite.Depth", PassKind.DEPTH, ""),
        ("left.final", PassKind.BEAUTY, ""),
        ("sh010.beauty", PassKind.BEAUTY, ""),
    ],
)
def test_what_the_name_of_a_layer_says(name: str, kind: PassKind, split: str) -> None:
    said = layer_name(name)
    assert said is not None
    assert (said.kind, said.split) == (kind, split)


def plain(value: float, channels: int = 3) -> np.ndarray:
    return np.full((18, 32, channels), value, np.float16)


def only(folder: Path) -> Sequence:
    (source,) = scan([folder]).sources
    assert isinstance(source, Sequence)
    return source


def test_the_beauty_is_shown_and_named(tmp_path: Path) -> None:
    layers = {"ao": plain(0.9), "beauty": plain(0.25, 4), "diffuse": plain(0.1)}
    source = only(write_layers(tmp_path / "a", layers))
    told = source.reading.part
    assert (told.value, told.origin) == ("beauty", Origin.WRITTEN)
    assert source.reading.alpha.value == "premultiplied"
    shot = programme(job_of(tmp_path / "a")).recipe(1).shot
    assert shot is not None
    assert shot.shown.read.part == "beauty"  # type: ignore[union-attr]


def test_what_can_be_any_of_several_is_asked_for(tmp_path: Path) -> None:
    folder = write_layers(tmp_path / "a", {"left": plain(0.2), "right": plain(0.3)})
    job = job_of(folder)
    assert job.sequences[0].is_part_guessed
    rows = match(programme(job), job.deliveries[0])
    assert rows[0].state is State.DECIDE
    assert "a holds left, right: several can be the picture" in notes_in(rows)[0]
    said = set_part(job, source="s1", part="right")
    assert not said.sequences[0].is_part_guessed
    assert "left" not in " ".join(notes_in(match(programme(said), said.deliveries[0])))


def test_light_that_was_split_adds_up_to_the_beauty(tmp_path: Path) -> None:
    """Direct and indirect light times the colour that it falls on, as one file holds them."""
    chance = np.random.default_rng(3)
    layers = {
        name: chance.random((18, 32, 3)).astype(np.float16)
        for name in (
            *("V.DiffDir", "V.DiffInd", "V.DiffCol", "V.GlossDir", "V.GlossInd", "V.GlossCol"),
            *("V.Emit", "V.Env", "V.Normal"),
        )
    }
    light = {name: values.astype(np.float32) for name, values in layers.items()}
    whole = (
        (light["V.DiffDir"] + light["V.DiffInd"]) * light["V.DiffCol"]
        + (light["V.GlossDir"] + light["V.GlossInd"]) * light["V.GlossCol"]
        + light["V.Emit"]
        + light["V.Env"]
    )
    alpha = chance.random((18, 32, 1)).astype(np.float16)
    layers["V.Combined"] = np.concatenate([whole.astype(np.float16), alpha], axis=2)
    job = job_of(write_layers(tmp_path / "a", layers))
    job = make_stack(job, source="s1")
    stack = job.sequences[0].stack
    assert stack is not None
    assert stack.beauty == "s1"
    assert [one.operation for one in stack.passes][-1] is Operation.ALPHA
    assert len(stack.passes) == 7
    compared = compare_stack(job, "s1", [1, 2])
    assert compared.is_equal, compared.words


def test_light_groups_add_up_where_kinds_do_not(tmp_path: Path) -> None:
    layers = {"rgba": plain(0.75), "lg_key": plain(0.5), "lg_fill": plain(0.25), "Z": plain(1)}
    job = make_stack(job_of(write_layers(tmp_path / "a", layers)), source="s1")
    stack = job.sequences[0].stack
    assert stack is not None
    assert {one.part for one in stack.passes} == {"lg_key", "lg_fill"}
    assert compare_stack(job, "s1", [1, 2]).is_equal


def test_a_rate_is_no_layer(tmp_path: Path) -> None:
    """One layer alone, and files of one picture, are not asked about."""
    for number, layers in enumerate(({"": plain(0.5)}, {"hero": plain(0.5)})):
        source = only(write_layers(tmp_path / str(number), layers))
        assert not source.is_part_guessed
    job = change_reading(job_of(tmp_path / "0"), source="s1", rate=Fraction(24))
    assert job.sequences[0].reading.part.value == ""
