"""Finishes, overlays, stacks and the reel's colour in the real window, by real events."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QWidget,
)
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import (
    PATIENCE,
    at_rest,
    button,
    choice,
    choose,
    drag,
    drop,
    field,
    press,
    texts,
    typed,
    until_says,
)
from waxseal.app.finish_panel.correction_row import LineBox
from waxseal.app.finish_panel.finish_docket import FinishDocket
from waxseal.app.look.scrub_field import Handle
from waxseal.app.reel_view.reel_docket import ReelDocket
from waxseal.app.reel_view.shot_row import ShotRow
from waxseal.app.window import Window
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import Cdl, Exposure, Fade, Grain, Text, Vignette
from waxseal.core.job.edits import REEL
from waxseal.core.job.finish_settings import Finish
from waxseal.core.job.model import (
    Blend,
    Conversion,
    Delivery,
    Operation,
    Scaling,
    Shot,
    Space,
    Turn,
    View,
    Working,
)
from waxseal.core.picture.target import Aspect


@pytest.fixture
def row(window: Window, qtbot: QtBot, tmp_path: Path) -> ShotRow:
    """The open row of the only shot."""
    folder = write_sequence(tmp_path / "frames", frames=range(1, 9), width=160, height=90)
    drop(window, qtbot, folder)
    row = window.ledger.row("a1")
    assert row is not None
    press(row)
    QApplication.processEvents()
    return row


def docket_of(parent: QWidget) -> FinishDocket:
    return [one for one in parent.findChildren(FinishDocket) if one.isVisible()][-1]


def add(parent: QWidget, name: str) -> None:
    """Choose an entry of the menu that offers corrections."""
    menu = docket_of(parent).menu()
    for action in menu.actions():
        if action.text() == name:
            assert action.isEnabled()
            action.trigger()
            QApplication.processEvents()
            return
    raise AssertionError(f"no {name!r} among {[one.text() for one in menu.actions()]}")


def handle(parent: QWidget, words: str) -> Handle:
    QApplication.processEvents()
    return next(one for one in parent.findChildren(Handle) if one.text() == words)


def switch(parent: QWidget, name: str) -> QCheckBox:
    QApplication.processEvents()
    return [one for one in parent.findChildren(QCheckBox, name) if one.isVisible()][-1]


def test_exposure_is_added_typed_scrubbed_and_undone(window: Window, row: ShotRow) -> None:

    def finish() -> Finish:
        return window.document.job.shot("a1").finish

    assert "as it was rendered" in texts(row)
    add(row, "exposure")
    typed(field(row, "exposure stops"), "0.5+0.25")
    assert finish().of("exposure") == Exposure(stops=0.75)
    steps = len(window.document.history.past)
    drag(handle(row, "stops"), QPoint(5, 5), QPoint(65, 5))
    one = finish().of("exposure")
    assert isinstance(one, Exposure)
    assert one.stops == pytest.approx(0.75 + 20 * 0.05)
    assert len(window.document.history.past) == steps + 1  # a drag is one step
    assert "exposure" in texts(row)
    window.document.undo()
    assert finish().of("exposure") == Exposure(stops=0.75)
    assert field(row, "exposure stops").text() == "0.75"


def test_what_is_typed_wrong_is_said_where_it_is(window: Window, row: ShotRow) -> None:
    add(row, "exposure")
    typed(field(row, "exposure stops"), "99")
    assert "from -20" in window.message
    assert window.document.job.shot("a1").finish.of("exposure") == Exposure()


def test_a_double_click_on_a_name_goes_back_to_what_is_usual(window: Window, row: ShotRow) -> None:
    add(row, "gamma")
    typed(field(row, "gamma gamma"), "1.8")
    QTest.mouseDClick(handle(row, "gamma"), Qt.MouseButton.LeftButton)
    assert window.document.job.shot("a1").finish.working == ()


def test_a_correction_is_switched_off_and_taken_away(window: Window, row: ShotRow) -> None:
    add(row, "vignette")
    add(row, "exposure")
    kinds = [one.kind for one in window.document.job.shot("a1").finish.corrections]
    assert kinds == ["exposure", "vignette"]  # in the order they work in
    switch(row, "switch vignette").click()
    one = window.document.job.shot("a1").finish.of("vignette")
    assert isinstance(one, Vignette)
    assert not one.on
    press(button(row, "Switch all off"))
    assert window.document.job.shot("a1").finish.working == ()
    press(button(row, "Take all away"))
    assert window.document.job.shot("a1").finish.corrections == ()


def test_one_channel_of_a_cdl_is_changed_alone(window: Window, row: ShotRow) -> None:
    add(row, "CDL")
    typed(field(row, "CDL slope green"), "1.2")
    typed(field(row, "CDL power blue"), "0.9")
    one = window.document.job.shot("a1").finish.of("cdl")
    assert isinstance(one, Cdl)
    assert (one.slope, one.power) == ((1.0, 1.2, 1.0), (1.0, 1.0, 0.9))


def test_a_cdl_goes_to_a_file_and_comes_from_one(
    window: Window, row: ShotRow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    file = tmp_path / "look.ccc"
    add(row, "CDL")
    typed(field(row, "CDL saturation"), "0.5")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(file), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(file), ""))
    add(row, "Save the CDL…")
    press(button(row, "Take all away"))
    add(row, "CDL from a file…")
    one = window.document.job.shot("a1").finish.of("cdl")
    assert isinstance(one, Cdl)
    assert one.saturation == pytest.approx(0.5)
    file.write_text("no CDL at all")
    add(row, "CDL from a file…")
    assert "as a CDL file" in window.message


def test_text_is_typed_and_a_burn_in_is_ready(window: Window, row: ShotRow) -> None:
    add(row, "text")
    box = row.findChildren(QPlainTextEdit)[-1]
    box.setFocus()
    box.selectAll()
    QTest.keyClicks(box, "open night")
    one = window.document.job.shot("a1").finish.corrections[0]
    assert isinstance(one, Text)
    assert one.words == "open night"
    steps = len(window.document.history.past)
    QTest.keyClicks(box, "!")
    assert len(window.document.history.past) == steps  # typing is one step
    add(row, "frame and timecode")
    words = [one.words for one in window.document.job.shot("a1").finish.corrections]  # type: ignore[union-attr]
    assert words == ["open night!", "{name} {frame}   {timecode}"]


def test_fades_are_whole_frames(window: Window, row: ShotRow) -> None:
    add(row, "fade")
    typed(field(row, "fade frames_in"), "3")
    assert window.document.job.shot("a1").finish.of("fade") == Fade(frames_in=3)


def test_the_picture_follows_a_correction(window: Window, row: ShotRow, qtbot: QtBot) -> None:
    def middle() -> int:
        image = window.viewer._image
        assert image is not None
        return image.pixelColor(image.width() // 2, image.height() // 2).green()

    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    before = middle()
    add(row, "exposure")
    typed(field(row, "exposure stops"), "-2")
    qtbot.waitUntil(lambda: at_rest(window) and middle() < before, timeout=PATIENCE)
    after = middle()
    window.toggle_before()
    qtbot.waitUntil(lambda: at_rest(window) and middle() == before, timeout=PATIENCE)
    window.toggle_before()
    qtbot.waitUntil(lambda: at_rest(window) and middle() == after, timeout=PATIENCE)


def test_time_and_frame_of_a_shot(window: Window, row: ShotRow) -> None:

    def shot() -> Shot:
        return window.document.job.shot("a1")

    typed(field(row, "speed"), "50 %")
    assert window.player.programme is not None
    assert window.player.programme.timeline.length == 16
    typed(field(row, "length"), "12")
    assert window.player.programme.timeline.length == 12
    typed(field(row, "without"), "3-4,6")
    assert shot().timing.without == ((3, 4), (6, 6))
    typed(field(row, "holds"), "2×5")
    assert shot().timing.holds == ((2, 5),)
    choose(choice(row, "conversion"), "blend")
    assert shot().timing.conversion is Conversion.BLEND
    typed(field(row, "scale"), "50")
    typed(field(row, "x"), "20")
    choose(choice(row, "turn"), "a quarter right")
    assert (shot().placing.scale, shot().placing.x) == (0.5, 20)
    assert shot().placing.turn is Turn.RIGHT
    assert "px of ground" in texts(row)
    typed(field(row, "without"), "1-8")
    assert "leave one in" in window.message
    assert field(row, "without").text() == "3-4,6"


# ---- overlays ----------------------------------------------------------------------------------


def test_a_picture_is_scaled_softly(window: Window, row: ShotRow) -> None:
    choose(choice(row, "scaling"), "soft")
    assert window.document.job.reel.shots[0].placing.scaling is Scaling.SOFT


def test_an_overlay_is_laid_moved_blended_and_taken_off(
    window: Window, row: ShotRow, qtbot: QtBot, tmp_path: Path
) -> None:
    values = np.zeros((90, 160, 4), np.uint8)
    values[40:50, 60:100] = 255
    write_pixels(tmp_path / "title.png", values)
    drop(window, qtbot, tmp_path / "title.png")
    from functools import partial

    from waxseal.core.job.edits import Edit, lay_over, remove_shot

    window.document.do(Edit("off", partial(remove_shot, shot="a2")))
    window.document.do(Edit("over", partial(lay_over, source="s2", at=3)))
    press(row)  # closed
    over = window.ledger.overlay("o1")
    assert over is not None
    press(over)
    QApplication.processEvents()
    typed(field(over, "overlay length"), "4")
    typed(field(over, "overlay from"), "2")
    choose(choice(over, "blend"), "screen")
    overlay = window.document.job.overlay("o1")
    assert (overlay.at, overlay.length, overlay.blend) == (2, 4, Blend.SCREEN)
    middle = QPoint(int(over.bar.place_of(3)), over.bar.height() // 2)
    drag(over.bar, middle, middle + QPoint(int(over.bar.place_of(3)), 0))
    assert window.document.job.overlay("o1").at > 2
    over.setFocus()
    QTest.keyClick(over, Qt.Key.Key_Delete)
    assert window.document.job.reel.overlays == ()


# ---- the reel ----------------------------------------------------------------------------------


def test_the_reels_colour_and_finish(window: Window, row: ShotRow) -> None:
    assert not window.findChildren(ReelDocket)  # what is closed costs nothing
    press(button(window.ledger, "Colour and finish"))
    QApplication.processEvents()
    reel = window.ledger._reel
    choose(choice(reel, "working"), "ACEScg")
    choose(choice(reel, "view"), "ACES SDR")
    colour = window.document.job.reel.colour
    assert (colour.working, colour.view) == (Working.ACESCG, View.ACES_SDR)
    add(reel, "grain")
    assert window.document.job.reel.finish.of("grain") == Grain()
    assert button(window.ledger, "Colour and finish (1)")
    choose(choice(reel, "view"), "of the config")
    assert window.document.job.reel.colour.view is View.OWN
    assert window.document.job.reel.colour.display
    box = choice(reel, "own view")
    choose(box, box.itemText(2))
    assert window.document.job.reel.colour.shown in box.itemText(2)
    assert docket_of(reel).of == REEL


# ---- stacks ------------------------------------------------------------------------------------


def test_passes_are_put_together_compared_and_taken_apart(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    folder = tmp_path / "frames"
    folder.mkdir()
    light = np.full((36, 64, 3), 0.2, np.float16)
    for frame in range(1, 4):
        write_pixels(folder / f"sh.{frame:04d}.exr", light * 2)
        for kind in ("diffuse", "specular"):
            write_pixels(folder / f"sh_{kind}.{frame:04d}.exr", light)
    drop(window, qtbot, folder)
    names = {source.name: source.id for source in window.document.job.sequences}
    assert len(window.document.job.reel.shots) == 1  # the beauty stands for all
    card = window.tray.card(names["sh"])
    assert card is not None
    press(card)
    press(button(card, "Put its 2 passes together"))
    stack = window.document.job.sequence(names["sh"]).stack
    assert stack is not None
    assert [one.source for one in stack.passes] == [names["sh_diffuse"], names["sh_specular"]]
    press(button(card, "Compare with it"))
    until_says(qtbot, card, "add up to the beauty: they")
    typed(field(card, "exposure 1"), "1")
    press(button(card, "Compare with it"))
    until_says(qtbot, card, "do not add up to the beauty")
    press(button(card, "Show the difference"))
    assert window.player.aspect is Aspect.DIFFERENCE
    key = window.player.key_of(1)
    assert key is not None
    qtbot.waitUntil(lambda: window.pictures.has(key), timeout=PATIENCE)
    window.actions_["apart"].trigger()
    assert window.player.aspect.value == "picture"
    choose(choice(card, "operation 1"), "multiply")
    stack = window.document.job.sequence(names["sh"]).stack
    assert stack is not None
    assert (stack.passes[1].operation, stack.passes[1].exposure) == (Operation.MULTIPLY, 1.0)
    press(button(card, "Take apart"))
    assert window.document.job.sequence(names["sh"]).stack is None


def test_alpha_is_seen_and_what_is_not_there_is_a_sentence(
    window: Window, row: ShotRow, qtbot: QtBot
) -> None:
    def shown() -> QImage | None:
        key = window.player.key_of(window.player.frame)
        return window.pictures.get(key) if key is not None else None

    window.actions_["alpha"].trigger()
    qtbot.waitUntil(lambda: shown() is not None, timeout=PATIENCE)
    image = shown()
    assert image is not None
    assert image.pixelColor(image.width() // 2, image.height() // 2).lightness() == 255
    window.actions_["unsure"].trigger()
    qtbot.waitUntil(lambda: "is an original" in window.viewer._trouble, timeout=PATIENCE)
    window.actions_["unsure"].trigger()
    qtbot.waitUntil(lambda: window.viewer.has_picture, timeout=PATIENCE)
    assert window.player.aspect is Aspect.PICTURE


# ---- looking -----------------------------------------------------------------------------------


def test_scopes_and_the_colours_path_are_shown(window: Window, row: ShotRow, qtbot: QtBot) -> None:
    window.viewer.toggle("scopes")
    window.viewer.toggle("path")
    window.viewer.toggle("safe")
    window.viewer.toggle("clipped")
    qtbot.waitUntil(lambda: window.viewer._scopes is not None, timeout=PATIENCE)
    qtbot.waitUntil(lambda: bool(window.viewer.path_steps()), timeout=PATIENCE)
    words = [step.words for step in window.viewer.path_steps()]
    assert words[0].startswith("in the file: sRGB")
    assert words[-1].startswith("delivered: Y′CbCr BT.709")
    window.grab()  # all of it is drawn without complaint


def test_a_delivery_is_made_for_another_display(window: Window, row: ShotRow) -> None:
    window.outbox.toggle("d1")
    QApplication.processEvents()
    choose(choice(window.outbox, "space"), "BT.709")
    switch(window.outbox, "dither").click()
    one = window.document.job.delivery("d1")
    assert (one.space, one.dither) == (Space.BT709, True)


def test_a_colour_that_the_file_could_not_say_is_not_offered(window: Window, row: ShotRow) -> None:
    window.outbox.toggle("d1")
    QApplication.processEvents()
    choose(choice(window.outbox, "codec"), "DNxHR HQX, 10 bits 4:2:2")
    spaces = choice(window.outbox, "space")
    assert "Display P3" in [spaces.itemText(one) for one in range(spaces.count())]
    choose(choice(window.outbox, "container"), "MXF")
    spaces = choice(window.outbox, "space")
    assert "Display P3" not in [spaces.itemText(one) for one in range(spaces.count())]


def test_a_delivery_takes_another_form(window: Window, row: ShotRow, qtbot: QtBot) -> None:
    def delivery() -> Delivery:
        return window.document.job.deliveries[0]

    window.outbox.toggle("d1")
    QApplication.processEvents()
    choose(choice(window.outbox, "codec"), "H.265, 10 bits")
    choose(choice(window.outbox, "space"), "BT.2020 PQ")
    assert (delivery().codec, delivery().space) == ("H.265", Space.PQ)
    press(button(window.outbox, "Seal this one"))
    press(window.outbox.asking.yes)
    until_says(qtbot, window.outbox, "sealed")
    press(switch(window.outbox, "exact"))
    assert delivery().exact
    until_says(qtbot, window.outbox, "Its settings have changed since.")
    choose(choice(window.outbox, "codec"), "EXR frames, half")
    assert (delivery().codec, delivery().space) == ("EXR", Space.LINEAR)
    boxes = [one for one in window.outbox.findChildren(QComboBox) if one.isVisible()]
    names = ["codec", "container", "alpha", "soundCodec", "soundChannels"]
    assert [one.objectName() for one in boxes] == names
    press(button(window.outbox, "Seal this one"))
    qtbot.waitUntil(lambda: path_of(delivery()).is_dir(), timeout=PATIENCE)
    choose(choice(window.outbox, "codec"), "H.264, 8 bits")
    assert (delivery().codec, delivery().space) == ("H.264", Space.SRGB)


def test_the_config_that_holds_is_named(
    window: Window, row: ShotRow, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    window.ledger.toggle_reel()
    assert any(one.text() == "built-in" for one in window.ledger.findChildren(QPushButton))
    monkeypatch.setenv("OCIO", str(tmp_path / "house.ocio"))
    window.ledger.toggle_reel()
    window.ledger.toggle_reel()
    assert any(one.text() == "house.ocio" for one in window.ledger.findChildren(QPushButton))


def test_a_source_is_read_as_a_space_of_the_config(
    window: Window, row: ShotRow, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_: ("ACEScct", True))
    card = window.tray.card("s1")
    assert card is not None
    press(card)
    choose(choice(card, "colour"), "of the OCIO config…")
    reading = window.document.job.sequence("s1").reading
    assert (str(reading.colour.value), reading.space.value) == ("of the config", "ACEScct")
    assert choice(card, "colour").currentText() == "ACEScct"


def seen_fields(row: QWidget) -> set[str]:
    return {one.objectName() for one in row.findChildren(QLineEdit) if one.isVisibleTo(row)}


def test_a_title_card_is_a_still_with_words_that_can_be_changed(
    window: Window, row: ShotRow, qtbot: QtBot
) -> None:
    window.player.go(4)
    window.actions_["title"].trigger()
    qtbot.waitUntil(lambda: isinstance(QApplication.focusWidget(), LineBox), timeout=PATIENCE)
    assert window.player.frame == 4  # the picture that is written on is looked at
    words = QApplication.focusWidget()
    assert words is not None
    QTest.keyClicks(words, "The Brass Orrery")  # in place of the word that stood there
    window.document.settle()
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    assert len(window.document.job.reel.shots) == 1
    (card,) = window.document.job.reel.overlays
    assert (card.at, card.length) == (4, 48)
    (text,) = card.finish.corrections
    assert isinstance(text, Text)
    assert text.words == "The Brass Orrery"
    assert window.document.job.sequence(card.source).kind == "still"
    docket = window.ledger.overlay(card.id)
    assert docket is not None
    assert "overlay length" in seen_fields(docket)
    assert not {"head", "length"} & seen_fields(docket)  # a still has no time of its own
    for _ in range(2):  # the words, and the card; it stays in the in-tray
        window.actions_["undo"].trigger()
    assert window.document.job.reel.overlays == ()
    assert len(window.document.job.sequences) == 2


def test_bars_tone_and_a_slate_come_in_like_anything_else(
    window: Window, row: ShotRow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("waxseal.app.generate_media.made_folder", lambda: tmp_path / "made")
    window.generating.add_bars()
    qtbot.waitUntil(
        lambda: len(window.document.job.sounds) == 1 and at_rest(window), timeout=PATIENCE
    )
    window.actions_["slate"].trigger()
    qtbot.waitUntil(
        lambda: len(window.document.job.reel.shots) == 3 and at_rest(window), timeout=PATIENCE
    )
    slate = window.document.job.reel.shots[0]  # before the first frame
    assert [text.place for text in slate.finish.corrections] == ["top left", "bottom left"]  # type: ignore[union-attr]
    window.ledger.toggle(window.document.job.reel.shots[2].id)
    bars = window.ledger.row(window.document.job.reel.shots[2].id)
    assert bars is not None
    qtbot.waitUntil(lambda: "length" in seen_fields(bars), timeout=PATIENCE)
    assert "speed" not in seen_fields(bars)
    names = [source.name for source in window.document.job.sequences]
    assert names[1:] == ["160x90_bars", "160x90_slate"]
    assert window.player.programme is not None
    assert (
        window.player.programme.timeline.length == 8 + 5 * 24 + 2 * 24
    )  # a still stays for five seconds, a card for two
