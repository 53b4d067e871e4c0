"""Names of files by a pattern with fields."""

from __future__ import annotations

import string

from waxseal.core.errors import JobError

__all__ = ["FIELDS", "fill"]

FIELDS = ("job", "spec", "size", "rate", "first", "last", "shot", "date", "version")


def fill(pattern: str, **values: str) -> str:
    """A name by its pattern. Raises JobError for a field that there is not, and a bad name.

    Fields without a value, and the marks around them, are left out.
    """
    try:
        names = [name for _, name, _, _ in string.Formatter().parse(pattern) if name is not None]
    except ValueError:
        raise JobError(f"“{pattern}”: a brace is not closed.") from None
    odd = [name for name in names if name not in FIELDS]
    if odd:
        known = ", ".join(f"{{{name}}}" for name in FIELDS)
        raise JobError(f"“{pattern}”: there is no field {{{odd[0]}}}: use {known}.")
    name = pattern
    for field in FIELDS:
        name = name.replace(f"{{{field}}}", values.get(field, ""))
    name = "".join("_" if one in '/\0\\:*?"<>|' else one for one in name)
    name = "_".join(part for part in name.replace(" ", "_").split("_") if part)
    if not name.strip("._-"):
        raise JobError(f"“{pattern}” leaves nothing for a name.")
    return name
