"""Tables of the documentation that tests hold: `python -m tests.doc_tables` writes them again."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from pathlib import Path

__all__ = ["as_table", "table_in", "write_all"]

DOCS = Path(__file__).parents[1] / "docs"


def as_table(heads: Iterable[str], rows: Iterable[Iterable[str]]) -> str:
    heads = tuple(heads)
    lines = [heads, ("---",) * len(heads), *rows]
    return "".join(f"| {' | '.join(line)} |\n" for line in lines)


def marks(name: str) -> tuple[str, str]:
    return f"<!-- {name} -->\n", f"<!-- end of {name} -->\n"


def table_in(file: str, name: str) -> str:
    """What stands between the marks of a table."""
    begin, end = marks(name)
    return (DOCS / file).read_text().partition(begin)[2].partition(end)[0]


def write(file: str, name: str, table: str) -> None:
    begin, end = map(re.escape, marks(name))
    text = (DOCS / file).read_text()
    new = re.sub(f"({begin}).*?({end})", lambda m: m[1] + table + m[2], text, flags=re.DOTALL)
    (DOCS / file).write_text(new)


def write_all() -> None:
    from tests.core.deliver import test_against_wrong, test_interruptions
    from tests.core.seal import test_likeness

    tables: list[tuple[str, str, Callable[[], str]]] = [
        ("seal.md", test_against_wrong.NAME, test_against_wrong.table),
        ("seal.md", test_likeness.NAME, test_likeness.table),
        ("interruptions.md", test_interruptions.NAME, test_interruptions.table),
    ]
    for file, name, table in tables:
        write(file, name, table())


if __name__ == "__main__":
    write_all()
