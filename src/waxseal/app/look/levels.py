"""How loud something is, as it is drawn and written."""

from __future__ import annotations

from waxseal.core.text_format import numbered

__all__ = ["LEAST", "figure_words", "share"]

LEAST = -48.0  # dB: what is quieter is not drawn
NO_FIGURE = -70.0


def share(level: float) -> float:
    """How far along the scale a level in dB is, 0..1."""
    return min(1.0, max(0.0, 1 - level / LEAST))


def figure_words(level: float) -> str:
    return numbered(level, 1) if level > NO_FIGURE else "–"
