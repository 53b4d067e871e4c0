"""The in-tray: how sources are read, several at once, and what is taken for granted."""

from __future__ import annotations

from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QListWidget, QMenu, QPushButton
from pytestqt.qtbot import QtBot

from tests.making import aged, write_layers, write_movie, write_sequence, write_tone
from tests.window.driving import (
    PATIENCE,
    at_rest,
    button,
    choice,
    choose,
    drop,
    field,
    press,
    seal_everything,
    texts,
    typed,
    until_says,
)
from waxseal.app import folder_watch
from waxseal.app.look.widgets import Strip
from waxseal.app.tray.job_defaults import HabitsDocket
from waxseal.app.tray.source_card import SourceCard
from waxseal.app.window import Window
from waxseal.core.arrive import folder_events
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import Edit, change_delivery, change_reading
from waxseal.core.job.model import Alpha, Colour, Origin, Reading, StandIn
from waxseal.core.job.primaries import PRIMARIES


@pytest.fixture
def frames(tmp_path: Path) -> Path:
    return write_sequence(tmp_path / "frames", frames=range(1, 25), width=160, height=90)


def opened(window: Window, source: str = "s1") -> SourceCard:
    card = window.tray.card(source)
    assert card is not None
    press(card)
    QApplication.processEvents()
    return card


def reading(window: Window, place: int = 0) -> Reading:
    return window.document.job.sequences[place].reading


def test_wanted_frames_shorten_the_shot_and_undo_brings_them_back(
    window: Window, qtbot: QtBot, frames: Path
) -> None:
    drop(window, qtbot, frames)
    card = opened(window)
    typed(field(card, "wanted"), "5-12")
    assert window.document.job.reel.shots[0].first == 5
    assert "5–12 · 8 frames" in texts(card)
    assert len(list(frames.iterdir())) == 24
    typed(field(card, "wanted"), "12-5")
    assert "backwards" in window.message
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.document.job.reel.shots[0].last == 24


def test_colour_and_pixel_shape_are_said_in_the_docket(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    folder = write_sequence(tmp_path / "f", "a.%04d.exr", dtype="float16", width=160, height=90)
    drop(window, qtbot, folder)
    card = opened(window)
    choose(choice(card, "colour"), "linear ACEScg")
    assert reading(window).chromaticities.value == PRIMARIES["ACEScg"]
    assert reading(window).colour.value is Colour.LINEAR
    typed(field(card, "pixel_shape"), "2")
    assert reading(window).pixel_shape.value == 2
    assert str(window.document.job.reel_size) == "320 × 90"
    typed(field(card, "pixel_shape"), "wide")
    assert "not a pixel shape" in window.message


def test_the_parts_of_an_exr_are_offered(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    import OpenImageIO

    from tests.making import write_with

    names = ("R", "G", "B", "A", "Z", "diffuse.R", "diffuse.G", "diffuse.B")
    spec = OpenImageIO.ImageSpec(32, 18, len(names), "half")
    spec.channelnames = names
    (tmp_path / "f").mkdir()
    values = np.linspace(0, 1, 32 * 18 * len(names)).reshape(18, 32, -1).astype(np.float16)
    for frame in range(1, 4):
        write_with(tmp_path / "f" / f"a.{frame:04}.exr", spec, values)
    drop(window, qtbot, tmp_path / "f")
    card = opened(window)
    choose(choice(card, "part"), "diffuse (RGB)")
    assert reading(window).part.value == "diffuse"
    assert reading(window).alpha.value is Alpha.NONE
    choose(choice(card, "part"), "main picture (RGBA)")
    assert reading(window).alpha.value is Alpha.PREMULTIPLIED


def test_a_layer_that_is_a_guess_is_confirmed_by_itself(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    layers = {name: np.full((18, 32, 3), 0.5, np.float16) for name in ("left", "right")}
    drop(window, qtbot, write_layers(tmp_path / "f", layers))
    card = opened(window)
    assert reading(window).part.origin is Origin.GUESS
    rate = reading(window).rate
    confirm = card.findChildren(QPushButton, "confirm")
    titles = [one for one in confirm if "several" in one.toolTip()]
    press(titles[0])
    assert reading(window).part.origin is Origin.SAID
    assert reading(window).part.value == "left"
    assert reading(window).rate == rate, "that is another question"


def matted(folder: Path) -> Path:
    """Three frames of a soft disc that was laid over white, with its alpha."""
    y, x = np.mgrid[0:90, 0:160]
    alpha = np.clip((36 - np.hypot(x - 80, y - 45)) / 20, 0, 1)[..., None]
    colour = np.stack([0.7 + 0.2 * np.sin(x / 5), 0.5 + 0 * x, 0.3 + 0 * x], axis=2)
    picture = np.concatenate([colour * alpha + 1 - alpha, alpha], axis=2)
    folder.mkdir()
    for frame in range(1, 4):
        write_pixels(folder / f"a.{frame:04}.png", (picture * 255 + 0.5).astype(np.uint8))
    return folder


def test_a_guessed_alpha_shows_its_evidence_and_is_confirmed(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    drop(window, qtbot, matted(tmp_path / "f"))
    assert (reading(window).alpha.origin, reading(window).matte.value) == (Origin.GUESS, "#ffffff")
    card = opened(window)
    confirms = list(card.findChildren(type(window.outbox.seal_all), "confirm"))
    assert any("half-clear pixels" in one.toolTip() for one in confirms)
    press(next(one for one in confirms if "half-clear" in one.toolTip()))
    assert reading(window).alpha.origin is Origin.SAID
    assert field(card, "matte").text() == "#ffffff"


def test_the_alpha_reading_is_flipped_while_looking(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    drop(window, qtbot, matted(tmp_path / "f"))
    window.actions_["flip alpha"].trigger()
    assert reading(window).alpha.value is Alpha.STRAIGHT
    window.actions_["flip alpha"].trigger()
    assert reading(window).alpha.value is Alpha.PREMULTIPLIED


def test_sources_alike_are_read_alike_with_one_press(
    window: Window, qtbot: QtBot, frames: Path, tmp_path: Path
) -> None:
    drop(window, qtbot, frames)
    for name in ("b", "c"):
        drop(
            window, qtbot, write_sequence(tmp_path / name, f"{name}.%04d.png", width=160, height=90)
        )
    card = opened(window)
    typed(field(card, "rate"), "12")
    choose(choice(card, "stand_in"), "hold")
    press(button(card, "Read 2 others the same way"))
    assert [one.reading.rate.value for one in window.document.job.sequences] == [12, 12, 12]
    assert {one.reading.stand_in.value for one in window.document.job.sequences} == {StandIn.HOLD}
    assert "more like this" not in " ".join(
        one.text() for one in card.findChildren(type(window.outbox.seal_all)) if one.isVisible()
    )


def test_habits_stand_in_one_place_and_reach_what_was_guessed(
    window: Window, qtbot: QtBot, frames: Path
) -> None:
    drop(window, qtbot, frames)
    assert not window.findChildren(HabitsDocket)  # what is closed costs nothing
    window.actions_["habits"].trigger()
    habits = window.tray.habits
    assert habits.isVisible()
    typed(field(habits, "habit_rate"), "25")
    assert (reading(window).rate.value, reading(window).rate.origin) == (
        Fraction(25),
        Origin.HABIT,
    )
    choose(choice(habits, "habit_stand_in"), "nearest")
    assert reading(window).stand_in.value is StandIn.NEAREST
    typed(field(habits, "habit_rate"), "fast")
    assert "not a frame rate" in window.message
    window.actions_["habits"].trigger()
    assert not habits.isVisible()


def test_what_differs_from_the_reel_is_said(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    drop(window, qtbot, write_sequence(tmp_path / "a", width=160, height=90))
    drop(window, qtbot, write_sequence(tmp_path / "b", "b.%04d.png", width=320, height=90))
    card = opened(window, "s2")
    typed(field(card, "rate"), "24")  # said of both
    typed(field(card, "rate"), "12")  # and this one is an exception
    said = texts(card)
    assert "The reel runs at 24: every frame twice." in said
    assert "The reel is 160 × 90, this 320 × 90." in said


def test_a_movie_arrives_plays_and_has_its_codec_on_the_card(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    write_movie(tmp_path / "f" / "live.mov", rate=Fraction(25), sound_seconds=1.6)
    drop(window, qtbot, tmp_path / "f")
    card = window.tray.card("s1")
    assert card is not None
    window.tray.toggle("s1")
    said = texts(card)
    assert "MOV H.264" in said
    assert "40 frames · 1.600 s at 25" in said
    sound = window.tray.card("s2")
    assert sound is not None
    assert "of a movie" in texts(sound)
    window.player.go(17)
    qtbot.waitUntil(lambda: window.viewer.has_picture, timeout=PATIENCE)


def test_frames_that_come_are_seen_without_being_asked_for(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    folder = write_sequence(tmp_path / "f", frames=range(1, 9), width=160, height=90)
    drop(window, qtbot, folder)
    card = opened(window)
    typed(field(card, "expected"), "1-12")
    window.watching.look()
    until_says(qtbot, card, "arriving: 8 of 12")
    write_sequence(folder, frames=range(9, 13), width=160, height=90)
    window.watching.look()
    qtbot.waitUntil(
        lambda: window.document.job.sequences[0].files.range.last == 12, timeout=PATIENCE
    )
    until_says(qtbot, card, "whole")
    assert window.message == "shot is whole: all 12 frames are there."


def lose(window: Window, qtbot: QtBot, frames: Path) -> None:
    """Move a folder beside where it was, and have the window look again."""
    frames.rename(frames.parent / "elsewhere")
    window.actions_["look again"].trigger()
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)


def test_moved_files_are_found_again_after_a_look_at_what_matches(
    window: Window, qtbot: QtBot, frames: Path, tmp_path: Path
) -> None:
    drop(window, qtbot, frames)
    lose(window, qtbot, frames)
    card = window.tray.card("s1")
    assert card is not None
    assert "lost" in texts(card)
    window.relinking.search(tmp_path / "out")
    qtbot.waitUntil(lambda: "not there" in window.message, timeout=PATIENCE)
    window.relinking.search(tmp_path / "elsewhere")
    qtbot.waitUntil(lambda: window.relinking.dialog is not None, timeout=PATIENCE)
    dialog = window.relinking.dialog
    assert dialog is not None
    assert "24 of 24 frames" in dialog.findChildren(QListWidget)[0].item(0).text()
    press(dialog.findChildren(QPushButton, "link")[0])
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    assert card.spoken == "whole"
    window.actions_["undo"].trigger()
    assert window.document.job.sequences[0].files.folder == str(frames)


def test_a_frame_whose_writer_was_stopped_becomes_damage(
    window: Window, qtbot: QtBot, frames: Path
) -> None:
    path = frames / "shot.0024.png"
    path.write_bytes(path.read_bytes()[:-40])
    drop(window, qtbot, frames)
    card = window.tray.card("s1")
    assert card is not None
    assert "still arriving" in texts(card)
    window.watching.look()
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    aged(path)
    window.watching.look()
    until_says(qtbot, card, "1 to re-render")


def test_a_frame_that_came_before_the_first_look_is_seen(
    window: Window, qtbot: QtBot, frames: Path
) -> None:
    drop(window, qtbot, frames)
    write_sequence(frames, frames=range(25, 26), width=160, height=90)
    window.watching.look()
    qtbot.waitUntil(
        lambda: window.document.job.sequences[0].files.range.last == 25, timeout=PATIENCE
    )


def test_an_idle_window_asks_no_folder_and_hears_of_what_comes(
    window: Window, qtbot: QtBot, frames: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    looks: list[object] = []
    look = folder_watch.look_at_folders

    def counted(*told: Any) -> Any:
        looks.append(told)
        return look(*told)

    monkeypatch.setattr(folder_watch, "look_at_folders", counted)
    monkeypatch.setattr(folder_watch, "SHORTEST_MS", 100)
    monkeypatch.setattr(folder_events, "silent_folders", lambda _folders: set())
    drop(window, qtbot, frames)
    window.watching.look()
    qtbot.waitUntil(lambda: len(looks) > 1, timeout=PATIENCE)  # the second: now it is listening
    qtbot.wait(1500)
    count = len(looks)
    qtbot.wait(1500)
    assert len(looks) == count
    write_sequence(frames, frames=range(25, 26), width=160, height=90)
    qtbot.waitUntil(
        lambda: window.document.job.sequences[0].files.range.last == 25, timeout=PATIENCE
    )


def test_watching_is_switched_off_and_on(window: Window) -> None:
    window.actions_["watch"].trigger()
    assert not window.watching.is_on
    assert window.message == "The folders are not watched."
    window.actions_["watch"].trigger()
    assert window.watching.is_on


def test_a_sound_says_how_loud_it_is(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    write_tone(tmp_path / "f" / "tone.wav", seconds=3)
    drop(window, qtbot, tmp_path / "f")
    card = window.tray.card("s1")
    assert card is not None
    until_says(qtbot, card, "LUFS")
    assert "−12 dBTP" in texts(card)


def test_re_render_lists_are_saved_as_text(
    window: Window, qtbot: QtBot, frames: Path, tmp_path: Path
) -> None:
    (frames / "shot.0007.png").unlink()
    drop(window, qtbot, frames)
    window.lists.save_to(tmp_path / "again.txt")
    assert (tmp_path / "again.txt").read_text() == (
        f"{frames}/shot.####.png\n  re-render: 7\n  not there: 7\n\n"
    )
    assert "again.txt" in window.message


def test_a_sequence_that_begins_in_a_watched_folder_comes_in_by_itself(
    window: Window, qtbot: QtBot, frames: Path
) -> None:
    write_sequence(frames, "left.%04d.png", frames=range(1, 3), width=160, height=90)
    drop(window, qtbot, frames / "shot.0001.png")
    assert [one.name for one in window.document.job.sources] == ["shot"]
    window.watching.look()
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    write_sequence(frames, "next.%04d.png", frames=range(1, 4), width=160, height=90)
    window.watching.look()
    qtbot.waitUntil(lambda: len(window.document.job.sources) == 2, timeout=PATIENCE)
    assert "New in a watched folder: next." in window.message
    job = window.document.job
    assert [one.name for one in job.sources] == ["shot", "next"]  # what lay there was left out
    assert len(job.reel.shots) == 1
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    window.actions_["undo"].trigger()
    write_sequence(frames, "next.%04d.png", frames=range(4, 6), width=160, height=90)
    window.watching.look()
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    assert [one.name for one in window.document.job.sources] == ["shot"]  # it was sent away once


def test_what_lies_beside_and_how_long_the_sound_is_are_said(
    window: Window, qtbot: QtBot, frames: Path
) -> None:
    (frames / "shot.0025.png.part").write_bytes(b"x")
    write_tone(frames / "shot.wav", seconds=1.5)
    drop(window, qtbot, frames)
    assert "Beside it: shot.0025.png.part" in texts(opened(window))
    card = window.tray.card("s2")
    assert card is not None
    assert "1.500 s · 0.50 s longer than shot" in texts(card)


def test_a_folder_that_comes_below_a_dropped_one_is_taken_in(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    renders = tmp_path / "renders"
    write_sequence(renders / "sh010", "sh010.%04d.png", frames=range(1, 4), width=160, height=90)
    write_sequence(renders / ".cache", "x.%04d.png", frames=range(1, 4), width=160, height=90)
    drop(window, qtbot, renders)
    window.watching.look()
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    write_sequence(
        renders / "wide" / "sh020", "sh020.%04d.png", frames=range(1, 4), width=160, height=90
    )
    delivered = window.document.job.deliveries[0]
    window.document.do(
        Edit(
            "a delivery",
            partial(change_delivery, delivery=delivered.id, folder=str(renders), codec="EXR"),
        )
    )
    made = path_of(window.document.job.deliveries[0])
    write_sequence(made, "sh010.%04d.exr", frames=range(1, 4), dtype="float16")
    window.watching.look()
    qtbot.waitUntil(lambda: len(window.document.job.sources) == 2, timeout=PATIENCE)
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    assert [one.name for one in window.document.job.sources] == ["sh010", "sh020"]


def test_a_source_that_is_shown_is_in_sight_with_its_open_docket(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    """Far down in the in-tray, and taller once it is open."""
    folder = tmp_path / "frames"
    for number in range(9):
        frames = range(1, 4, 2 if number == 8 else 1)
        write_sequence(folder, f"sh{number}.%04d.png", frames=frames)
    drop(window, qtbot, folder)
    seal_everything(window)
    qtbot.waitUntil(lambda: bool(window.document.job.deliveries[0].outcome), timeout=PATIENCE)
    (delivery,) = window.outbox.cards.values()
    press(button(delivery, "Show sh8"))
    qtbot.wait(50)
    card = window.tray.cards["s9"]
    top = card.mapTo(window.tray.area.viewport(), QPoint(0, 0)).y()
    assert top >= 0
    room = window.tray.area.viewport().height()
    assert field(card, "rate").isVisible(), "its docket is open"
    assert top == 0 or top + card.height() <= room


def test_a_frame_that_is_shown_twice_on_a_card_is_shown_twice(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    """Of two frames the first is the middle one too."""
    drop(window, qtbot, write_sequence(tmp_path / "two", frames=range(1, 3)))
    window.tray.toggle("s1")
    QApplication.processEvents()
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    strip = next(one for one in window.tray.cards["s1"].findChildren(Strip) if one.isVisible())
    picture = strip.grab().toImage()
    middles = [
        picture.pixelColor(picture.width() * (2 * place + 1) // 6, picture.height() // 2)
        for place in range(3)
    ]
    ground = window.palette().window().color()
    assert middles[0] == middles[1] != ground


@pytest.fixture
def crowd(window: Window, qtbot: QtBot, tmp_path: Path) -> Window:
    """Nine sources: a beauty with two passes, six shots, of which one has a hole."""
    for kind in ("beauty", "diffuse", "specular"):
        write_sequence(tmp_path / "sh", f"sh_{kind}.%04d.png", frames=range(1, 4))
    for number in range(1, 7):
        frames = [1, 2, 3, 4] if number != 5 else [1, 2, 4]
        write_sequence(tmp_path / f"x{number}", f"x{number}.%04d.png", frames=frames)  # type: ignore[arg-type]
    drop(window, qtbot, tmp_path / "sh", *(tmp_path / f"x{number}" for number in range(1, 7)))
    return window


def settle(window: Window, qtbot: QtBot) -> None:
    QApplication.processEvents()
    qtbot.waitUntil(lambda: at_rest(window) and not window.tray.is_busy, timeout=PATIENCE)


def shown(window: Window) -> list[str]:
    """The names of the cards, from the top."""
    cards = sorted(window.tray.cards.values(), key=lambda card: card.y())
    return [window.document.job.source(card.source_id).name for card in cards if card.isVisible()]


def test_passes_fold_under_their_beauty(crowd: Window, qtbot: QtBot) -> None:
    assert len(crowd.document.job.sources) == 9
    assert shown(crowd) == ["sh_beauty", *(f"x{number}" for number in range(1, 7))]
    press(button(crowd.tray, "+ 2"))
    settle(crowd, qtbot)
    assert len(shown(crowd)) == 9
    press(button(crowd.tray, "+ 2"))
    settle(crowd, qtbot)
    assert len(shown(crowd)) == 7
    folded = next(one for one in crowd.document.job.sequences if one.name == "sh_diffuse")
    crowd.tray.show_docket(folded.id)
    settle(crowd, qtbot)
    assert "sh_diffuse" in shown(crowd), "what is asked for is shown"


def test_cards_are_found_by_name_and_state(crowd: Window, qtbot: QtBot) -> None:
    line = crowd.tray.sifting.wanted
    assert line.isVisible()
    for words, names in (("x3", ["x3"]), ("re-render", ["x5"]), ("DIFF", ["sh_diffuse"])):
        line.clear()
        QTest.keyClicks(line, words)
        settle(crowd, qtbot)
        assert shown(crowd) == names
    line.clear()
    settle(crowd, qtbot)
    assert len(shown(crowd)) == 7


def test_what_needs_attention_comes_first_by_choice(crowd: Window) -> None:
    crowd.tray.sifting.first.click()
    QApplication.processEvents()
    assert shown(crowd)[0] == "x5"
    crowd.tray.sifting.first.click()
    QApplication.processEvents()
    assert shown(crowd)[0] == "sh_beauty"


def test_sixty_cards_are_half_as_tall_as_they_were(crowd: Window) -> None:
    heights = sorted(card.height() for card in crowd.tray.cards.values())
    assert heights[-2] <= 80, "all but the one that passes fold under"


def test_few_sources_need_no_sifting(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    drop(window, qtbot, write_sequence(tmp_path / "a"))
    assert not window.tray.sifting.isVisible()


def test_the_header_takes_you_to_the_rate_to_confirm(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    drop(window, qtbot, write_sequence(tmp_path / "a"))
    press(button(window.header, "1 rate to confirm"))
    QApplication.processEvents()
    card = window.tray.card("s1")
    assert card is not None
    assert field(card, "rate").isVisible()
    window.document.do(Edit("say it", partial(change_reading, source="s1", rate=Fraction(25))))
    assert not any(
        one.isVisible() for one in window.header.findChildren(QPushButton) if "rate" in one.text()
    )


def test_a_depth_pass_is_seen_in_its_own_range(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    depth = np.linspace(200, 900, 64 * 36, dtype=np.float32).reshape(36, 64, 1)
    (tmp_path / "sh").mkdir()
    for frame in (1, 2):
        write_pixels(tmp_path / "sh" / f"sh_depth.{frame:04}.exr", np.repeat(depth, 3, axis=2))
        write_pixels(
            tmp_path / "sh" / f"sh_beauty.{frame:04}.exr", np.repeat(depth / 900, 3, axis=2)
        )
    drop(window, qtbot, tmp_path / "sh")
    source = next(one for one in window.document.job.sequences if one.name.endswith("depth"))
    window.tray.show_docket(source.id)
    settle(window, qtbot)
    card = window.tray.card(source.id)
    assert card is not None
    strip = next(one for one in card.findChildren(Strip) if one.isVisible())

    def middle_row() -> list[int]:
        picture = strip.grab().toImage()
        y = picture.height() // 2
        return [picture.pixelColor(4, 2).red(), picture.pixelColor(20, y).red(),
                picture.pixelColor(70, picture.height() - 3).red()]  # fmt: skip

    def is_stretched() -> bool:
        top, middle, bottom = middle_row()
        return top < 40 and 90 < middle < 165 and bottom > 215

    qtbot.waitUntil(is_stretched, timeout=PATIENCE)


def versions(tmp_path: Path, *numbers: int, frames: range = range(1, 25)) -> list[Path]:
    names = [f"sh010_v{number:03}" for number in numbers]
    return [
        write_sequence(tmp_path / name, f"{name}.%04d.png", frames=frames, width=160, height=90)
        for name in names
    ]


def menu_of(window: Window, source: str) -> QMenu:
    window.menus.source(source, QPoint(0, 0))
    QApplication.processEvents()
    menu = next(one for one in window.findChildren(QMenu) if one.isVisible())
    menu.hide()
    return menu


def act_of(menu: QMenu, words: str) -> QAction:
    return next(one for one in menu.actions() if words in one.text())


def test_a_new_version_is_said_with_what_it_changes_and_takes_the_old_one_s_place(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    (old,) = versions(tmp_path, 2)
    drop(window, qtbot, old)
    (new,) = versions(tmp_path, 3, frames=range(1, 21))
    drop(window, qtbot, new)
    qtbot.waitUntil(lambda: "sh010_v003 is a new version" in window.message, timeout=PATIENCE)
    assert "becomes 4 frames shorter" in window.message
    assert [shot.source for shot in window.document.job.reel.shots] == ["s1"]
    act = act_of(menu_of(window, "s1"), "Use sh010_v003 in place of sh010_v002")
    assert "Its frames are 1-20; the old ones are 1-24" in act.toolTip()
    before = window.document.job
    window.actions_["versions"].trigger()
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    assert window.document.job.sequence("s1").name == "sh010_v003"
    window.actions_["undo"].trigger()
    assert window.document.job.reel == before.reel
    assert window.document.job.sequence("s1").name == "sh010_v002"
    act.trigger()
    assert window.document.job.sequence("s1").name == "sh010_v003"
    window.actions_["versions"].trigger()
    assert window.message == "There is no newer version in the in-tray."


def test_of_several_versions_the_newest_is_on_the_reel_and_the_others_are_named(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    folder = tmp_path / "renders"
    folder.mkdir()
    versions(folder, 1, 2, 3)
    drop(window, qtbot, folder)
    names = "a newer version: sh010_v001, sh010_v002"
    qtbot.waitUntil(lambda: names in window.message, timeout=PATIENCE)
    (shot,) = window.document.job.reel.shots
    assert window.document.job.sequence(shot.source).name == "sh010_v003"


def test_the_files_of_a_lost_source_that_come_elsewhere_are_offered(
    window: Window, qtbot: QtBot, frames: Path, tmp_path: Path
) -> None:
    drop(window, qtbot, frames)
    lose(window, qtbot, frames)
    drop(window, qtbot, tmp_path / "elsewhere")
    qtbot.waitUntil(lambda: "has moved" in window.message, timeout=PATIENCE)
    act_of(menu_of(window, "s1"), "use the files there").trigger()
    (source,) = window.document.job.sequences
    assert source.files.folder == str(tmp_path / "elsewhere")
    assert not source.is_moved
    assert len(window.document.job.reel.shots) == 1
