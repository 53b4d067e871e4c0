"""The menus: every action of the window, its words and its shortcut, in one table."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

from PySide6.QtCore import QCoreApplication
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu

from waxseal.app.actions import Actions

__all__ = ["make_menus"]

tr = partial(QCoreApplication.translate, "menus")
Keys = QKeySequence.StandardKey
Entry = tuple[str, str, str | Keys | tuple[str, ...] | None]  # name, words, shortcuts

RECENT, LINE = "recent", None  # a menu inside a menu, and a line between entries

MENUS: tuple[tuple[str, tuple[Entry | str | None, ...]], ...] = (
    (
        "&Job",
        (
            ("new", "&New", Keys.New),
            ("open", "&Open…", Keys.Open),
            RECENT,
            LINE,
            ("save", "&Save", Keys.Save),
            ("save as", "Save &as…", Keys.SaveAs),
            LINE,
            ("demo", "Open the &demo", None),
            LINE,
            ("quit", "&Quit", Keys.Quit),
        ),
    ),
    ("&Edit", (("undo", "&Undo", Keys.Undo), ("redo", "&Redo", Keys.Redo))),
    (
        "&Source",
        (
            ("add folder", "Add a &folder…", "Ctrl+D"),
            ("add files", "Add single f&iles…", None),
            ("bars", "Add colour &bars and tone", None),
            ("marks", "Add flash an&d clap", None),
            ("title", "Add a &title card…", None),
            ("slate", "Add a &slate…", None),
            LINE,
            ("look again", "&Look at the files again", "F5"),
            ("relink", "Find &moved files…", None),
            ("versions", "Take all n&ew versions", "Ctrl+U"),
            ("watch", "&Watch the folders", None),
            ("deep", "Look cl&osely: decode every frame", "F9"),
            ("habits", "&Job defaults", "Ctrl+H"),
            ("flip alpha", "Fli&p the alpha reading", "A"),
            LINE,
            ("save lists", "Sa&ve all re-render lists…", None),
            ("copy", "&Copy all re-render lists", "Ctrl+R"),
        ),
    ),
    (
        "&Reel",
        (
            ("play", "&Play or stop", "Space"),
            ("play back", "Play bac&kwards", ("Q", "Shift+Space")),
            ("halt", "&Stop", "W"),
            ("play on", "Play on&wards", "E"),
            ("mute", "M&ute the sound", "M"),
            ("back", "One frame &back", "Left"),
            ("forth", "One frame o&n", "Right"),
            ("first", "To the &first frame", "Home"),
            ("last", "To the &last frame", "End"),
            ("copies", "Light copies for pla&ying", None),
            ("loop", "L&oop", "L"),
            LINE,
            ("mark head", "&Mark in here", ("R", "[")),
            ("mark tail", "Mark ou&t here", ("T", "]")),
            ("unmark", "Clear &in and out", "Ctrl+["),
            LINE,
            ("split", "Split the s&hot here", "X"),
            ("head here", "Let the shot begin h&ere", "Shift+["),
            ("tail here", "Let the shot end here", "Shift+]"),
            ("double", "&Duplicate the shot", "Ctrl+Shift+D"),
            LINE,
            ("ground", "G&round colour…", None),
            ("reel", "&Colour and finish", "C"),
        ),
    ),
    (
        "&Delivery",
        (
            ("delivery", "&Add a delivery…", None),
            ("seal", "&Seal everything", "Ctrl+Return"),
            ("stop", "S&top", "Ctrl+."),
            ("show", "Show the last in its &folder", None),
            ("book", "The spec &book…", None),
            ("look", "Loo&k at the delivery", "D"),
            ("proof", "Make a &proof", None),
            ("poster", "Make a poster f&rame", None),
        ),
    ),
    (
        "&View",
        (
            ("fit", "Fit t&o window", "Ctrl+0"),
            ("half", "At &50 %", "Ctrl+5"),
            ("one", "At &100 %", "Ctrl+1"),
            ("two", "At &200 %", "Ctrl+2"),
            LINE,
            ("before", "&Before any finish", "B"),
            ("alpha", "The &alpha", "Shift+A"),
            ("apart", "Differe&nce from the beauty", "Shift+D"),
            ("unsure", "Where &motion is unsure", "Shift+M"),
            LINE,
            ("scopes", "&Scopes", "S"),
            ("path", "&Path of the colour", "P"),
            ("clipped", "&Clipped parts", "K"),
            ("safe", "Safe a&reas", "G"),
            ("loudness", "Loudness o&ver the reel", "Shift+L"),
            LINE,
            ("day", "&Day", None),
            ("lamp", "&Lamp", None),
            LINE,
            ("tray", "Fold the &in-tray", "F6"),
            ("outbox", "Fold the outbo&x", "F7"),
            ("ledger", "Fold the l&edger", "F8"),
            ("full", "&Full screen", Keys.FullScreen),
        ),
    ),
    ("&Help", (("actions", "&All actions…", "Ctrl+K"), ("about", "A&bout Wax Seal", None))),
)


def make_menus(
    window: QMainWindow,
    actions: Actions,
    acts: Mapping[str, Callable[[], object]],
    switches: Mapping[str, Callable[[], bool]],
) -> QMenu:
    """Fill the menu bar; returns the menu of recent jobs, which is filled when it is shown.

    acts: what each action does, by its name. switches: whether what an action switches is on.
    """
    recent = QMenu(tr("&Recent jobs"), window)
    for title, entries in MENUS:
        menu = window.menuBar().addMenu(tr(title))
        menu.aboutToShow.connect(actions.show_switches)
        for entry in entries:
            if entry is LINE:
                menu.addSeparator()
            elif isinstance(entry, str):
                menu.addMenu(recent)
            else:
                name, words, keys = entry
                action = actions.add(name, tr(words), acts[name], keys, switches.get(name))
                menu.addAction(action)
    return recent
