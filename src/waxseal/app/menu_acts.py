"""What each action of the menus does, by its name there."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from waxseal.app.look.palette import Look, current
from waxseal.core.picture.target import Aspect

if TYPE_CHECKING:
    from waxseal.app.window import Window

__all__ = ["acts_of", "switches_of"]


def acts_of(window: Window) -> dict[str, Callable[[], object]]:
    """One for each name of `menus.MENUS`."""
    player, viewer, going = window.player, window.viewer, window.going
    return {
        "new": window.files.new_job,
        "open": window.files.choose_job,
        "save": window.files.save,
        "save as": window.files.save_as,
        "demo": window.files.open_demo,
        "quit": window.close,
        "undo": window.document.undo,
        "redo": window.document.redo,
        "add folder": window.add_folder,
        "add files": window.add_files,
        "bars": window.generating.add_bars,
        "marks": window.generating.add_marks,
        "title": window.generating.add_title,
        "slate": window.generating.add_slate,
        "look again": window.look_again,
        "relink": window.relinking.ask,
        "versions": window.take_versions,
        "watch": window.toggle_watching,
        "deep": window.look_deep,
        "habits": window.tray.toggle_habits,
        "flip alpha": going.flip_alpha,
        "save lists": window.lists.ask,
        "copy": window.lists.copy,
        "play": player.toggle,
        "play back": player.toggle_back,
        "halt": player.stop,
        "play on": player.play_on,
        "mute": player.sounding.toggle_mute,
        "back": partial(player.step, -1),
        "forth": partial(player.step, 1),
        "first": player.to_first,
        "last": player.to_last,
        "copies": window.toggle_copies,
        "loop": window.toggle_loop,
        "mark head": going.mark_in,
        "mark tail": going.mark_out,
        "unmark": going.unmark,
        "split": going.split,
        "head here": going.begin_here,
        "tail here": going.end_here,
        "double": going.double,
        "ground": window.choose_ground,
        "reel": window.ledger.toggle_reel,
        "delivery": window.outbox.offer,
        "book": window.outbox.show_book,
        "look": partial(
            window.proving.toggle_look, partial(window.outbox.ask_for, window.outbox.look_asked)
        ),
        "proof": partial(window.outbox.ask_for, window.outbox.proof_asked),
        "poster": partial(window.outbox.ask_for, window.outbox.poster_asked),
        "seal": window.outbox.send_all,
        "stop": window.sending.stop_all,
        "show": window.show_last,
        "fit": partial(window.viewer.show_at, 0.0),
        "half": partial(window.viewer.show_at, 0.5),
        "one": partial(window.viewer.show_at, 1.0),
        "two": partial(window.viewer.show_at, 2.0),
        "before": window.toggle_before,
        "alpha": partial(window.see, Aspect.ALPHA),
        "apart": partial(window.see, Aspect.DIFFERENCE),
        "unsure": partial(window.see, Aspect.UNSURE),
        **{name: partial(viewer.toggle, name) for name in ("scopes", "path", "clipped", "safe")},
        "loudness": window.loudness.toggle,
        "day": partial(window.use_look, Look.DAY),
        "lamp": partial(window.use_look, Look.LAMP),
        "tray": partial(window.fold, window.tray),
        "outbox": partial(window.fold, window.outbox),
        "ledger": partial(window.fold, window.ledger),
        "full": window.toggle_full,
        "actions": window.show_actions,
        "about": window.show_about,
    }


def switches_of(window: Window) -> dict[str, Callable[[], bool]]:
    """Whether what an action switches is on, by its name."""
    player, viewer = window.player, window.viewer

    def shows(aspect: Aspect) -> bool:
        return player.aspect is aspect

    def is_folded(lane: QWidget) -> bool:
        return lane.isHidden()

    return {
        "watch": lambda: window.watching.is_on,
        "habits": lambda: not window.tray.habits.isHidden(),
        "mute": lambda: player.sounding.listening.is_mute,
        "copies": lambda: window.copying.is_on,
        "loop": lambda: player.loops,
        "before": lambda: player.shows_before,
        "alpha": partial(shows, Aspect.ALPHA),
        "apart": partial(shows, Aspect.DIFFERENCE),
        "unsure": partial(shows, Aspect.UNSURE),
        "scopes": lambda: viewer.shows_scopes,
        "path": lambda: viewer.shows_path,
        "clipped": lambda: viewer.shows_clipped,
        "safe": lambda: viewer.shows_safe,
        "loudness": lambda: window.loudness.is_on,
        "day": lambda: current().look is Look.DAY,
        "lamp": lambda: current().look is Look.LAMP,
        "tray": partial(is_folded, window.tray),
        "outbox": partial(is_folded, window.outbox),
        "ledger": partial(is_folded, window.ledger),
        "full": window.isFullScreen,
    }
