"""Draws docs/screenshots/ from the demo: the real window, offscreen, at 1280 × 800."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QPoint, QSettings
from PySide6.QtGui import QFont
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from waxseal.app.look.palette import Look, current
from waxseal.app.look.style_sheet import apply_look
from waxseal.app.look.text_scale import USUAL_PIXELS, px, set_text_pixels
from waxseal.app.outbox.spec_book_dialog import SpecBook
from waxseal.app.start_window import make_application
from waxseal.app.window import Window
from waxseal.core.folders import demo_folder
from waxseal.core.job.corrections import Cdl, Exposure, Vignette
from waxseal.core.job.edits import (
    Edit,
    add_sources,
    change_delivery,
    change_join,
    make_stack,
    put_on_reel,
    set_correction,
)
from waxseal.core.job.job_file import save
from waxseal.core.job.model import DeliveryState, Job, JoinKind, change
from waxseal.demo.making import demo_job, with_stand_ins

TARGET = Path(__file__).parent.parent / "docs" / "screenshots"
PATIENCE = 400.0  # seconds


def wait_until(done: Callable[[], bool], app: QApplication) -> None:
    until = time.monotonic() + PATIENCE
    while not done():
        app.processEvents()
        time.sleep(0.01)
        if time.monotonic() > until:
            raise TimeoutError("the window did not come to rest")


def settle(window: Window, app: QApplication, seconds: float = 0.8) -> None:
    until = time.monotonic() + seconds
    wait_until(lambda: time.monotonic() > until and is_at_rest(window), app)


def is_at_rest(window: Window) -> bool:
    programme = window.player.programme
    shown = (
        programme is None
        or window.viewer.has_picture
        or programme.place(window.player.frame).shown is None
    )
    parts = (window.arriving, window.closely, window.pictures)
    return shown and not any(part.is_busy for part in parts)


def shoot(window: Window, name: str, app: QApplication) -> None:
    settle(window, app)
    TARGET.mkdir(parents=True, exist_ok=True)
    window.grab().save(str(TARGET / f"{name}.png"))
    sys.stdout.write(f"docs/screenshots/{name}.png\n")


def opened(job: Job, folder: Path, app: QApplication) -> Window:
    settings = QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat)
    window = Window(settings, folder / "autosave")
    save(job, folder / "The Brass Orrery.waxseal")
    window.show()
    window.files.open_job(folder / "The Brass Orrery.waxseal")
    settle(window, app)
    window.player.go(150)
    return window


def sealed_at(window: Window, state: DeliveryState, app: QApplication) -> None:
    window.outbox.send_all()

    def is_over() -> bool:
        made = [one.outcome for one in window.document.job.deliveries]
        are_made = all(one is not None and one.state is state for one in made)
        return are_made and not window.sending.is_busy

    wait_until(is_over, app)


def show_match(window: Window, look: str, app: QApplication) -> None:
    """What happens to the reel in a square, and the spec book."""
    square = window.document.job.deliveries[1].id
    window.outbox.toggle(square)
    settle(window, app)
    card = window.outbox.cards[square]
    window.outbox.area.verticalScrollBar().setValue(card.y())
    shoot(window, f"match-{look}", app)
    window.outbox.toggle(square)
    menu = window.outbox.book_menu()
    menu.popup(window.mapToGlobal(window.rect().topLeft()))
    settle(window, app)  # until it says what would be lost
    menu.grab().save(str(TARGET / f"book-{look}.png"))
    menu.close()


def show_beside(window: Window, look: str, app: QApplication) -> None:
    """The square's file beside the reel, and what it keeps of a shot."""
    square = window.document.job.deliveries[1].id
    window.proving.look_at(square)
    window.player.go(120)
    settle(window, app)
    middle = window.viewer.room().center().toPoint()
    QTest.mouseMove(window.viewer, middle + QPoint(-30, 40))
    shoot(window, f"beside-{look}", app)
    window.player.look_at(None)


def show_book(window: Window, look: str, app: QApplication) -> None:
    """The spec book as a screen."""
    window.outbox.show_book()
    settle(window, app)
    (screen,) = window.outbox.findChildren(SpecBook)
    screen.grab().save(str(TARGET / f"specs-{look}.png"))
    screen.close()


def show_looking(window: Window, app: QApplication) -> None:
    """Scopes and a pixel's path over the picture."""
    window.player.go(70)
    for what in ("scopes", "path"):
        window.viewer.toggle(what)
    settle(window, app, 3.0)
    shoot(window, "looking-lamp", app)
    for what in ("scopes", "path"):
        window.viewer.toggle(what)


def show_finish(window: Window, app: QApplication) -> None:
    """A shot's docket with some corrections."""
    shot = window.document.job.reel.shots[0].id
    for one in (Exposure(stops=0.35), Cdl(power=(1.05, 1.0, 0.95)), Vignette(strength=0.6)):
        change = partial(set_correction, of=shot, correction=one)
        window.document.do(Edit("a look", change))
    window.ledger.toggle(shot)
    shoot(window, "finish-day", app)
    window.ledger.toggle(shot)


def show_joins(window: Window, app: QApplication) -> None:
    """A dissolve into the second shot, and a dip into the third."""
    job = window.document.job
    second, third = (shot.id for shot in job.reel.shots[1:3])
    for join in (
        partial(change_join, shot=second, kind=JoinKind.DISSOLVE, length=24),
        partial(change_join, shot=third, kind=JoinKind.DIP, length=36, colour="#e0c080"),
    ):
        window.document.do(Edit("a join", join))
    window.player.go(84)
    window.ledger.toggle(second)
    shoot(window, "joins-day", app)
    window.ledger.toggle(second)
    for _ in range(2):
        window.document.undo()


def show_stack(window: Window, app: QApplication) -> None:
    """The passes of the first shot, held against the beauty."""
    source = next(one.id for one in window.document.job.sequences if one.name == "sh010")
    window.document.do(Edit("passes", partial(make_stack, source=source)))
    window.tray.toggle(source)
    settle(window, app)
    card = window.tray.card(source)
    if card is not None and card.stack is not None:
        window.comparing.compare(source)
        wait_until(lambda: not window.bench.is_busy, app)
        window.tray.area.verticalScrollBar().setValue(card.stack.y())
    shoot(window, "stack-day", app)
    window.tray.toggle(source)


def crowd(job: Job) -> Job:
    """Sixty sources and fifty shots: the demo's, again and again."""
    several = [one for one in job.sequences if one.belongs is None or one.name == "sh010"]
    runs = [change(one, belongs=None) for one in several if one.kind == "sequence"]
    fresh = [
        change(runs[number % len(runs)], id="s0", name=f"sh{number + 4:02}0")
        for number in range(60 - len(job.sources))
    ]
    job = add_sources(job, sources=fresh)
    missing = 50 - len(job.reel.shots)
    return put_on_reel(job, sources=[one.id for one in job.sequences[-missing:]])


def write_larger(app: QApplication, times: float) -> None:
    """As on a desktop whose text is larger."""
    set_text_pixels(USUAL_PIXELS * times)
    font = QFont(app.font())
    font.setPixelSize(px(USUAL_PIXELS))
    app.setFont(font)
    apply_look(app, current())


def main() -> None:
    app = make_application(Look.DAY)
    job = demo_job(demo_folder())
    sh030 = next(source.id for source in job.sequences if source.name == "sh030")
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        out = folder / "delivered"
        out.mkdir()
        delivery = job.deliveries[0].id
        for one in job.deliveries:
            job = change_delivery(job, delivery=one.id, folder=str(out), outcome=None)

        window = opened(job, folder, app)
        window.player.go(60)
        window.tray.show_docket(sh030)
        shoot(window, "gaps-day", app)
        sealed_at(window, DeliveryState.REFUSED, app)
        window.tray.toggle(sh030)
        window.outbox.toggle(delivery)
        window.player.go(184)
        shoot(window, "refused-day", app)
        window.end(is_orderly=True)
        window.hide()

        window = opened(with_stand_ins(job), folder, app)
        window.player.go(60)
        sealed_at(window, DeliveryState.SEALED, app)
        shoot(window, "main-day", app)
        window.outbox.toggle(delivery)
        shoot(window, "outbox-day", app)
        window.outbox.toggle(delivery)
        show_match(window, "day", app)
        show_beside(window, "day", app)
        window.use_look(Look.LAMP)
        show_match(window, "lamp", app)
        show_beside(window, "lamp", app)
        show_book(window, "lamp", app)
        window.player.go(130)
        shoot(window, "main-lamp", app)
        show_looking(window, app)
        window.use_look(Look.DAY)
        show_joins(window, app)
        show_finish(window, app)
        show_stack(window, app)
        window.document.begin(Job())
        shoot(window, "empty-day", app)
        window.end(is_orderly=True)
        window.hide()

        window = opened(crowd(job), folder, app)
        window.use_look(Look.LAMP)
        shoot(window, "crowd-lamp", app)
        window.end(is_orderly=True)
        window.hide()

        write_larger(app, 1.5)
        window = opened(with_stand_ins(job), folder, app)
        window.use_look(Look.DAY)
        shoot(window, "large-day", app)
        window.end(is_orderly=True)
        window.hide()


if __name__ == "__main__":
    main()
