"""Pictures for the screen: asked for by recipe, made on threads, kept up to a number of bytes.

One cache for thumbnails, cards and the viewer; the key is the recipe's and
the target's, so that nothing ever has to be thrown out because it is stale.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from enum import IntEnum
from functools import partial
from queue import PriorityQueue
from typing import TYPE_CHECKING, Any
from weakref import WeakMethod

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage
from shiboken6 import isValid

from waxseal.app.file_states_cache import FileBook
from waxseal.app.look.widgets import image_of
from waxseal.app.process_end import join_all, shut
from waxseal.core.errors import WaxSealError
from waxseal.core.folders import light_folder
from waxseal.core.picture.kernel_cache import are_compiled
from waxseal.core.picture.target import PICTURE, Filter, Inspection, Layout, Target
from waxseal.core.plan.filestates import UNKNOWN
from waxseal.core.plan.recipe import Recipe
from waxseal.core.progress import silent

if TYPE_CHECKING:
    from waxseal.core.deliver.preview.delivery_pixels import ViewedPair
    from waxseal.core.deliver.preview.file_view import Pair, Show
    from waxseal.core.picture.copies.proxy_folder import LightCopies
    from waxseal.core.picture.inspection.pixel_sample import Sampled
    from waxseal.core.picture.light.light_store import LightStore

__all__ = ["Pictures", "ScreenKey", "Urgency", "key_beside"]

MOST_BYTES = 1_500_000_000
MOST_LIGHT_BYTES = 256 * 1024 * 1024  # of light that is kept for corrections
THREADS = 2


@dataclass(frozen=True, slots=True)
class ScreenKey:
    """A recipe at a size on the screen.

    is_light: made from light copies, where there are any. inspection: the key of what
    of it is looked at.
    """

    recipe: str
    width: int
    height: int
    is_light: bool = False
    inspection: str = PICTURE.key


def key_beside(pair: Pair, show: Show, width: int, height: int) -> ScreenKey:
    return ScreenKey(pair.key, width, height, inspection=show.value)


class Urgency(IntEnum):
    """How soon a picture is wanted: the lower, the sooner."""

    NOW = 0  # under the playhead
    SOON = 1  # somewhere on the screen
    AHEAD = 2  # where the playhead will be; dropped again when it goes elsewhere


Work = Callable[[], Any]  # on a thread: the screen's pixels
Asked = tuple[Urgency, int, "ScreenKey | None", "Work | None"]


class Pictures(QObject):
    """made: a key whose picture is there now. failed: key, sentence. sampled: a frame's values.

    compiling: the pixel kernels, once on a machine; pictures come when that is done.
    learned: that files are others than was known: who wished for pictures of them asks again.
    """

    made = Signal(object)
    failed = Signal(object, str)
    sampled = Signal(object)
    learned = Signal()
    compiling = Signal()
    _arrived = Signal(object, object)
    _broke = Signal(object, str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._files = FileBook(self)
        self._files.learned.connect(self.learned)
        self._queue: PriorityQueue[Asked] = PriorityQueue()
        self._asked: dict[ScreenKey, Urgency] = {}
        self._told: dict[ScreenKey, list[WeakMethod[Any]]] = {}
        self._number = 0
        self._threads = [
            threading.Thread(target=self._work, name="screen", daemon=True) for _ in range(THREADS)
        ]
        for thread in self._threads:
            thread.start()
        self._sampling = ThreadPoolExecutor(1, "sample")
        self._kept: OrderedDict[ScreenKey, QImage] = OrderedDict()
        self._bytes = 0
        self._choosing = threading.Lock()
        self._light_store: LightStore | None = None
        self._copies: LightCopies | None = None
        self._sample_key = ""
        self._arrived.connect(self._keep)
        self._broke.connect(self._give_up)

    def warm(self) -> None:
        """Fetch the kernels with their compiler, once the window is shown."""
        if not self._is_closed:
            self._sampling.submit(self._warm)

    def _warm(self) -> None:
        self.ready_kernels()
        import waxseal.core.picture.make  # noqa: F401 - in the background, not at the first picture

    @property
    def _is_closed(self) -> bool:
        return not self._threads

    def ready_kernels(self) -> None:
        """Compile the pixel kernels where this machine has not yet; not on the window's thread."""
        if not are_compiled():
            from waxseal.core.picture.compile_kernels import ready_kernels  # the compiler

            self.compiling.emit()
            ready_kernels(silent)

    def _lights(self) -> LightStore:
        from waxseal.core.picture.light.light_store import LightStore

        with self._choosing:
            if self._light_store is None:
                self._light_store = LightStore(MOST_LIGHT_BYTES)
            return self._light_store

    def copies(self) -> LightCopies:
        """The light copies for playing."""
        from waxseal.core.picture.copies.proxy_folder import LightCopies

        with self._choosing:
            if self._copies is None:
                self._copies = LightCopies(light_folder())
            return self._copies

    def can_play_lightly(self, recipe: Recipe) -> bool:
        """Whether there are copies for a recipe; none before they have been looked for."""
        return self._copies is not None and self._copies.serve(recipe)

    def get(self, key: ScreenKey) -> QImage | None:
        image = self._kept.get(key)
        if image is not None:
            self._kept.move_to_end(key)
        return image

    def ask(
        self,
        recipe: Recipe,
        width: int,
        height: int,
        wish: Urgency = Urgency.SOON,
        *,
        lightly: bool = False,
        inspection: Inspection = PICTURE,
        tell: Callable[[ScreenKey], None] | None = None,
    ) -> ScreenKey:
        """Wish for a picture; `made` says when it is there.

        Nothing is made of files that nobody has looked at yet: `learned` says when somebody has.
        tell: a QObject's method that is called then, for those who are many: of
            hundreds of cards that all hear of each picture, the window stops.
        """
        key = ScreenKey(recipe.key, width, height, lightly, inspection.key)
        if any(file.size_bytes == UNKNOWN for file in recipe.files()):
            return key
        return self._wish(key, wish, partial(self._make, key, recipe, inspection), tell)

    def ask_beside(
        self, pair: Pair, show: Show, width: int, height: int, wish: Urgency
    ) -> ScreenKey:
        """The same for a delivery beside its file."""
        key = key_beside(pair, show, width, height)
        return self._wish(key, wish, partial(self._make_beside, key, pair, show), None)

    def _wish(
        self, key: ScreenKey, wish: Urgency, work: Work, tell: Callable[[ScreenKey], None] | None
    ) -> ScreenKey:
        before = self._asked.get(key)
        if tell is not None and key not in self._kept:
            self._told.setdefault(key, []).append(WeakMethod(tell))
        if key in self._kept or self._is_closed or (before is not None and before <= wish):
            return key
        self._asked[key] = wish
        self._number += 1
        self._queue.put((wish, self._number, key, work))
        return key

    def forget_ahead(self) -> None:
        """Drop the wishes for where the playhead will not be."""
        self._asked = {key: wish for key, wish in self._asked.items() if wish is not Urgency.AHEAD}

    @property
    def is_busy(self) -> bool:
        return bool(self._asked) or self._files.is_busy

    def has(self, key: ScreenKey) -> bool:
        return key in self._kept

    def _work(self) -> None:
        """One of the threads."""
        while True:
            wish, _, key, work = self._queue.get()
            if key is None or work is None:
                return
            # One that was wished for again, sooner, comes twice: the first time counts.
            if self._asked.get(key) == wish:
                self._do(key, work)

    def _do(self, key: ScreenKey, work: Work) -> None:
        try:
            told, made = self._arrived, work()
        except WaxSealError as error:
            told, made = self._broke, str(error)
        except Exception as error:  # noqa: BLE001 - the thread's edge: said, and the thread goes on
            told, made = self._broke, f"{type(error).__name__}: {error}"
        if not self._is_closed:  # else nobody is there to be told
            told.emit(key, made)

    def _make(self, key: ScreenKey, recipe: Recipe, inspection: Inspection) -> Any:
        from waxseal.core.picture.make import make

        target = Target(key.width, key.height, Layout.SCREEN, Filter.AREA, inspection=inspection)
        picture = make(
            recipe,
            target,
            store=self._lights(),
            copies=self.copies() if key.is_light else None,
        )
        return picture.planes[0]

    def _make_beside(self, key: ScreenKey, pair: Pair, show: Show) -> Any:
        from waxseal.core.deliver.preview.delivery_pixels import screen_of

        return screen_of(pair, show, key.width, key.height)

    def _keep(self, key: ScreenKey, screen: Any) -> None:
        self._asked.pop(key, None)
        self._kept[key] = image_of(screen)
        self._bytes += screen.nbytes
        while self._bytes > MOST_BYTES and len(self._kept) > 1:
            _, dropped = self._kept.popitem(last=False)
            self._bytes -= dropped.sizeInBytes()
        for one in self._told.pop(key, ()):
            tell = one()
            if tell is not None and isValid(tell.__self__):
                tell(key)
        self.made.emit(key)

    def _give_up(self, key: ScreenKey, sentence: str) -> None:
        self._asked.pop(key, None)
        self._told.pop(key, None)
        self.failed.emit(key, sentence)

    def sample(self, recipe: Recipe, target: Target) -> None:
        """Decode a frame for looking at its values; `sampled` brings them.

        target: of the delivery whose codes are shown.
        """
        wanted = recipe.key + target.key
        if wanted != self._sample_key and not self._is_closed:
            self._sample_key = wanted
            self._sampling.submit(self._sample, wanted, recipe, target)

    def _sample(self, wanted: str, recipe: Recipe, target: Target) -> None:
        from waxseal.core.picture.inspection.pixel_sample import sample

        if wanted != self._sample_key:
            return  # the pointer is on another frame by now
        try:
            values: Sampled | None = sample(recipe, target)
        except WaxSealError:
            values = None
        self.sampled.emit(values)

    def sample_beside(self, pair: Pair) -> None:
        """The same for a delivery beside its file; `sampled` brings a `ViewedPair`."""
        if pair.key != self._sample_key and not self._is_closed:
            self._sample_key = pair.key
            self._sampling.submit(self._sample_beside, pair)

    def _sample_beside(self, pair: Pair) -> None:
        from waxseal.core.deliver.preview.delivery_pixels import hold

        if pair.key != self._sample_key:
            return
        try:
            held: ViewedPair | None = hold(pair)
        except WaxSealError:
            held = None
        self.sampled.emit(held)

    def close(self) -> None:
        self._sample_key = ""
        self._files.close()
        self._asked.clear()
        for number in range(len(self._threads)):
            self._queue.put((Urgency.NOW, -1 - number, None, None))
        join_all(self._threads)
        self._threads = []
        shut(self._sampling)
