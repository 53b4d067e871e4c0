"""Configs of thousands of spaces, of which the library is given those that are needed.

The library compares each space with all before it: ten thousand take it most of a minute. A config
is text (YAML, one item for each space), so what nothing refers to can be left out of it first.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache

__all__ = ["LargeConfig", "large_config"]

MANY = 1000  # spaces that the library takes in half a second
LIST = re.compile(r"^(?:display_)?colorspaces:[ \t]*\r?$")
ITEM = re.compile(r"^\s*- *!<ColorSpace>")
KEY = re.compile(r"^\S")
NAME = re.compile(r"\bname: *(\"[^\"]*\"|'[^']*'|[^,}\r\n]+)")
FILE = re.compile(r"!<FileTransform>\s*\{?\s*src: *(\"[^\"]*\"|'[^']*'|[^,}\r\n]+)")
MARKS = re.compile(r"[\r\n:,{}\[\]]")  # between two words of YAML


@dataclass(frozen=True, slots=True)
class LargeConfig:
    """lines: of the text outside its spaces, and in place of each of them its name, in order.

    items: the text of each space, by its name.
    """

    lines: tuple[tuple[str, str], ...]  # text and name: one of them is empty
    items: dict[str, str]

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(self.items)

    @property
    def files(self) -> tuple[str, ...]:
        """What its transforms read, as it is named there."""
        found = (bare(one) for text in self._texts for one in FILE.findall(text))
        return tuple(dict.fromkeys(found))

    @property
    def _texts(self) -> Iterator[str]:
        yield "".join(text for text, _ in self.lines)
        yield from self.items.values()

    def with_only(self, spaces: Iterable[str]) -> str:
        """The config with those spaces and all that anything in it refers to."""
        kept = {one for one in spaces if one in self.items}
        # What cannot be told by its marks is kept in any case.
        kept |= {one for one in self.items if MARKS.search(one)}
        texts = ["".join(text for text, _ in self.lines), *(self.items[one] for one in kept)]
        while texts:
            said = {one for text in texts for one in words_of(text)}
            more = {one for one in said if one in self.items} - kept
            kept |= more
            texts = [self.items[one] for one in more]
        return "".join(self.items[name] if name in kept else text for text, name in self.lines)


def bare(word: str) -> str:
    return word.strip().strip("\"'")


def words_of(text: str) -> Iterator[str]:
    """Whatever can be a name in it."""
    return (bare(one) for one in MARKS.split(text))


@lru_cache(maxsize=4)
def large_config(text: str) -> LargeConfig | None:
    """None of a config that has no more spaces than the library takes."""
    if text.count("!<ColorSpace>") <= MANY:
        return None
    lines: list[tuple[str, str]] = []
    items: dict[str, str] = {}
    item: list[str] = []
    is_in_list = False

    def end_item() -> None:
        if not item:
            return
        whole = "".join(item)
        named = NAME.search(whole)
        name = bare(named[1]) if named else ""
        if name and name not in items:
            items[name] = whole
            lines.append(("", name))
        else:
            lines.append((whole, ""))
        item.clear()

    for line in text.splitlines(keepends=True):
        if KEY.match(line):
            end_item()
            is_in_list = bool(LIST.match(line))
            lines.append((line, ""))
        elif is_in_list and ITEM.match(line):
            end_item()
            item.append(line)
        elif item:
            item.append(line)
        else:
            lines.append((line, ""))
    end_item()
    return LargeConfig(tuple(lines), items)
