"""A cube LUT's file is looked through before the colour library reads it.

The library tries all formats that it knows on a file that is damaged, which takes long and
says little.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from waxseal.core.errors import JobError
from waxseal.core.text_format import counted, plain

__all__ = ["check_cube"]

SIZE = re.compile(rb"LUT_([13])D_SIZE[ \t]+(-?\d{1,10})", re.IGNORECASE)
MOST = {b"1": 1 << 20, b"3": 129}  # points of a curve, points a side of a cube: what is read
# Possessive, so that a line of a million digits is not tried a million ways.
NUMBER = rb"[-+]?(?:\d++(?:\.\d*+)?|\.\d++)(?:[eE][-+]?\d++)?"
# A comma that ends a number is passed over by the library; one inside it would be misread.
COLOUR = re.compile(rb",?[ \t]+".join([NUMBER] * 3) + rb",?")
BEGINS_A_NUMBER = b"-+.0123456789"


def check_cube(path: Path) -> None:
    """Raises JobError for a file that holds other colours than it promises, OSError."""
    name = plain(path.name)
    sizes: dict[bytes, int] = {}  # of a curve, of a cube, or of both; the last one counts
    held = 0
    for number, line in enumerate(lines_of(path.read_bytes()), 1):
        if line[:1] and line[:1] in BEGINS_A_NUMBER:
            if COLOUR.fullmatch(line) is None:
                raise JobError(
                    f"Line {number} of {name} is not three numbers: have the LUT written again, "
                    "or choose another."
                )
            held += 1
        elif found := SIZE.fullmatch(line):
            sizes[found[1]] = colours_of(name, found[1], int(found[2]))
    promised = sum(sizes.values())
    if not promised:
        raise JobError(f"{name} is not a cube LUT: it states no size. Choose another.")
    if held != promised:
        raise JobError(
            f"{name} should hold {counted(promised, 'colour')} and holds {held}: "
            "have it written again, or choose another."
        )


def lines_of(data: bytes) -> Iterator[bytes]:
    return (line.strip() for line in data.splitlines())


def colours_of(name: str, sides: bytes, points: int) -> int:
    """How many colours a LUT of this size has. Raises JobError for one that cannot be read."""
    if not 2 <= points <= MOST[sides]:
        raise JobError(
            f"{name} states a size of {points}: a LUT of 2 to {MOST[sides]} points can be read."
        )
    return int(points ** int(sides))
