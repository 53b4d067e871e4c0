"""Small wording that core and all that shows it have in common."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Sequence
from pathlib import Path

__all__ = ["bytes_words", "counted", "left_words", "lines_text", "names_words", "numbered", "plain"]

MOST_NAMES = 4


def plain(name: str | Path) -> str:
    """One line that can be shown: bytes that are no text, and controls, are written out."""
    text = str(name).encode("utf-8", "surrogateescape").decode("utf-8", "backslashreplace")
    if text.isprintable():
        return text
    return "".join(one if is_shown(one) else repr(one)[1:-1] for one in text)


def lines_text(sentences: Iterable[str]) -> str:
    """Sentences as lines of text: none of them holds a line of its own."""
    return "\n".join(map(plain, sentences))


def is_shown(character: str) -> bool:
    """Whether a character may be shown as it is: no control, and nothing that turns a line."""
    return character.isprintable() or unicodedata.category(character) == "Zs"


def names_words(names: Sequence[str]) -> str:
    """The first of some file names, and how many more there are."""
    shown = ", ".join(plain(name) for name in names[:MOST_NAMES])
    more = len(names) - MOST_NAMES
    return f"{shown} and {more} more" if more > 0 else shown


def counted(count: int, one: str, many: str | None = None) -> str:
    """`1 frame`, `3 frames`."""
    return f"{count} {one if count == 1 else many or one + 's'}"


def numbered(value: float, digits: int) -> str:
    """A number with at most so many digits after the point, and a minus that is one: `−14`."""
    return f"{round(value, digits):g}".replace("-", "\u2212")


def left_words(seconds: float | None, before: str = "") -> str:
    """How long something still takes: `40 s left`, `3 min 20 s left`, `2 h 5 min left`.

    before: put in front of it. Nothing at all where it is not known, or under a second.
    """
    if seconds is None or seconds < 1:
        return ""
    minutes, rest = divmod(round(seconds), 60)
    hours, minutes = divmod(minutes, 60)
    if hours:
        return f"{before}{hours} h {minutes} min left"
    return f"{before}{minutes} min {rest} s left" if minutes else f"{before}{rest} s left"


def bytes_words(size_bytes: float) -> str:
    """A size as the trade counts it, in powers of a thousand."""
    for unit, step in (("GB", 1e9), ("MB", 1e6), ("kB", 1e3)):
        if size_bytes >= step:
            return f"{size_bytes / step:.1f} {unit}"
    return f"{int(size_bytes)} bytes"
