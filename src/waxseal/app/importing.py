"""What is imported after the toolkit is not read by it.

The toolkit reads the source of every module, and keeps it, to see whether it may use the
toolkit's other spellings of names. We use none: that is known by a module's name.
"""

from __future__ import annotations

import sys
from types import ModuleType

import PySide6.QtCore  # noqa: F401 - what reads is there from then on

__all__ = ["spare_the_sources"]

READER, ASKED = "shibokensupport.feature", "_mod_uses_pyside"


def spare_the_sources() -> None:
    """Call this once, before large imports. It does nothing where the toolkit works otherwise."""
    reader = sys.modules.get(READER)
    if hasattr(reader, ASKED):
        setattr(reader, ASKED, uses_toolkit)


def uses_toolkit(module: ModuleType) -> bool:
    return getattr(module, "__name__", "").startswith("waxseal.app")
