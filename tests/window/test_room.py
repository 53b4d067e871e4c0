"""Room for every text: in a small window, with large text, in a language of long words."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QSettings, QTranslator
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot
from typing_extensions import override

from tests.making import write_sequence, write_tone
from tests.window.cuts import cut_texts
from tests.window.driving import PATIENCE, at_rest, drop, put_away
from waxseal.app.look.palette import current
from waxseal.app.look.style_sheet import apply_look
from waxseal.app.look.text_scale import USUAL_PIXELS, px, set_text_pixels
from waxseal.app.window import Window


class Longer(QTranslator):
    """Every text two fifths longer, as other languages have it."""

    @override
    def translate(self, context: str, source: str, hint: str | None = None, count: int = -1) -> str:
        return source + "e" * round(len(source) * 0.4)

    @override
    def isEmpty(self) -> bool:
        return False


def write_as_tall_as(app: QApplication, pixels: float) -> None:
    set_text_pixels(pixels)
    font = QFont(app.font())
    font.setPixelSize(px(USUAL_PIXELS))
    app.setFont(font)
    apply_look(app, current())


@pytest.fixture
def scale(request: pytest.FixtureRequest, qapp: QApplication) -> Iterator[float]:
    write_as_tall_as(qapp, USUAL_PIXELS * request.param)
    yield request.param
    write_as_tall_as(qapp, USUAL_PIXELS)


@pytest.fixture
def translator(request: pytest.FixtureRequest, qapp: QApplication) -> Iterator[None]:
    longer = Longer()
    if request.param:
        qapp.installTranslator(longer)
    yield
    qapp.removeTranslator(longer)


@pytest.fixture
def room(qtbot: QtBot, tmp_path: Path, translator: None, scale: float) -> Iterator[Window]:
    settings = QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)
    made = Window(settings, tmp_path / "autosave")
    made.show()
    qtbot.waitExposed(made)
    yield made
    put_away(made)


@pytest.mark.parametrize(
    ("size", "scale", "translator"),
    [
        ((1280, 800), 1.0, False),
        ((1024, 640), 1.0, False),
        ((1280, 800), 1.5, False),
        ((1280, 800), 1.0, True),
        ((1920, 1080), 1.5, True),
        ((3840, 2160), 1.5, False),
    ],
    indirect=["scale", "translator"],
)
def test_every_text_has_room(
    room: Window, qtbot: QtBot, tmp_path: Path, size: tuple[int, int]
) -> None:
    room.resize(*size)
    shot = write_sequence(tmp_path / "shot", frames=range(1, 25), width=160, height=90)
    other = write_sequence(tmp_path / "b", "b.%d.exr", frames=[1, 2, 4], width=320, height=180)  # type: ignore[arg-type]
    drop(room, qtbot, shot, other, write_tone(tmp_path / "tone.wav"))
    assert (room.width(), room.height()) == size, "it does not need more than there is"
    for opened in ("nothing", "dockets", "the reel"):
        if opened == "dockets":
            open_dockets(room)
        elif opened == "the reel":
            room.ledger.toggle_reel()
        qtbot.waitUntil(lambda: at_rest(room), timeout=PATIENCE)
        qtbot.wait(50)
        assert any(one.isVisible() for one in room.findChildren(QLabel))
        assert cut_texts(room) == [], f"with {opened} open: {cut_texts(room)}"


def open_dockets(window: Window) -> None:
    window.actions_["habits"].trigger()
    window.tray.toggle("s2")
    window.ledger.toggle("a1")
    window.outbox.toggle("d1")


@pytest.mark.parametrize(
    ("size", "tray", "ledger"),
    [((1280, 800), 248, 240), ((3840, 2160), 420, 580)],
)
def test_lanes_take_their_share_of_a_large_screen(
    qtbot: QtBot, tmp_path: Path, size: tuple[int, int], tray: int, ledger: int
) -> None:
    settings = QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)
    made = Window(settings, tmp_path / "autosave")
    made.resize(*size)
    made.show()
    qtbot.waitExposed(made)
    assert made.tray.width() == pytest.approx(tray, abs=4)
    assert made.ledger.height() == pytest.approx(ledger, abs=12)
    put_away(made)
