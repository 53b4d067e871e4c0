"""What is worked out beside the picture while somebody looks at it: scopes, and a pixel's path."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from waxseal.app.pictures import Pictures, ScreenKey
from waxseal.app.process_end import shut
from waxseal.core.errors import WaxSealError
from waxseal.core.picture.target import Target
from waxseal.core.plan.recipe import Recipe

if TYPE_CHECKING:
    from waxseal.core.picture.inspection.colour_path import TracedFrame
    from waxseal.core.picture.inspection.scopes import Scopes

__all__ = ["InspectionOverlay"]


class InspectionOverlay(QObject):
    """scoped: scopes of a picture. traced: a frame at every station, or None."""

    scoped = Signal(object, object)
    traced = Signal(str, object)

    def __init__(self, parent: QObject, pictures: Pictures) -> None:
        super().__init__(parent)
        self._pictures = pictures
        self._pool = ThreadPoolExecutor(1, "looking")
        self._scope: ScreenKey | None = None
        self._trace = ""
        self._is_closed = False

    def scope(self, key: ScreenKey, screen: Any) -> None:
        """Wish for the scopes of a picture that is on the screen: the last wish counts."""
        if key != self._scope and not self._is_closed:
            self._scope = key
            self._pool.submit(self._make_scopes, key, screen)

    def _make_scopes(self, key: ScreenKey, screen: Any) -> None:
        from waxseal.core.picture.inspection.scopes import scopes_of

        if key == self._scope:
            scopes: Scopes = scopes_of(screen)
            self.scoped.emit(key, scopes)

    def trace(self, recipe: Recipe, target: Target) -> None:
        """Wish for a frame's path to a delivery: the last wish counts."""
        wanted = recipe.key + target.key
        if wanted != self._trace and not self._is_closed:
            self._trace = wanted
            self._pool.submit(self._make_trace, wanted, recipe, target)

    def _make_trace(self, wanted: str, recipe: Recipe, target: Target) -> None:
        from waxseal.core.picture.inspection.colour_path import trace

        if wanted != self._trace:
            return
        made: TracedFrame | None = None
        try:
            made = trace(recipe, target)
        except WaxSealError:
            self._trace = ""  # it may be asked for again
        self.traced.emit(recipe.key, made)

    def forget(self) -> None:
        self._scope, self._trace = None, ""

    def close(self) -> None:
        self._is_closed = True
        self.forget()
        shut(self._pool)
