"""The gate for text files that anybody may have written: bounded, regular, and read apart.

Whatever is wrong with a file is one ForeignTextError: too large, not a regular file, not UTF-8,
not JSON or TOML, nested too deep, a number with thousands of digits. So one bad file never stops
what has to do with others.
"""

from __future__ import annotations

import json
import tomllib
from pathlib import Path
from typing import Any

from waxseal.core.safe_open import open_regular
from waxseal.core.text_format import bytes_words

__all__ = ["ForeignTextError", "parse_json", "parse_toml", "read_foreign"]


class ForeignTextError(Exception):
    """A file whose content cannot be used; the message is the end of a sentence.

    line: where it is wrong, from 1; 0 if that is not known.
    """

    def __init__(self, why: str, line: int = 0) -> None:
        super().__init__(why)
        self.line = line


def read_foreign(path: Path, most_bytes: int) -> bytes:
    """Read a whole file. Raises ForeignTextError; FileNotFoundError if there is none."""
    try:
        with open_regular(path) as file:
            content = file.read(most_bytes + 1)
    except FileNotFoundError:
        raise
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or "its name cannot be one"
        raise ForeignTextError(why) from None
    if len(content) > most_bytes:
        raise ForeignTextError(f"it is larger than {bytes_words(most_bytes)}")
    return content


def parse_json(text: bytes) -> Any:
    """Raises ForeignTextError."""
    try:
        return json.loads(text)
    except RecursionError:
        raise ForeignTextError("it is nested too deep") from None
    except ValueError:
        raise ForeignTextError("it is not JSON") from None


def parse_toml(text: str) -> dict[str, Any]:
    """Raises ForeignTextError."""
    try:
        return tomllib.loads(text)
    except RecursionError:
        raise ForeignTextError("it is nested too deep") from None
    except tomllib.TOMLDecodeError as error:
        raise ForeignTextError("this is no TOML", line_in(error)) from None
    except ValueError:
        raise ForeignTextError("a number in it has too many digits") from None


def line_in(error: Exception) -> int:
    """The line that the parser names, as “(at line 3, column 1)”; 0 if it names none."""
    words = str(error).replace(",", " ").replace(")", " ").split()
    if "line" not in words[:-1]:
        return 0
    number = words[words.index("line") + 1]
    return int(number) if number.isdecimal() else 0
