"""Keys: short texts that are equal where pixels are.

The key of a recipe says what a frame is made from. Whatever outlives the
process (a copy of light, a delivery's record) goes by `store_key`, which holds
the version of the arithmetic too.
"""

from __future__ import annotations

import hashlib
from dataclasses import fields
from functools import cached_property, lru_cache
from typing import Any

from pydantic_core import PydanticSerializationError

from waxseal.core.job.values import Value

__all__ = ["ARITHMETIC", "LATER", "Keyed", "digest", "store_key"]

# The version of what pictures are worked out with. Raise it with every change of
# `picture` (or of a library under it) that changes a pixel: tests/core/picture/test_arithmetic.py
# fails until then.
ARITHMETIC = 6


# Metadata of a field that came later: with its usual value, a key is what it was before.
LATER = {"later": True}
NEVER = object()


class Keyed:
    """A frozen dataclass that has a key; parts of it that are Keyed keep theirs."""

    @cached_property
    def key(self) -> str:
        """Stable over runs and machines: same key, same pixels."""
        kind: Any = type(self)
        values = ((getattr(self, name), usual) for name, usual in compared_fields(kind))
        return digest(kind.__name__, *(value for value, usual in values if value != usual))


@lru_cache(maxsize=64)
def compared_fields(kind: Any) -> tuple[tuple[str, object], ...]:
    """The names of the fields that tell two values of a kind apart, each with the value that
    says nothing: the usual one of those that came later.
    """
    return tuple(
        (one.name, one.default if one.metadata == LATER else NEVER)
        for one in fields(kind)
        if one.compare
    )


def digest(*parts: object) -> str:
    """One hash over values whose texts tell them apart."""
    text = "\n".join([text_of(part) for part in parts])
    return hashlib.blake2b(text.encode("utf-8", "backslashreplace"), digest_size=16).hexdigest()


def text_of(part: object) -> str:
    if isinstance(part, Keyed):
        return part.key
    if isinstance(part, Value):
        return text_of_value(part)
    if type(part) is tuple:
        return f"({','.join([text_of(one) for one in part])})"
    return repr(part)


def text_of_value(value: Value) -> str:
    try:
        return value.model_dump_json()
    except PydanticSerializationError:
        return repr(value)  # it holds a name that is not UTF-8


def store_key(*parts: object) -> str:
    """A key for what is kept beyond this process: the files' identity, the target, the arithmetic.

    parts: all that the pixels depend on; a recipe or a pick holds its files' identity.
    """
    return digest(ARITHMETIC, *parts)
