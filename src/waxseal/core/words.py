"""Small wording that core and all that shows it have in common."""

from __future__ import annotations

from pathlib import Path

__all__ = ["bytes_words", "counted", "plain"]


def plain(name: str | Path) -> str:
    """A file name that can be shown: bytes that are no text, and controls, written out."""
    text = str(name).encode("utf-8", "surrogateescape").decode("utf-8", "backslashreplace")
    return "".join(one if one.isprintable() else repr(one)[1:-1] for one in text)


def counted(count: int, one: str, many: str | None = None) -> str:
    """`1 frame`, `3 frames`."""
    return f"{count} {one if count == 1 else many or one + 's'}"


def bytes_words(size_bytes: float) -> str:
    """A size as the trade counts it, in powers of a thousand."""
    for unit, step in (("GB", 1e9), ("MB", 1e6), ("kB", 1e3)):
        if size_bytes >= step:
            return f"{size_bytes / step:.1f} {unit}"
    return f"{int(size_bytes)} bytes"
