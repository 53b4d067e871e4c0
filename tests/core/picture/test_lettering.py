"""Text on a picture: a font is a file like any other, and may be damaged, replaced or no file."""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import pytest

from waxseal.core.errors import JobError
from waxseal.core.job.corrections import Text, TextPlace
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.finish import lettering
from waxseal.core.picture.finish.lettering import draw_text, own_font
from waxseal.core.picture.framing import Box
from waxseal.core.plan.filestates import state_of

LONG = "The Brass Orrery, an open night at Tarn Hill Observatory with all of its planets"


WORDS = "The Brass Orrery, Änderung 12345"


def drawn(font: Path | None) -> Light:
    light = np.zeros((135, 240, 4), np.float32)
    return draw_text(light, Text(words=WORDS, font=str(font or ""), size=80))


def damaged(seed: int) -> bytes:
    """Our own font, cut short or with some bytes of one of its tables changed."""
    chance = np.random.default_rng(seed)
    content = bytearray(Path(own_font()).read_bytes())
    if chance.random() < 0.2:
        return bytes(content[: chance.integers(len(content))])
    table = 12 + 16 * chance.integers(int.from_bytes(content[4:6], "big"))
    first, length = (int.from_bytes(content[table + at :][:4], "big") for at in (8, 12))
    for _ in range(chance.choice([1, 3, 10, 60])):
        content[first + chance.integers(min(length, 64))] = chance.choice([0, 127, 128, 255])
    return bytes(content)


def test_a_damaged_font_is_drawn_or_named(tmp_path: Path) -> None:
    named = []
    for seed in range(120):
        font = tmp_path / f"{seed}.ttf"
        font.write_bytes(damaged(seed))
        try:
            assert np.isfinite(drawn(font)).all()
        except JobError as error:
            named.append((str(error), f"{font.name} cannot be used as a font: choose another."))
    assert len(named) > 5
    assert all(said == meant for said, meant in named)


def test_what_is_no_font_is_named(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe.ttf")
    for name, why in (
        ("pipe.ttf", "The font pipe.ttf cannot be read: it is not an ordinary file."),
        ("gone.ttf", "The font gone.ttf is not there any more: choose it again."),
    ):
        with pytest.raises(JobError) as caught:
            drawn(tmp_path / name)
        assert str(caught.value) == why


def test_a_font_that_was_replaced_is_read_again(tmp_path: Path) -> None:
    font = tmp_path / "a.ttf"
    font.write_bytes(b"no font")
    with pytest.raises(JobError):
        drawn(font)
    font.write_bytes(Path(own_font()).read_bytes())
    assert np.array_equal(drawn(font), drawn(None))


@pytest.mark.parametrize("place", list(TextPlace))
@pytest.mark.parametrize("words", ["gjpqy Å", LONG, "one\n\ntwo"])
def test_text_changes_its_own_part_of_a_picture_as_if_it_were_drawn_on_all_of_it(
    monkeypatch: pytest.MonkeyPatch, place: TextPlace, words: str
) -> None:
    text = Text(words=words, place=place, size=70, shade=0.5, colour="#f0d9a0")
    pictures = np.random.default_rng(3).random((2, 90, 161, 4), np.float32)
    pictures[1] = pictures[0]
    lettering.draw_text(pictures[0], text)
    monkeypatch.setattr(lettering, "room_for", lambda _, size: Box(0, 0, *size))
    lettering.draw.cache_clear()
    lettering.draw_text(pictures[1], text)
    lettering.draw.cache_clear()
    np.testing.assert_array_equal(pictures[0], pictures[1])


@pytest.mark.parametrize("words", [LONG, "one two three four five six " * 4, "Orrery" * 9])
@pytest.mark.parametrize("size", [40, 77, 150])
def test_a_text_is_broken_alike_in_every_size_of_the_frame(words: str, size: float) -> None:
    text, font = Text(words=words, size=size), state_of(own_font())
    frames = [(3840, 2160), (1920, 1080), (1280, 720), (640, 360), (320, 180), (177, 100)]
    found = [lettering.lines_for(text, font, *frame) for frame in frames]
    assert len({tuple(lines) for lines, _ in found}) == 1
    for (width, height), (lines, pixels) in zip(frames, found, strict=True):
        assert (
            lettering.widest(lines, lettering.font_of(font, pixels)) <= width * 0.9 or pixels == 1
        )
        assert pixels <= max(1, round(size * height / 1000) + 1)


def test_words_stay_whole_where_a_line_is_broken() -> None:
    """As large as was asked for: it is only made smaller where breaking is not enough."""
    lines, pixels = lettering.fit_lines(
        Text(words=LONG), state_of(lettering.own_font()), 20, (288, 162)
    )
    assert pixels == 20
    assert len(lines) > 1
    assert " ".join(lines) == LONG


@pytest.mark.parametrize(("width", "height"), [(320, 180), (180, 320), (180, 180), (320, 40)])
@pytest.mark.parametrize("words", [LONG, "Orrery" * 30, "\n".join(["line g"] * 9), "gjpqy"])
@pytest.mark.parametrize("place", [TextPlace.MIDDLE, TextPlace.BOTTOM, TextPlace.TOP_RIGHT])
def test_text_never_leaves_the_safe_area(
    width: int, height: int, words: str, place: TextPlace
) -> None:
    light = np.zeros((height, width, 3), np.float32)
    shown = draw_text(light, Text(words=words, place=place, size=300))[..., 0]
    rows, columns = np.nonzero(shown > 0.02)
    assert len(rows)
    assert rows.min() >= height * 0.05 - 1
    assert rows.max() <= height * 0.95 + 1
    assert columns.min() >= width * 0.05 - 1
    assert columns.max() <= width * 0.95 + 1
