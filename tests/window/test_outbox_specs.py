"""The spec book, the match table and a delivery's own settings in the real window."""

from __future__ import annotations

from fractions import Fraction
from functools import partial
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from tests.making import aged, gradient, write_sequence
from tests.window.driving import (
    PATIENCE,
    at_rest,
    button,
    choice,
    choose,
    drop,
    field,
    press,
    texts,
    typed,
    until_says,
)
from waxseal.app.outbox.delivery_card import CROWD, DeliveryCard
from waxseal.app.outbox.spec_book_dialog import SpecBook
from waxseal.app.outbox.spec_menu import BookMenu
from waxseal.app.view.pixel_values import delivered_words
from waxseal.app.window import Window
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.match import Drawings, Row, match_drawn
from waxseal.core.deliver.specs.spec_book import spec_book
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import Edit, confirm_rates, put_on_reel, set_expected
from waxseal.core.job.model import Alpha, Delivery, Framing, Size, StandIn, change
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import Programme


@pytest.fixture
def clear(window: Window, tmp_path: Path, qtbot: QtBot) -> Window:
    """A window with a reel of eight frames with alpha, whose rate is only a guess."""
    (tmp_path / "sh010").mkdir()
    for number in range(1, 9):
        values = gradient(number, width=320, height=180, channels=4)
        values[:20, :, 3] = 128  # opaque everywhere, it would be no alpha
        write_pixels(tmp_path / "sh010" / f"sh010.{number:04}.png", values)
    drop(window, qtbot, tmp_path / "sh010")
    qtbot.waitUntil(
        lambda: at_rest(window) and len(window.document.job.reel.shots) == 1, timeout=PATIENCE
    )
    return window


def add(window: Window, name: str) -> tuple[Delivery, DeliveryCard]:
    """Choose a spec from the menu under the button."""
    menu = window.outbox.book_menu()
    (action,) = [one for one in menu.actions() if one.text().split("\t")[0] == name]
    action.trigger()
    QApplication.processEvents()
    delivery = window.document.job.deliveries[-1]
    card = window.outbox.card(delivery.id)
    assert card is not None
    return delivery, card


def test_the_book_is_offered_by_what_it_is_for_and_says_what_is_lost(
    clear: Window, qtbot: QtBot
) -> None:
    actions = clear.outbox.book_menu().actions()
    assert not any("loses" in one.text() for one in actions), "that is worked out meanwhile"
    qtbot.waitUntil(lambda: any("loses" in one.text() for one in actions), timeout=PATIENCE)
    words = [one.text() for one in actions if not one.isSeparator()]
    titles = [one for one in words if one.isupper()]
    assert titles == ["VIEWING", "SIZE-LIMITED", "EDITING", "FRAMES", "ARCHIVE"]
    by_name = dict(one.split("\t") for one in words if "\t" in one)
    assert by_name["wide web 1080p"] == "H.264 · MP4 · 1920 × 1080 · −14 LUFS · loses alpha"
    assert "loses" not in by_name["overlay with alpha"]
    assert words[-2:] == ["without a spec", "The spec book…"]


def test_a_delivery_to_a_spec_shows_what_will_happen(clear: Window, qtbot: QtBot) -> None:
    delivery, card = add(clear, "square feed")
    assert (delivery.spec, delivery.size) == ("square feed", Size(width=1080, height=1080))
    assert clear.document.history.undo_name == "add square feed"
    shown = texts(card)
    assert "square feed · 1080 × 1080" in shown
    assert "320 × 180\n" in shown
    assert "1080 × 1080\n" in shown
    assert "the reel fills: 420 px cropped each left and right" in shown
    assert "H.264 carries none" in shown
    # What is said is decided where it stands.
    press(button(card, "Confirm 24"))
    assert "is a guess" not in texts(card)
    press(button(card, "Settings"))
    choose(choice(card, "ownFraming"), "fit")
    assert clear.document.job.deliveries[-1].framing is Framing.FIT
    until_says(qtbot, card, "px of ground each above and below")
    typed(field(card, "ownSize"), "640x360")
    assert "square feed takes 1080 × 1080, not 640 × 360: choose another size." in texts(card)
    press(button(card, "As the spec wants it"))
    made = clear.document.job.deliveries[-1]
    assert (made.size, made.framing) == (Size(width=1080, height=1080), Framing.FILL)
    assert "choose another size" not in texts(card)


def test_frames_that_are_missing_are_decided_in_the_table(clear: Window) -> None:
    files = clear.document.job.sequences[0].files
    gone = change(files, runs=((files.range.first, 2), (4, files.range.last)))
    source = change(clear.document.job.sequences[0], files=gone)
    clear.document.do(Edit("", lambda job: change(job, sources=(source, *job.sources[1:]))))
    clear.outbox.toggle("d1")
    card = clear.outbox.cards["d1"]
    assert "3 is missing" in texts(card)
    press(button(card, "Let the frame before stand in"))
    assert clear.document.job.sequences[0].reading.stand_in.value is StandIn.HOLD
    assert "is missing" not in texts(card)
    clear.document.undo()
    assert "3 is missing" in texts(card)


def test_alpha_is_kept_where_that_is_said(clear: Window) -> None:
    delivery, card = add(clear, "overlay with alpha")
    press(button(card, "Settings"))
    choose(choice(card, "alpha"), "filled with the ground")
    assert "Transparent areas show the ground" in texts(card)
    press(button(card, "Keep the alpha"))
    assert clear.document.job.delivery(delivery.id).alpha is Alpha.STRAIGHT
    choose(choice(card, "container"), "MKV")
    assert clear.document.job.delivery(delivery.id).alpha is Alpha.STRAIGHT
    choose(choice(card, "codec"), "H.264, 8 bits")
    changed = clear.document.job.delivery(delivery.id)
    assert (changed.alpha, changed.container) == (Alpha.NONE, "MKV")  # it goes into that too
    assert "H.264 carries none" in texts(card)


def test_a_suffix_chooses_the_container(clear: Window) -> None:
    clear.outbox.toggle("d1")
    card = clear.outbox.cards["d1"]
    typed(field(card, "deliveryName"), "film.mkv")
    delivery = clear.document.job.delivery("d1")
    assert (delivery.container, path_of(delivery).name) == ("MKV", "film.mkv")
    choose(choice(card, "container"), "MOV")
    assert path_of(clear.document.job.delivery("d1")).name == "film.mov"


def test_its_own_frame_is_typed_and_taken_away_again(clear: Window) -> None:
    clear.outbox.toggle("d1")
    card = clear.outbox.cards["d1"]
    for name, text, shown in (
        ("ownRate", "30", "some frames repeated"),
        ("ownRange", "2-5", "frames 2-5 of 8"),
        ("limit", "8 MB", "at most 8.0 MB"),
        ("keySeconds", "0.5", ""),
    ):
        typed(field(card, name), text)
        assert shown in texts(card)
    delivery = clear.document.job.delivery("d1")
    assert (delivery.range, delivery.most_bytes, delivery.key_seconds) == ((2, 5), 8_000_000, 0.5)
    for name in ("ownRange", "ownRate"):
        box = field(card, name)
        box.setFocus()
        box.selectAll()
        QTest.keyClick(box, Qt.Key.Key_Delete)
        QTest.keyClick(box, Qt.Key.Key_Return)
    assert clear.document.job.delivery("d1").range is None
    assert clear.document.job.delivery("d1").rate is None
    typed(field(card, "ownRange"), "many")
    assert "“many” is not a frame range: write it as 1-48." in texts(clear)


def test_settings_are_saved_as_a_spec(
    clear: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    clear.outbox.toggle("d1")
    card = clear.outbox.cards["d1"]
    choose(choice(card, "codec"), "ProRes 4444, 10 bits, with alpha")
    choose(choice(card, "alpha"), "premultiplied")
    press(button(card, "Save as a spec"))
    assert "The spec has no name: give it one." in texts(clear)
    name = field(card, "specName")
    name.setText("our overlay")
    press(button(card, "Save as a spec"))
    spec = spec_book().named("our overlay")
    assert (spec.codec, spec.alpha) == ("ProRes 4444", Alpha.PREMULTIPLIED)
    assert clear.document.job.delivery("d1").spec == "our overlay"
    delivery, _ = add(clear, "our overlay")
    assert (delivery.codec, delivery.alpha) == ("ProRes 4444", Alpha.PREMULTIPLIED)


def test_four_kinds_are_sealed_one_after_the_other(
    clear: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    for name in ("overlay with alpha", "PNG frames", "overlay for the web"):
        add(clear, name)
    clear.outbox.send_all()
    press(clear.outbox.asking.yes)

    def states() -> list[str]:
        made = [one.outcome for one in clear.document.job.deliveries]
        return [one.state.value if one else "" for one in made]

    qtbot.waitUntil(lambda: states() == ["sealed"] * 4, timeout=4 * PATIENCE)
    kinds = [path_of(one).suffix for one in clear.document.job.deliveries]
    assert kinds == [".mp4", ".mov", "", ".webm"]


def test_the_table_speaks(clear: Window) -> None:
    _, card = add(clear, "square feed")
    said = [one.accessibleName() for one in card.findChildren(QWidget) if one.accessibleName()]
    assert any(one == "alpha, lost" for one in said)


def test_a_proof_and_a_poster_frame_are_made_and_opened(
    clear: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    opened: list[str] = []
    monkeypatch.setattr(
        "PySide6.QtGui.QDesktopServices.openUrl",
        lambda url: opened.append(url.toLocalFile()),
    )
    clear.outbox.toggle("d1")
    card = clear.outbox.cards["d1"]
    clear.player.go(3)
    press(button(card, "Poster frame"))
    qtbot.waitUntil(lambda: len(opened) == 1, timeout=PATIENCE)
    assert Path(opened[0]).name == "sh010_0003.png"
    press(button(card, "Proof"))
    qtbot.waitUntil(lambda: len(opened) == 2, timeout=2 * PATIENCE)
    assert Path(opened[1]).name == "sh010_proof.mp4"
    assert Path(opened[1]).is_file()
    assert "The proof is there: sh010_proof.mp4." in texts(clear)
    assert len(clear.document.job.deliveries) == 1
    clear.tray.toggle("s1")
    typed(field(clear.tray.cards["s1"], "poster"), "2")
    qtbot.waitUntil(lambda: len(opened) == 3, timeout=PATIENCE)
    assert Path(opened[2]).name == "sh010_sh010_0002.png"
    typed(field(clear.tray.cards["s1"], "poster"), "99")
    until_says(qtbot, clear, "sh010 has no frame 99: choose one of")


@pytest.mark.parametrize(
    ("layout", "alpha", "codes", "words"),
    [
        (Layout.YUV420, Alpha.NONE, (16, 128, 128), "Y′ 16  Cb 128  Cr 128"),
        (Layout.YUV444_10, Alpha.STRAIGHT, (64, 512, 512, 1023), "Y′ 64  Cb 512  Cr 512  A 1023"),
        (Layout.RGB8, Alpha.STRAIGHT, (1, 2, 3, 255), "R 1  G 2  B 3  A 255"),
        (Layout.LIGHT, Alpha.NONE, (0.5, 1, 2), "R G B 0.500 1.000 2.000"),
    ],
)
def test_a_pixel_of_any_kind_is_said(
    layout: Layout, alpha: Alpha, codes: tuple[float, ...], words: str
) -> None:
    assert delivered_words(Target(8, 8, layout, alpha=alpha), codes) == words


def test_the_sound_and_the_timecode_of_a_delivery_are_set_where_they_stand(
    clear: Window,
) -> None:
    _, card = add(clear, "editing master")
    press(button(card, "Settings"))
    choose(choice(card, "soundCodec"), "AAC")
    typed(field(card, "loudness"), "-16")
    typed(field(card, "truePeak"), "-1,5 dBTP")
    typed(field(card, "timecode"), "01:00:00:10")
    made = clear.document.job.deliveries[-1]
    assert (made.sound_codec, made.loudness, made.true_peak) == ("AAC", -16.0, -1.5)
    assert made.timecode == "01:00:00:10"
    assert field(card, "loudness").text() == "−16 LUFS"
    assert "editing master begins at 01:00:00:00: set its timecode." in texts(card)
    # Another container gives up what it does not have.
    choose(choice(card, "codec"), "Motion JPEG, 8 bits 4:2:2")
    choose(choice(card, "container"), "AVI")
    made = clear.document.job.deliveries[-1]
    assert (made.container, made.sound_codec, made.timecode) == ("AVI", "", "")
    assert made.loudness == -16.0


def test_a_delivery_begins_when_every_frame_is_there(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    folder = write_sequence(tmp_path / "sh", "sh.%04d.png", frames=range(1, 9))
    drop(window, qtbot, folder)
    window.document.do(Edit("expect", partial(set_expected, source="s1", expected=(1, 12))))
    rate = Fraction(24)
    window.document.do(Edit("rate", partial(confirm_rates, rate=rate)))
    card = window.outbox.card("d1")
    assert card is not None

    def words() -> list[str]:
        return [one.text() for one in card.findChildren(QPushButton)]

    qtbot.waitUntil(lambda: "When complete" in words(), timeout=PATIENCE)
    press(button(card, "When complete"))
    assert "waits until every frame is there" in texts(card)
    press(button(card, "Stop"))
    assert "waits until" not in texts(card)
    press(button(card, "When complete"))
    for number in range(9, 13):
        write_pixels(folder / f"sh.{number:04}.png", gradient(number))
        aged(folder / f"sh.{number:04}.png")
    until_says(qtbot, card, "sealed ·")
    outcome = window.document.job.deliveries[0].outcome
    assert outcome is not None
    assert round(outcome.seconds * 24) == 12


def dropped_on(card: DeliveryCard, path: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    at = QPointF(20, 20)
    buttons, keys = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    copy = Qt.DropAction.CopyAction
    enter = QDragEnterEvent(at.toPoint(), copy, data, buttons, keys)
    QApplication.sendEvent(card, enter)
    assert enter.isAccepted()
    QApplication.sendEvent(card, QDropEvent(at, copy, data, buttons, keys))


def test_a_movie_dropped_on_a_delivery_is_compared_with_the_reel(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    folder = write_sequence(tmp_path / "sh", "sh.%04d.png", frames=range(1, 9), width=96, height=54)
    drop(window, qtbot, folder)
    window.document.do(Edit("rate", partial(confirm_rates, rate=Fraction(24))))
    card = window.outbox.card("d1")
    assert card is not None
    press(window.outbox.seal_all)
    until_says(qtbot, card, "sealed ·")
    film = path_of(window.document.job.deliveries[0])
    dropped_on(card, film)
    said = "sh.mp4: 8 frames compared. Every frame matches the reel."
    qtbot.waitUntil(lambda: window.message == said, timeout=PATIENCE)
    write_pixels(folder / "sh.0003.png", 255 - gradient(3, width=96, height=54))
    dropped_on(card, film)
    qtbot.waitUntil(lambda: "3: differs everywhere" in window.message, timeout=PATIENCE)
    assert len(window.document.job.sources) == 1  # it did not become a source


def test_every_shot_becomes_a_delivery_of_its_own(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    for name, count in (("sh010", 6), ("sh020", 4)):
        folder = write_sequence(
            tmp_path / name, f"{name}.%04d.png", frames=range(1, count + 1), width=96, height=54
        )
        drop(window, qtbot, folder)
    qtbot.waitUntil(lambda: len(window.document.job.reel.shots) == 2, timeout=PATIENCE)
    window.document.do(Edit("rate", partial(confirm_rates, rate=Fraction(24))))
    (whole,) = window.document.job.deliveries
    window.outbox.toggle(whole.id)
    press(button(window.outbox.cards[whole.id], "Every shot as its own file"))
    made = window.document.job.deliveries
    assert [one.range for one in made] == [(1, 6), (7, 10)]
    assert [one.name for one in made] == [f"{whole.name}_sh010", f"{whole.name}_sh020"]
    press(window.outbox.seal_all)
    qtbot.waitUntil(
        lambda: all("sealed ·" in texts(window.outbox.cards[one.id]) for one in made),
        timeout=PATIENCE,
    )
    assert all(path_of(one).is_file() for one in made)
    window.document.undo()
    assert any(one.id == whole.id for one in window.document.job.deliveries)


def line_of(screen: SpecBook, key: str) -> QLineEdit:
    (line,) = screen.findChildren(QLineEdit, f"spec {key}")
    return line


def test_a_spec_of_ones_own_is_written_in_the_book(
    clear: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    clear.actions_["book"].trigger()
    (screen,) = clear.outbox.findChildren(SpecBook)
    assert "It comes with Wax Seal." in texts(screen)
    assert not line_of(screen, "sizes").isEnabled()
    press(screen.copy)
    name = line_of(screen, "name")
    assert name.text() == "wide web 1080p 2"
    assert not screen.save.isEnabled()
    for key, text in (("name", "wall"), ("sizes", "64x"), ("longest", "9")):
        line = line_of(screen, key)
        line.selectAll()
        QTest.keyClicks(line, text)
    assert "“64x” is not a frame size" in texts(screen)
    assert not screen.save.isEnabled()
    QTest.keyClicks(line_of(screen, "sizes"), "32")
    press(screen.save)
    spec = spec_book().named("wall")
    assert (spec.sizes, spec.longest) == (("64x32",), 9.0)
    assert spec_book().get("wide web 1080p 2") is None
    delivery, _ = add(clear, "wall")
    assert delivery.size == Size(width=64, height=32)
    press(screen.remove)
    press(button(screen, "Keep it"))
    assert spec_book().get("wall") is not None
    press(screen.remove)
    others = (one for one in screen.findChildren(QPushButton) if one is not screen.remove)
    press(next(one for one in others if one.text() == "Remove"))
    assert spec_book().get("wall") is None
    card = clear.outbox.cards[delivery.id]
    assert "There is no spec “wall” in the book" in texts(card)
    screen.close()


def test_the_book_is_offered_by_one_menu(clear: Window, qtbot: QtBot) -> None:
    for _ in range(3):
        clear.outbox.book_menu()
    qtbot.waitUntil(lambda: len(clear.outbox.findChildren(BookMenu)) == 1, timeout=PATIENCE)


def test_with_many_shots_the_fields_of_a_delivery_come_before_its_table(
    clear: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    clear.document.do(Edit("many", partial(put_on_reel, sources=["s1"] * CROWD)))
    qtbot.waitUntil(lambda: at_rest(clear), timeout=PATIENCE)
    asked: list[str] = []

    def note(programme: Programme, delivery: Delivery) -> tuple[tuple[Row, ...], Drawings]:
        asked.append(delivery.id)
        return match_drawn(programme, delivery)

    monkeypatch.setattr("waxseal.app.outbox.delivery_docket.match_drawn", note)
    clear.outbox.toggle("d1")
    card = clear.outbox.card("d1")
    assert card is not None
    assert asked == [], "the fields are there first"
    until_says(qtbot, card, "H.264 carries none")
    assert asked == ["d1"]
