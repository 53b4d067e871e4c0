"""Sounds in the window: their rows, their docket, and how they are heard."""

from __future__ import annotations

from fractions import Fraction
from functools import partial
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox
from pytestqt.qtbot import QtBot
from typing_extensions import override

from tests.making import write_sequence, write_tone
from tests.window.driving import (
    PATIENCE,
    button,
    choice,
    choose,
    drag,
    drop,
    field,
    seal_everything,
    texts,
    typed,
)
from waxseal.app.reel_view.sound_row import SoundRow
from waxseal.app.view.meter_widget import LevelMeter
from waxseal.app.window import Window
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import Edit, add_delivery, change_sound, lay_sound, trim_head
from waxseal.core.plan.sound_pieces import sound_plan
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.sound.audio_devices import SilentOutlet
from waxseal.core.sound.level_meter import Levels
from waxseal.core.sound.mix import mix_blocks
from waxseal.core.timing.ranges import FrameRange

RATE = 48_000


@pytest.fixture
def frames(tmp_path: Path) -> Path:
    """A second at 24, with the noise of its name, and a tone that came alone."""
    folder = write_sequence(tmp_path / "sh010", "sh010.%04d.png", frames=range(1, 25))
    noise = np.random.default_rng(1).standard_normal((RATE, 2)) * 0.1
    soundfile.write(folder / "sh010.wav", noise, RATE, subtype="FLOAT")
    return folder


@pytest.fixture
def outlets(window: Window) -> list[SilentOutlet]:
    """Those that the window opens, which keep what they are given."""
    made: list[SilentOutlet] = []

    def opened(sample_rate: int, channels: int, _name: str) -> SilentOutlet:
        made.append(SilentOutlet(sample_rate, channels, keeps=True))
        return made[-1]

    window.player.sounding.opener = opened
    return made


def row(window: Window, laid: str) -> SoundRow:
    found = window.ledger.sound(laid)
    assert found is not None
    return found


def test_a_bound_sound_has_a_row_and_is_set_free_and_bound_again(
    window: Window, qtbot: QtBot, frames: Path
) -> None:
    drop(window, qtbot, frames)
    (laid,) = window.document.job.reel.sounds
    assert laid.bound
    window.document.do(Edit("trim", lambda job: trim_head(job, shot="a1", first=7)))
    window.ledger.toggle(laid.id)
    shown = row(window, laid.id)
    assert "with sh010" in shown.accessibleName()
    button(shown, "set free").click()
    (free,) = window.document.job.reel.sounds
    assert free.is_free
    assert (free.at, free.head) == (Fraction(1), Fraction(1, 4)), "it is heard as before"
    button(shown, "bind to its shot").click()
    assert window.document.job.reel.sounds[0].bound
    window.document.undo()
    assert window.document.job.reel.sounds[0] == free


def test_a_free_sound_is_dragged_trimmed_and_nudged(
    window: Window, qtbot: QtBot, frames: Path, tmp_path: Path
) -> None:
    drop(window, qtbot, frames)
    drop(window, qtbot, write_tone(tmp_path / "bell.wav", seconds=0.5))
    laid = window.document.job.reel.sounds[-1]
    assert laid.is_free
    shown = row(window, laid.id)
    bar = shown.bar
    middle = QPoint(bar.width() // 4, bar.height() // 2)
    drag(bar, middle, middle + QPoint(bar.width() // 4, 0))
    moved = window.document.job.laid_sound(laid.id)
    assert moved.at == pytest.approx(7, abs=1)  # a quarter of 24 frames later
    assert moved.placed
    left = QPoint(bar.width() // 4 + 2, bar.height() // 2)
    drag(bar, left, left + QPoint(bar.width() // 10, 0))
    trimmed = window.document.job.laid_sound(laid.id)
    assert float(trimmed.head) == pytest.approx(0.1, abs=0.03)
    assert trimmed.at - moved.at == trimmed.head * 24, "what is left is heard when it was"
    shown.setFocus()
    alt, ctrl = Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ControlModifier
    QTest.keyClick(shown, Qt.Key.Key_Right, alt)
    assert window.document.job.laid_sound(laid.id).at == trimmed.at + 1
    QTest.keyClick(shown, Qt.Key.Key_Left, alt | ctrl)
    assert window.document.job.laid_sound(laid.id).at == trimmed.at + 1 - Fraction(24, RATE)
    QTest.keyClick(shown, Qt.Key.Key_Delete)
    assert [one.id for one in window.document.job.reel.sounds] != [laid.id]
    assert len(window.document.job.reel.sounds) == 1


def test_gain_fades_and_what_it_ducks_under_are_said_in_its_docket(
    window: Window, qtbot: QtBot, frames: Path, tmp_path: Path
) -> None:
    drop(window, qtbot, frames)
    drop(window, qtbot, write_tone(tmp_path / "bell.wav", seconds=0.5))
    bound, free = window.document.job.reel.sounds
    window.ledger.toggle(free.id)
    shown = row(window, free.id)
    for name, text in (("gain", "-6"), ("fade_in", "0.25"), ("sound from", "3.5")):
        typed(field(shown, name), text)
    laid = window.document.job.laid_sound(free.id)
    assert (laid.gain, laid.fade_in.seconds, laid.at) == (-6, Fraction(1, 4), Fraction(7, 2))
    choose(choice(shown, "under"), "sh010.wav")
    assert window.document.job.laid_sound(free.id).under == bound.id
    assert "under sh010.wav" in shown.accessibleName()


def test_what_is_played_is_what_is_delivered_and_the_picture_follows(
    window: Window, qtbot: QtBot, frames: Path, outlets: list[SilentOutlet]
) -> None:
    drop(window, qtbot, frames)
    player = window.player
    player.loops = False
    seen: list[int] = []
    player.moved.connect(seen.append)
    player.toggle()
    qtbot.waitUntil(lambda: not player.is_playing, timeout=PATIENCE)
    assert player.frame == 24
    assert seen == sorted(seen)
    player.sounding.close()
    timeline = timeline_of(window.document.job)
    plan = sound_plan(timeline, FrameRange(1, 24))
    assert plan is not None
    mixed = np.concatenate(list(mix_blocks(plan, 1000)))
    given = np.concatenate(outlets[0].given)
    first = np.flatnonzero(np.abs(given).max(axis=1))[0]
    whole = given[first : first + len(mixed)]
    np.testing.assert_array_equal(whole, mixed[: len(whole)])
    assert len(whole) > 0.9 * len(mixed)


def test_a_step_lets_its_frame_be_heard(
    window: Window, qtbot: QtBot, frames: Path, outlets: list[SilentOutlet]
) -> None:
    drop(window, qtbot, frames)
    window.player.step(5)

    def loud() -> int:
        given = [part for one in outlets for part in one.given]
        return int(sum((np.abs(part).max(axis=1) > 0).sum() for part in given))

    qtbot.waitUntil(lambda: loud() > 1900, timeout=PATIENCE)
    qtbot.wait(200)
    assert loud() <= 2000  # a frame at 24 a second
    window.player.sounding.close()


def test_muted_and_alone_are_for_listening_only(
    window: Window, qtbot: QtBot, frames: Path, outlets: list[SilentOutlet]
) -> None:
    drop(window, qtbot, frames)
    laid = window.document.job.reel.sounds[0].id
    before = window.document.job
    window.ledger.toggle(laid)
    boxes = row(window, laid).findChildren(QCheckBox)
    next(one for one in boxes if one.text() == "muted").click()
    assert "muted here" in texts(row(window, laid))
    assert window.document.job == before, "a delivery knows nothing of it"
    window.player.loops = False
    window.player.toggle()
    qtbot.waitUntil(lambda: window.player.frame > 6, timeout=PATIENCE)
    window.player.stop()
    window.player.sounding.close()
    assert not any(np.abs(part).max(initial=0) for part in outlets[0].given)


def test_how_it_is_heard_is_kept(window: Window, qtbot: QtBot) -> None:
    window.transport.sound.volume.setValue(30)
    window.actions_["mute"].trigger()
    kept = window._settings.listening
    assert (kept.volume, kept.is_mute) == (0.3, True)
    window.actions_["mute"].trigger()
    assert not window._settings.listening.is_mute


def test_playing_backwards_goes_to_the_first_frame(
    window: Window, qtbot: QtBot, frames: Path, outlets: list[SilentOutlet]
) -> None:
    drop(window, qtbot, frames)
    window.player.loops = False
    window.player.go(20)
    window.actions_["play back"].trigger()
    qtbot.waitUntil(lambda: not window.player.is_playing, timeout=PATIENCE)
    assert window.player.frame == 1
    window.player.sounding.close()


def test_a_reel_of_many_sounds(window: Window, qtbot: QtBot, frames: Path) -> None:
    drop(window, qtbot, frames)
    sound = window.document.job.sounds[0].id
    for number in range(1, 21):
        window.document.do(Edit("lay", partial(lay_sound, source=sound, at=number)))
    assert len(window.document.job.reel.sounds) == 21
    assert row(window, window.document.job.reel.sounds[-1].id).isVisibleTo(window.ledger)


def test_a_clap_is_brought_to_its_flash(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    folder = tmp_path / "marks"
    folder.mkdir()
    for number in range(1, 49):
        level = 250 if number == 25 else 20
        write_pixels(folder / f"marks.{number:04}.png", np.full((36, 64, 3), level, np.uint8))
    clap = np.zeros((2 * RATE, 2), np.float32)
    random = np.random.default_rng(1)
    first = RATE + 6000  # an eighth of a second late: three frames
    clap[first : first + 2000] = random.uniform(-0.5, 0.5, (2000, 2))
    soundfile.write(folder / "marks.wav", clap, RATE, subtype="FLOAT")
    drop(window, qtbot, folder)
    laid = window.document.job.reel.sounds[0]
    window.ledger.toggle(laid.id)
    button(row(window, laid.id), "line up by clap and flash").click()
    qtbot.waitUntil(lambda: window.document.job.reel.sounds[0] != laid, timeout=PATIENCE)
    moved = window.document.job.reel.sounds[0]
    assert float(moved.at) == pytest.approx(-2, abs=0.02)
    assert "3.00 frames earlier" in window.message


def test_a_card_is_heard_by_itself(
    window: Window, qtbot: QtBot, frames: Path, outlets: list[SilentOutlet]
) -> None:
    drop(window, qtbot, frames)
    window.player.sounding.play_alone(window.document.job.sounds[0])

    def loud() -> int:
        given = [part for one in outlets for part in one.given]
        return int(sum((np.abs(part).max(axis=1) > 0).sum() for part in given))

    qtbot.waitUntil(lambda: loud() >= RATE - 100, timeout=PATIENCE)
    qtbot.waitUntil(lambda: window.player.sounding.levels is None, timeout=PATIENCE)
    window.player.sounding.close()


def test_what_the_transport_has_room_for_comes_to_rest(window: Window, qtbot: QtBot) -> None:
    """What is shown, does not fit, and is hidden would be shown again for ever."""
    asked: list[int] = []

    class Watch(QObject):
        @override
        def eventFilter(self, watched: QObject, event: QEvent) -> bool:
            if event.type() is QEvent.Type.LayoutRequest:
                asked.append(window.width())
            return False

    watch = Watch()
    for width in range(1024, 1600, 24):
        window.resize(width, 800)
        qtbot.wait(20)
        window.transport.installEventFilter(watch)
        qtbot.wait(30)
        window.transport.removeEventFilter(watch)
    assert len(asked) < 12, "they come to rest"


def test_a_sound_that_was_replaced_is_brought_again(
    window: Window, qtbot: QtBot, frames: Path
) -> None:
    drop(window, qtbot, frames)
    before = window.document.job.sounds[0]
    write_tone(frames / "sh010.wav", seconds=2, rate=44_100)
    drop(window, qtbot, frames / "sh010.wav")
    after = window.document.job.sounds[0]
    assert (after.id, after.sample_rate, after.samples) == (before.id, 44_100, 88_200)
    assert window.document.job.reel.sounds[0].bound
    drop(window, qtbot, frames / "sh010.wav")
    assert window.document.job.sounds[0] is after, "nothing has changed since"


def test_the_loudness_of_the_reel_is_drawn_on_request_and_follows_its_edits(
    window: Window, qtbot: QtBot, frames: Path
) -> None:
    drop(window, qtbot, frames)
    act = window.actions_["loudness"]
    act.trigger()
    qtbot.waitUntil(lambda: window.loudness.course is not None, timeout=PATIENCE)
    before = window.loudness.course
    assert before is not None
    assert window.message.startswith("The reel measures −")
    drawn = window.rule.grab().toImage()
    sound = window.document.job.reel.sounds[0].id
    window.document.do(Edit("quieter", partial(change_sound, sound=sound, gain=-12)))
    qtbot.waitUntil(lambda: window.loudness.course not in (None, before), timeout=PATIENCE)
    after = window.loudness.course
    assert after is not None
    assert after.integrated == pytest.approx(before.integrated - 12, abs=0.1)
    act.trigger()
    assert window.loudness.course is None
    qtbot.waitUntil(lambda: not window.rule.is_busy, timeout=PATIENCE)
    assert window.rule.grab().toImage() != drawn


def test_a_reel_without_sound_says_so_once(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    drop(window, qtbot, write_sequence(tmp_path / "mute", "mute.%04d.png", frames=range(1, 5)))
    window.actions_["loudness"].trigger()
    assert window.message == "The reel has no sound to measure."
    window.say("")
    window.loudness.show_timeline(window.player.timeline)
    qtbot.waitUntil(lambda: not window.loudness._soon.isActive(), timeout=PATIENCE)
    assert window.message == ""


def new_delivery(window: Window, folder: Path) -> str:
    window.document.do(Edit("add", partial(add_delivery, name="film", folder=str(folder))))
    return window.document.job.deliveries[0].id


def test_a_sound_that_strayed_is_decided_about_in_the_match(
    window: Window, qtbot: QtBot, frames: Path
) -> None:
    drop(window, qtbot, frames)
    sound = window.document.job.reel.sounds[0]
    window.document.do(
        Edit("free", partial(change_sound, sound=sound.id, bound=False, shot="", at=5))
    )
    delivery = new_delivery(window, frames)
    window.outbox.toggle(delivery)
    card = window.outbox.cards[delivery]
    for words, bound, placed in (
        ("Bind to its shot", True, False),
        ("It lies where it should", False, True),
    ):
        button(card, words).click()
        now = window.document.job.reel.sounds[0]
        assert (now.bound, now.placed) == (bound, placed)
        window.document.undo()


def test_the_file_of_a_delivery_is_heard_by_itself(
    window: Window, qtbot: QtBot, frames: Path, outlets: list[SilentOutlet]
) -> None:
    drop(window, qtbot, frames)
    delivery = new_delivery(window, frames)
    window.proving.hear(delivery)
    qtbot.waitUntil(lambda: "not made yet" in window.message, timeout=PATIENCE)
    seal_everything(window)

    def is_made() -> bool:
        return window.document.job.delivery(delivery).outcome is not None

    qtbot.waitUntil(is_made, timeout=PATIENCE)
    window.outbox.toggle(delivery)
    button(window.outbox.cards[delivery], "Hear it").click()

    def loud() -> int:
        given = [part for one in outlets for part in one.given]
        return int(sum((np.abs(part).max(axis=1) > 0).sum() for part in given))

    qtbot.waitUntil(lambda: loud() > RATE * 0.9, timeout=PATIENCE)
    window.player.sounding.close()


def test_another_number_of_channels_begins_with_a_meter_of_its_own(
    window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    sounding = window.player.sounding
    given = [Levels((-3.0, -6.0)), None, Levels((-1.0,))]
    monkeypatch.setattr(type(sounding), "levels", property(lambda _: given[0]))
    meter = window.findChildren(LevelMeter)[0]
    sounding.begun.emit()
    meter._look()
    del given[0]
    sounding.begun.emit()
    assert meter.spoken_value() == ""
    meter.grab()
    del given[0]
    meter._look()
    meter.grab()
    assert meter.spoken_value()
