"""Nothing happens by accident: wheels, questions, files that something else writes."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, QSettings, Qt, QTimer, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QApplication, QComboBox, QMessageBox, QPushButton
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import (
    PATIENCE,
    at_rest,
    drop,
    open_dockets,
    put_away,
    turn_wheel,
)
from waxseal.app.window import Window
from waxseal.core.job.autosave import put_broken_aside
from waxseal.core.job.edits import Edit
from waxseal.core.job.job_file import load, save
from waxseal.core.job.model import Job, change


@pytest.fixture
def frames(tmp_path: Path) -> Path:
    return write_sequence(tmp_path / "frames", frames=range(1, 9), width=160, height=90)


def test_the_wheel_changes_only_what_has_the_focus(
    window: Window, qtbot: QtBot, frames: Path
) -> None:
    drop(window, qtbot, frames)
    open_dockets(window)
    window.ledger.toggle_reel()
    QApplication.processEvents()
    before = window.document.job
    boxes = [box for box in window.findChildren(QComboBox) if box.isVisible()]
    assert len(boxes) > 8
    for box in boxes:
        turn_wheel(box)
        assert not box.hasFocus()
    assert window.document.job is before
    codec = next(box for box in boxes if box.objectName() == "codec")
    codec.setFocus()
    turn_wheel(codec)
    assert window.document.job.deliveries[0].codec != before.deliveries[0].codec


def answer(words: str) -> None:
    """Press a button of the next question, as soon as it is there."""

    def press() -> None:
        box = QApplication.activeModalWidget()
        if not isinstance(box, QMessageBox):
            QTimer.singleShot(20, press)
            return
        for one in box.findChildren(QPushButton):
            if one.text().replace("&", "") == words:
                one.click()
                return
        raise AssertionError(f"there is no {words} in “{box.text()}”")

    QTimer.singleShot(0, press)


def answer_in_turn(*words: str) -> None:
    """The same for several questions, one after the other."""
    seen: list[QMessageBox] = []

    def press() -> None:
        box = QApplication.activeModalWidget()
        if isinstance(box, QMessageBox) and box not in seen:
            seen.append(box)
            wanted = words[len(seen) - 1]
            buttons = box.findChildren(QPushButton)
            next(one for one in buttons if one.text().replace("&", "") == wanted).click()
        if len(seen) < len(words):
            QTimer.singleShot(20, press)

    QTimer.singleShot(0, press)


def test_nothing_is_stopped_before_the_last_question_is_answered(
    window: Window, qtbot: QtBot, frames: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    drop(window, qtbot, frames)
    stopped: list[bool] = []
    monkeypatch.setattr(type(window.sending), "is_busy", property(lambda _: True))
    monkeypatch.setattr(window.sending, "stop_all", lambda: stopped.append(True))
    answer_in_turn("Stop it", "Cancel")
    assert not window.files.may_leave()
    assert stopped == []
    answer_in_turn("Stop it", "Discard")
    assert window.files.may_leave()
    assert stopped == [True]


@pytest.fixture
def saved(window: Window, qtbot: QtBot, frames: Path, tmp_path: Path) -> Path:
    drop(window, qtbot, frames)
    path = tmp_path / "orrery.waxseal"
    assert window.document.save(path)
    return path


def rename(window: Window, name: str) -> None:
    window.document.do(Edit("rename", lambda job: change(job, name=name)))


@pytest.fixture
def theirs(saved: Path) -> Job:
    """Another window saves the same job, changed."""
    job = change(load(saved), name="theirs")
    save(job, saved)
    return job


def test_a_job_that_something_else_wrote_is_noticed(
    window: Window, qtbot: QtBot, saved: Path, theirs: Job
) -> None:
    window.jobwatch.look()
    qtbot.waitUntil(lambda: "changed by something else" in window.message, timeout=PATIENCE)
    window.say("")
    window.jobwatch.look()
    qtbot.wait(100)
    assert window.message == "", "it is said once"
    saved.unlink()
    window.jobwatch.look()
    qtbot.waitUntil(lambda: "is not there any more" in window.message, timeout=PATIENCE)


@pytest.mark.parametrize(
    ("word", "on_disk", "here"),
    [
        ("Keep mine", "mine", "mine"),
        ("Take theirs", "theirs", "theirs"),
        ("Cancel", "theirs", "mine"),
    ],
)
def test_saving_over_it_asks(
    window: Window, saved: Path, theirs: Job, word: str, on_disk: str, here: str
) -> None:
    rename(window, "mine")
    answer(word)
    assert window.files.save() is (word != "Cancel")
    assert load(saved).name == on_disk
    assert window.document.job.name == here
    assert window.document.is_saved is (word != "Cancel")
    if word == "Take theirs":
        window.document.undo()
        assert window.document.job.name == "mine"
        assert window.files.save(), "what was taken is known: no second question"


def test_a_job_that_is_gone_is_saved_again_only_when_that_is_said(
    window: Window, saved: Path
) -> None:
    saved.unlink()
    answer("Cancel")
    assert not window.files.save()
    assert not saved.exists()
    answer("Save it there")
    assert window.files.save()
    assert saved.exists()
    assert window.files.save(), "and then it is as before"


@pytest.mark.parametrize(
    "text",
    [
        "look=lamp\n[layout]\nlanes=nonsense\nmiddle=7\nwindow=@ByteArray(\\0\\0)\n",
        "look=7\nrecent=@Invalid()\n[layout]\nlanes=@Size(3 4)\n",
        "recent=1, 2, 3\n[layout]\nwindow=true\nlanes=a, b\n",
        "[General]\nlook=@Variant(\\0\\0\\0\\x7f\\xff\n[lay",
        "\0\0\0\0",
    ],
)
def test_settings_that_are_damaged_count_as_not_said(
    qtbot: QtBot, tmp_path: Path, text: str, window_of: Callable[[QSettings], Window]
) -> None:
    path = tmp_path / "damaged.ini"
    path.write_text(text, "latin-1")
    made = window_of(QSettings(str(path), QSettings.Format.IniFormat))
    assert made.isVisible()
    made.files.recent()


@pytest.fixture
def window_of(qtbot: QtBot, tmp_path: Path) -> Iterator[Callable[[QSettings], Window]]:
    made: list[Window] = []

    def make(settings: QSettings) -> Window:
        window = Window(settings, tmp_path / "autosave of another")
        made.append(window)
        window.show()
        qtbot.waitExposed(window)
        return window

    yield make
    for window in made:
        put_away(window)


def drop_urls(window: Window, *urls: str) -> None:
    mime = QMimeData()
    mime.setUrls([QUrl(url) for url in urls])
    action, button = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    none = Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(QPoint(100, 200), action, mime, button, none)
    QApplication.sendEvent(window, enter)
    QApplication.sendEvent(window, QDropEvent(QPointF(100, 200), action, mime, button, none))


def test_what_is_dropped_beside_a_job_comes_into_it(
    window: Window, qtbot: QtBot, frames: Path, tmp_path: Path
) -> None:
    path = tmp_path / "empty.waxseal"
    save(Job(name="empty"), path)
    drop(window, qtbot, path, frames)
    assert window.document.job.name == "empty"
    assert len(window.document.job.sources) == 1


def test_a_web_address_is_said_to_be_none_of_our_files(window: Window, qtbot: QtBot) -> None:
    drop_urls(window, "https://example.org/a.mov")
    assert "not a file of this machine" in window.message


def test_old_words_go_with_the_next_act(window: Window, qtbot: QtBot, frames: Path) -> None:
    drop(window, qtbot, frames)
    window.say("something that was")
    rename(window, "another")
    assert window.message == ""
    window.say("something that was")
    window.actions_["undo"].trigger()
    assert window.message == ""
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)


def test_broken_autosaves_are_put_aside_and_said(window: Window, tmp_path: Path) -> None:
    folder = window.autosaves
    folder.mkdir(parents=True, exist_ok=True)
    gone = 2**22 + 7  # no process has that number
    (folder / f"{gone}.json").write_text("{")
    newer = {"origin": None, "job": {"kind": "waxseal job", "schema": 99}}
    (folder / f"{gone + 1}.json").write_text(json.dumps(newer))
    window.files.offer_recovery()
    assert "An autosave cannot be read" in window.message
    assert [path.name for path in folder.glob("*.broken")] == [f"{gone}.broken"]
    assert (folder / f"{gone + 1}.json").exists()
    assert put_broken_aside(folder) == ()


def test_what_was_written_between_a_crash_and_its_recovery_is_asked_for(
    window: Window, saved: Path
) -> None:
    rename(window, "mine")
    window.document.autosave()
    (own,) = window.autosaves.glob("*.json")
    own.rename(own.with_name(f"{2**22 + 9}.json"))  # no process has that number
    save(change(load(saved), name="theirs"), saved)
    window.document.begin(Job())
    window.files.offer_recovery()
    window.files.bring_back()
    assert window.document.job.name == "mine"
    answer("Cancel")
    assert not window.files.save()
    assert load(saved).name == "theirs"
