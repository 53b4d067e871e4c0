from __future__ import annotations

import random
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from waxseal.core.arrive.file_names import natural_key, recognise, with_others


@pytest.mark.parametrize(
    ("more", "strays"),
    [
        (["a.7.png"], ((7, "a.7.png"),)),
        (["a.0007.jpg", "a.00009.png"], ((7, "a.0007.jpg"), (9, "a.00009.png"))),
        (["a.000021.png"], ()),  # a number that the long one has not
        ([f"a.{n:04}.jpg" for n in range(1, 17)], ()),  # a sequence of its own
        (["b.7.png"], ()),
    ],
)
def test_a_few_files_of_the_same_numbers_stray(
    more: list[str], strays: tuple[tuple[int, str], ...]
) -> None:
    names = [f"a.{n:04}.png" for n in range(1, 17)]
    sequences = recognise([*names, *more])
    longest = max(sequences, key=lambda one: len(one.numbers))
    assert longest.strays == strays
    assert len(sequences) == 1 if strays else 2


def found(names: list[str]) -> list[tuple[str, int, str, tuple[int, ...]]]:
    return [(one.prefix, one.padding, one.suffix, one.numbers) for one in recognise(names)]


@pytest.mark.parametrize(
    ("names", "expected"),
    [
        (["name.0001.exr", "name.0002.exr"], [("name.", 4, ".exr", (1, 2))]),
        (["name_0001.png", "name_0003.png"], [("name_", 4, ".png", (1, 3))]),
        (["name 1.jpg", "name 2.jpg", "name 10.jpg"], [("name ", 1, ".jpg", (1, 2, 10))]),
        (["name-1.png", "name-2.png"], [("name-", 1, ".png", (1, 2))]),
        (["0001.png", "0002.png"], [("", 4, ".png", (1, 2))]),
        (["v2_shot03_0001.tif", "v2_shot03_0002.tif"], [("v2_shot03_", 4, ".tif", (1, 2))]),
        (["a.1001.exr", "a.1002.exr"], [("a.", 4, ".exr", (1001, 1002))]),
        (["a.0999.exr", "a.1000.exr", "a.10000.exr"], [("a.", 4, ".exr", (999, 1000, 10_000))]),
        (["a.-2.png", "a.-1.png", "a.0.png"], [("a.", 1, ".png", (-2, -1, 0))]),
        (["-0003.png", "-0002.png"], [("", 4, ".png", (-3, -2))]),
        (["title.png"], [("title", 0, ".png", (1,))]),
        (["still_20240131.png"], [("still_20240131", 0, ".png", (1,))]),
    ],
)
def test_sequences_are_recognised(
    names: list[str], expected: list[tuple[str, int, str, tuple[int, ...]]]
) -> None:
    assert found(names) == expected
    shuffled = names[:]
    random.Random(3).shuffle(shuffled)  # noqa: S311 - an order, no secret
    assert found(shuffled) == expected


def test_two_that_differ_only_in_padding_are_two() -> None:
    assert found(["x.0001.png", "x.0002.png", "x.1.png", "x.2.png"]) == [
        ("x.", 4, ".png", (1, 2)),
        ("x.", 1, ".png", (1, 2)),
    ]


def test_several_mixed_in_one_folder_come_in_natural_order() -> None:
    names = ["sh10.0001.exr", "sh2.0001.exr", "sh2.0001.png", "sh10.0002.exr"]
    assert [(one.prefix, one.suffix) for one in recognise(names)] == [
        ("sh2.", ".exr"),
        ("sh2.", ".png"),
        ("sh10.", ".exr"),
    ]


def test_a_sign_may_take_a_place_of_the_padding() -> None:
    (one,) = recognise(["n.-001.exr", "n.0000.exr", "n.0001.exr"])
    assert one.sign_is_padding
    assert one.numbers == (-1, 0, 1)


names_alike = st.tuples(
    st.sampled_from(["", "shot.", "shot_", "a b-", "ü%04d.", "v2_"]),
    st.integers(1, 6),
    st.sets(st.integers(-300, 3_000), min_size=1, max_size=30),
)


@given(names_alike)
def test_every_file_is_found_again_under_its_name(alike: tuple[str, int, set[int]]) -> None:
    prefix, padding, numbers = alike
    if prefix and prefix[-1] not in "._- ":
        prefix += "."
    if prefix.endswith("-"):
        numbers = {abs(number) for number in numbers}
    names = {
        f"{prefix}{'-' if number < 0 else ''}{abs(number):0{padding}}.png" for number in numbers
    }
    again = {
        one.files_in(Path("/x")).name_of(number)
        for one in recognise(names)
        for number in one.numbers
    }
    assert again == names


def test_natural_order() -> None:
    assert sorted(["a10", "a2", "A1", "b"], key=natural_key) == ["A1", "a2", "a10", "b"]


def test_what_belongs_to_nothing_is_told_of_the_sequence_it_is_named_after() -> None:
    found = recognise(["b.1.png", "b.2.png", "b.fog.1.png", "b.fog.2.png"])
    names = ["notes.txt", "b.3.png.part", "b.fog.2.png~"]
    beside = {one.prefix: one.others for one in with_others(found, names)}
    assert beside == {"b.": ("b.3.png.part", "notes.txt"), "b.fog.": ("b.fog.2.png~",)}
    assert with_others([], names) == []
