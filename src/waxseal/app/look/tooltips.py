"""Tool tips: text, whatever it holds. Names and seals come from anywhere."""

from __future__ import annotations

import html
from typing import Protocol

from waxseal.core.text_format import lines_text

__all__ = ["set_tip"]


class HasToolTip(Protocol):
    def setToolTip(self, text: str, /) -> None: ...


def set_tip(part: HasToolTip, text: str) -> None:
    """Give a widget, an action or an item its tool tip: never HTML, and no control characters."""
    shown = lines_text(text.split("\n"))
    is_like_html = "<" in shown or "&" in shown
    part.setToolTip(f"<qt>{html.escape(shown)}</qt>" if is_like_html else shown)
