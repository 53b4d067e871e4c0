"""Job files of earlier versions, made into one of this version, step by step.

A change that an earlier program could not read raises VERSION, and has a step here and a file of
the version before in `tests/core/job/earlier`.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

__all__ = ["VERSION", "migrate"]

Document = dict[str, Any]

VERSION = 2


def migrate(document: Document, version: int) -> None:
    """Bring the document of an earlier version to this one, in place. Nothing is validated yet."""
    for step in range(version, VERSION):
        STEPS[step](document)


def drop_consent(document: Document) -> None:
    """What may be overwritten is no more read from a job: it may be anybody's."""
    deliveries = document.get("deliveries")
    for one in deliveries if isinstance(deliveries, list) else ():
        if isinstance(one, dict):
            for key in ("overwrite", "own"):
                one.pop(key, None)


STEPS: dict[int, Callable[[Document], None]] = {1: drop_consent}
