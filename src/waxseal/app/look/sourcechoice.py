"""A choice of the job's sources."""

from __future__ import annotations

from collections.abc import Sequence

from waxseal.app.look.key_widgets import Choice, narrow_choice

__all__ = ["SourceChoice"]

ROOM = 16  # characters


class SourceChoice(Choice):
    """Sources by name, quickly filled also with thousands of them.

    none: the entry for no source; without it a source has to be chosen. each: the words of an
    entry, {0} for the name.
    """

    def __init__(self, name: str, words: str, *, none: str = "", each: str = "{0}") -> None:
        super().__init__()
        narrow_choice(self, name, words, ROOM)
        self._none, self._each = none, each
        self._sources: Sequence[tuple[str, str]] | None = None  # ids and names
        self._ids: list[str] = []

    @property
    def source(self) -> str:
        """The id of the chosen one; empty for none."""
        return self._ids[self.currentIndex()] if self.currentIndex() >= 0 else ""

    def show_sources(self, sources: Sequence[tuple[str, str]]) -> None:
        """The ids and names of those that there are."""
        if sources == self._sources:
            return
        self._sources = sources
        first = [self._none] if self._none else []
        self._ids = [*("" for _ in first), *(one for one, _ in sources)]
        self.clear()
        self.addItems([*first, *(self._each.format(name) for _, name in sources)])

    def choose(self, source: str) -> None:
        self.setCurrentIndex(self._ids.index(source) if source in self._ids else -1)
