"""The menus: every action of the window, its words and its shortcut, in one place."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu

from waxseal.app.actions import Actions
from waxseal.app.look.palette import Look
from waxseal.core.picture.target import Aspect

if TYPE_CHECKING:
    from waxseal.app.window import Window

__all__ = ["make_menus"]


def make_menus(window: Window, actions: Actions) -> QMenu:
    """Fill the menu bar; returns the menu of recent jobs, which is filled when it is shown."""
    tr = window.tr
    recent = QMenu(tr("&Recent jobs"), window)
    add, keys = actions.add, QKeySequence.StandardKey
    see_apart, see_unsure = (partial(window.see, one) for one in (Aspect.DIFFERENCE, Aspect.UNSURE))
    menus: tuple[tuple[str, tuple[QAction | QMenu | None, ...]], ...] = (
        (
            tr("&Job"),
            (
                add("new", tr("&New"), window.files.new_job, keys.New),
                add("open", tr("&Open…"), window.files.choose_job, keys.Open),
                recent,
                None,
                add("save", tr("&Save"), window.files.save, keys.Save),
                add("save as", tr("Save &as…"), window.files.save_as, keys.SaveAs),
                None,
                add("demo", tr("Open the &demo"), window.files.open_demo),
                None,
                add("quit", tr("&Quit"), window.close, keys.Quit),
            ),
        ),
        (
            tr("&Edit"),
            (
                add("undo", tr("&Undo"), window.desk.undo, keys.Undo),
                add("redo", tr("&Redo"), window.desk.redo, keys.Redo),
            ),
        ),
        (
            tr("&Source"),
            (
                add("add folder", tr("Add a &folder…"), window.add_folder, "Ctrl+D"),
                add("add files", tr("Add single f&iles…"), window.add_files),
                add("bars", tr("Add colour &bars and tone"), window.generating.add_bars),
                add("title", tr("Add a &title card…"), window.generating.add_title),
                add("slate", tr("Add a s&late…"), window.generating.add_slate),
                None,
                add("look again", tr("&Look at the files again"), window.look_again, "F5"),
                add("relink", tr("Find &moved files…"), window.relinking.ask),
                add("watch", tr("&Watch the folders"), window.toggle_watching),
                add("deep", tr("Look &closely: decode every frame"), window.look_deep, "F9"),
                add("habits", tr("This job's &habits"), window.tray.toggle_habits, "Ctrl+H"),
                add("flip alpha", tr("&Flip the alpha reading"), window.flip_alpha, "A"),
                None,
                add("save lists", tr("Sa&ve all re-render lists…"), window.lists.ask),
                add("copy", tr("&Copy all re-render lists"), window.lists.copy, "Ctrl+R"),
            ),
        ),
        (
            tr("&Reel"),
            (
                add("play", tr("&Play or stop"), window.player.toggle, "Space"),
                add("back", tr("One frame &back"), partial(window.player.step, -1), "Left"),
                add("forth", tr("One frame &on"), partial(window.player.step, 1), "Right"),
                add("first", tr("To the &first frame"), window.player.to_first, "Home"),
                add("last", tr("To the &last frame"), window.player.to_last, "End"),
                add("copies", tr("Light copies for pla&ying"), window.toggle_copies),
                add("loop", tr("Begin a&gain at the end"), window.toggle_loop, "L"),
                None,
                add("mark head", tr("&Mark from here"), window.mark_head, "["),
                add("mark tail", tr("Mark &to here"), window.mark_tail, "]"),
                add("unmark", tr("Take the mark a&way"), window.unmark, "Ctrl+["),
                None,
                add("ground", tr("G&round colour…"), window.choose_ground),
                add("reel", tr("&Colour and finish"), window.ledger.toggle_reel, "C"),
            ),
        ),
        (
            tr("&Delivery"),
            (
                add("seal", tr("&Seal everything"), window.outbox.send_all, "Ctrl+Return"),
                add("stop", tr("S&top"), window.stop_all, "Ctrl+."),
                add("show", tr("Show the last in its &folder"), window.show_last),
            ),
        ),
        (
            tr("&View"),
            (
                add("before", tr("&Before any finish"), window.toggle_before, "B"),
                add("alpha", tr("The &alpha"), partial(window.see, Aspect.ALPHA), "Shift+A"),
                add("apart", tr("Differe&nce from the beauty"), see_apart, "Shift+D"),
                add("unsure", tr("Where &motion is unsure"), see_unsure, "Shift+M"),
                None,
                add("scopes", tr("&Scopes"), partial(window.viewer.toggle, "scopes"), "S"),
                add("path", tr("&Path of the colour"), partial(window.viewer.toggle, "path"), "P"),
                add("clipped", tr("&Clipped parts"), partial(window.viewer.toggle, "clipped"), "K"),
                add("safe", tr("Safe a&reas"), partial(window.viewer.toggle, "safe"), "G"),
                None,
                add("day", tr("&Day"), partial(window.use_look, Look.DAY)),
                add("lamp", tr("&Lamp"), partial(window.use_look, Look.LAMP)),
                None,
                add("tray", tr("Fold the &in-tray"), partial(window.fold, window.tray), "F6"),
                add("outbox", tr("Fold the &outbox"), partial(window.fold, window.outbox), "F7"),
                add("ledger", tr("Fold the l&edger"), partial(window.fold, window.ledger), "F8"),
                add("full", tr("&Full screen"), window.toggle_full, keys.FullScreen),
            ),
        ),
        (
            tr("&Help"),
            (
                add("actions", tr("&All actions…"), window.show_actions, "Ctrl+K"),
                add("about", tr("A&bout Wax Seal"), window.show_about),
            ),
        ),
    )
    for title, entries in menus:
        menu = window.menuBar().addMenu(title)
        for entry in entries:
            if entry is None:
                menu.addSeparator()
            elif isinstance(entry, QMenu):
                menu.addMenu(entry)
            else:
                menu.addAction(entry)
    return recent
