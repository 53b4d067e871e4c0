"""Measures that hold text: as large as the desktop's text is, as against the usual."""

from __future__ import annotations

__all__ = ["USUAL_PIXELS", "px", "set_text_pixels", "text_scale"]

USUAL_PIXELS = 13
LEAST, MOST = 1.0, 2.0


class _InForce:
    scale = 1.0


def set_text_pixels(pixels: float) -> None:
    """The height of the desktop's text, in pixels. Widgets that exist already keep theirs."""
    _InForce.scale = min(max(pixels / USUAL_PIXELS, LEAST), MOST)


def text_scale() -> float:
    return _InForce.scale


def px(usual: float) -> int:
    """A measure in pixels that is `usual` where text has its usual size."""
    return round(usual * _InForce.scale)
