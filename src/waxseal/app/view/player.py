"""The playhead: where it is, and how it moves at the reel's rate through pictures that are there.

While playing, the next picture is waited for rather than dropped: timing can
be judged as soon as the pictures are kept, and until then the real rate says
what is amiss.
"""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from waxseal.app.look.idle_steps import IdleSteps
from waxseal.app.pictures import Pictures, ScreenKey, Urgency, key_beside
from waxseal.app.view.playback_sound import PlaybackSound
from waxseal.core.deliver.preview.file_view import FileView, Pair, Show
from waxseal.core.errors import JobError, WaxSealError
from waxseal.core.job.edits import without_finishes
from waxseal.core.job.model import Job, Size
from waxseal.core.picture.target import PICTURE, Aspect, Inspection
from waxseal.core.plan.programme import Programme, programme
from waxseal.core.plan.recipe import Recipe
from waxseal.core.plan.timeline import Timeline
from waxseal.core.timing.ranges import FrameRange

__all__ = ["Player", "ViewedDelivery"]

TICK_MS = 4
AHEAD = 16  # frames fetched ahead at once
READ_AHEAD, STANDING_MS = 120, 800  # and how many once the playhead has stood still for so long
MOST_AHEAD = 500_000_000  # bytes of them
A_FEW_S = 0.008  # that asking for them takes in one go
MOST_RECIPES = 5000
MOST_WAITED_S = 3.0  # for a sound device to open
MOST_PASSED = 12  # more frames at once, and it began anew elsewhere: none was left out
AVERAGE = 24  # frames over which the real rate is taken


@dataclass(frozen=True, slots=True)
class ViewedDelivery:
    """A delivery, by its id, that is looked at in place of the reel.

    file: what is held against it; None where nothing has been made.
    is_by_docket: whether it is looked at because its docket is open, and no longer than that.
    """

    delivery: str
    file: Path | None
    show: Show = Show.REEL
    is_by_docket: bool = False


class Player(QObject):
    """moved: the playhead's frame. playing_changed: whether it runs. rate_changed: real rate.
    dropped: how many pictures were not there in time since it began to play.

    looked_changed: whether a delivery is looked at, and which. refreshed: the files of what is
    shown are others than was known.
    """

    moved = Signal(int)
    playing_changed = Signal(bool)
    rate_changed = Signal(float)
    dropped = Signal(int)
    programme_changed = Signal(object)
    looked_changed = Signal()
    refreshed = Signal()

    def __init__(
        self,
        parent: QObject,
        pictures: Pictures,
        clock: Callable[[], float] = time.monotonic,
        sounding: PlaybackSound | None = None,
    ) -> None:
        """clock: seconds that go on while a reel without sound plays."""
        super().__init__(parent)
        self._pictures = pictures
        self._clock = clock
        self.programme: Programme | None = None
        self._before: Programme | None = None  # without any finish
        self.shows_before = False
        self.aspect = Aspect.PICTURE
        self.looked: ViewedDelivery | None = None
        self._beside: FileView | None = None
        self._recipes: dict[int, Recipe] = {}
        self.frame = 1
        self.sounding = sounding or PlaybackSound(self)
        self._follows_sound = False
        self._dropped = 0
        self._loops = True
        self._waited = 0.0  # since when a device is being opened
        self.speed = Fraction(1)
        self.is_backwards = False
        self.may_be_light = True  # whether playing may take light copies
        self._size = (640, 360)
        self._due = 0.0
        self._shown: deque[float] = deque(maxlen=AVERAGE)
        self._timer = QTimer(self, interval=TICK_MS)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)
        # After the act that moved the playhead: what comes next may take a moment longer.
        self._ahead = IdleSteps(self, self._ask_some)
        self._coming: Iterator[int] = iter(())
        # Where somebody looks for a while they will press play: it is to run from the start.
        self._reach = AHEAD
        self._standing = QTimer(self, interval=STANDING_MS, singleShot=True)
        self._standing.timeout.connect(self._read_ahead)
        pictures.made.connect(self._fetch_on)
        pictures.learned.connect(self._refresh)

    def show_job(self, job: Job, planned: Programme | None = None) -> None:
        """Take over a changed reel; the playhead stays where it is, if there is something.

        planned: the job's programme, where somebody has worked it out.
        """
        try:
            self.programme = planned or programme(job)
        except JobError:
            self.programme = None
            self.stop()
        self._before = None
        self._recipes.clear()
        self.sounding.show_timeline(self.timeline)
        if self.is_playing:
            self._begin_sound()
        self.frame = self._on_reel(self.frame)  # before anybody asks for its picture
        self.programme_changed.emit(self.programme)
        self.go(self.frame)

    def _refresh(self) -> None:
        self._recipes.clear()
        if self.looked is not None:
            self._hold_afresh(self.looked)
        self._fetch()
        self.refreshed.emit()

    def show_before(self, before: bool) -> None:
        """Show what everything was before any finish, or what it is."""
        self.shows_before = before
        self.go(self.frame)

    def see(self, aspect: Aspect) -> None:
        """Look at something else of each frame, or at the picture again."""
        self.aspect = aspect
        self.go(self.frame)

    def look_at(self, looked: ViewedDelivery | None) -> None:
        """Look at a delivery in place of the reel, or at the reel again.

        Raises JobError, SoundError where the delivery cannot be made of this reel.
        """
        self._beside = self._beside_of(looked) if looked is not None else None
        self.looked = looked
        self.looked_changed.emit()
        self.go(self.frame)

    def _hold_afresh(self, looked: ViewedDelivery) -> None:
        """The same delivery of the reel and the files as they are now; the reel, if it is gone."""
        before = self.size
        try:
            self._beside = self._beside_of(looked)
        except WaxSealError:
            self._beside, self.looked = None, None
        if self.size != before or self.looked is None:
            self.looked_changed.emit()

    def _beside_of(self, looked: ViewedDelivery) -> FileView:
        if self.programme is None:
            raise JobError("There is nothing on the reel.")
        delivery = self.programme.timeline.job.delivery(looked.delivery)
        return FileView(self.programme, delivery, looked.file)

    @property
    def size(self) -> Size | None:
        """Of what is looked at, in its own pixels."""
        if self._beside is not None:
            return self._beside.size
        return self.timeline.size if self.timeline is not None else None

    @property
    def beside(self) -> FileView | None:
        """The delivery that is looked at."""
        return self._beside

    def pair(self, frame: int) -> Pair | None:
        """The delivery beside its file at a frame of the reel; None where it is not looked at."""
        return self._beside.pair(frame) if self._beside is not None else None

    @property
    def timeline(self) -> Timeline | None:
        return self.programme.timeline if self.programme is not None else None

    def inspection(self, frame: int) -> Inspection:
        """What of a frame is looked at."""
        if self.aspect is Aspect.PICTURE or self.programme is None:
            return PICTURE
        is_held_against = self.aspect is Aspect.DIFFERENCE
        beauty = self.programme.composer.beauty(frame) if is_held_against else None
        return Inspection(self.aspect, beauty)

    def recipe(self, frame: int) -> Recipe | None:
        """What a frame of the reel is made from.

        Kept while it plays: a recipe looks at its files, which is too dear for
        each of the frames ahead at each frame.
        """
        if self.programme is None:
            return None
        known = self._recipes.get(frame)
        if known is None:
            known = self._shown_programme(self.programme).recipe(frame)
            if len(self._recipes) >= MOST_RECIPES:
                self._recipes.clear()
            self._recipes[frame] = known
        return known

    def _shown_programme(self, now: Programme) -> Programme:
        if not self.shows_before:
            return now
        if self._before is None:
            self._before = programme(without_finishes(now.timeline.job))
        return self._before

    def show_size(self, width: int, height: int) -> None:
        """The size in pixels that pictures are wanted at."""
        if (width, height) != self._size:
            self._size = (max(1, width), max(1, height))
            self._pictures.forget_ahead()
            self._fetch()

    @property
    def first(self) -> int:
        return self.programme.timeline.frames.first if self.programme else 1

    @property
    def last(self) -> int:
        return self.programme.timeline.frames.last if self.programme else 1

    @property
    def loops(self) -> bool:
        """Whether it begins again at the end."""
        return self._loops

    @loops.setter
    def loops(self, loops: bool) -> None:
        self._loops = loops
        if self.is_playing:
            self._begin_sound()

    @property
    def is_playing(self) -> bool:
        return self._timer.isActive()

    def key_of(self, frame: int) -> ScreenKey | None:
        """The picture of a frame; while playing, a light one where that alone is there in time."""
        if self.looked is not None:
            pair = self.pair(frame)
            return key_beside(pair, self.looked.show, *self._size) if pair is not None else None
        recipe = self.recipe(frame)
        if recipe is None:
            return None
        key = ScreenKey(recipe.key, *self._size, inspection=self.inspection(frame).key)
        return replace(key, is_light=True) if self._goes_lightly(recipe, key) else key

    def _goes_lightly(self, recipe: Recipe, key: ScreenKey) -> bool:
        is_wanted = self.is_playing and self.may_be_light and not self._pictures.has(key)
        return is_wanted and self._pictures.can_play_lightly(recipe)

    @property
    def shows_light(self) -> bool:
        """Whether what is shown now was made from light copies."""
        key = self.key_of(self.frame)
        return key is not None and key.is_light

    def _on_reel(self, frame: int) -> int:
        length = self.programme.timeline.length if self.programme else 1
        return max(1, min(frame, length))

    def go(self, frame: int) -> None:
        """Put the playhead on a frame of the reel; what plays goes on from there."""
        before, self.frame = self.frame, self._on_reel(frame)
        self._recipes.clear()
        if self.looked is not None:
            self._hold_afresh(self.looked)
        self._due = self._clock()
        self._pictures.forget_ahead()
        self._reach = AHEAD
        self._standing.start()
        self._fetch()
        self.moved.emit(self.frame)
        if self.is_playing and self.frame != before:
            self._begin_sound()

    def step(self, frames: int) -> None:
        self.stop()
        self.go(self.frame + frames)
        self.sounding.scrub(self.frame)

    def look_for(self, frame: int) -> None:
        """Go to a frame by hand, and hear it."""
        self.go(frame)
        if not self.is_playing:
            self.sounding.scrub(self.frame)

    def to_first(self) -> None:
        """To the first frame of the marked range, or of the reel."""
        self.stop()
        self.go(self.first)

    def to_last(self) -> None:
        self.stop()
        self.go(self.last)

    def toggle(self) -> None:
        if self.is_playing:
            self.stop()
        elif self.programme is not None:
            at_end = self.first if self.is_backwards else self.last
            if not self.first <= self.frame <= self.last or (
                self.frame == at_end and not self.loops
            ):
                self.go(self.last if self.is_backwards else self.first)
            self._due = self._clock() + self._step()
            self._shown.clear()
            self._dropped = 0
            self._begin_sound()
            self._timer.start()
            self.playing_changed.emit(True)

    def play_on(self) -> None:
        """Play forwards from here, whatever runs now."""
        if self.is_playing and not self.is_backwards:
            return
        self.stop()
        self.toggle()

    def toggle_back(self) -> None:
        """Play backwards from here, or stop. The next play goes forwards."""
        if self.is_playing:
            self.stop()
        else:
            self.is_backwards = True
            self.toggle()

    def stop(self) -> None:
        self.is_backwards = False
        if self._timer.isActive():
            self._timer.stop()
            self.sounding.stop()
            self._pictures.forget_ahead()
            self._fetch()  # a picture that stands still is judged: never a light copy
            self.playing_changed.emit(False)

    def listen_to(self, laid: str, how: str, is_so: bool) -> None:
        """Change how one sound of the reel is listened to. how: `muted` or `alone`."""
        self.sounding.hear(laid, how, is_so=is_so)
        if self.is_playing:
            self._begin_sound()

    def play_at(self, speed: Fraction, *, is_backwards: bool) -> None:
        """Play so many times as fast, 1/2, 1 or 2, on or back."""
        self.speed, self.is_backwards = speed, is_backwards
        if self.is_playing:
            self._due = self._clock() + self._step()
            self._begin_sound()

    def _begin_sound(self) -> None:
        """From the playhead on; a reel without sound goes by the clock."""
        self._waited = time.monotonic()
        self._follows_sound = self.programme is not None and self.sounding.begin(
            self.frame,
            FrameRange(self.first, self.last),
            loops=self.loops,
            speed=self.speed,
            is_backwards=self.is_backwards,
        )

    def _step(self) -> float:
        rate = self.programme.timeline.rate if self.programme else Fraction(1)
        return float(1 / (rate * self.speed))

    def _following(self, frame: int) -> int | None:
        """The frame after one in the order of playing; None at the end of what does not loop."""
        following = frame + (-1 if self.is_backwards else 1)
        if self.first <= following <= self.last:
            return following
        if not self.loops:
            return None
        return self.last if self.is_backwards else self.first

    def _tick(self) -> None:
        if self._follows_sound:
            self._tick_with_sound()
            return
        now = self._clock()
        if self.programme is None or now < self._due:
            return
        following = self._following(self.frame)
        if following is None:
            self.stop()
            return
        key = self.key_of(following)
        if key is not None and not self._pictures.has(key):
            self._fetch()
            return  # late rather than left out
        self._due = max(self._due + self._step(), now - self._step())
        self._show(following, now)

    def _tick_with_sound(self) -> None:
        """The picture follows what is heard; one that is not there in time is left out."""
        heard = self.sounding.frame
        if heard is None and time.monotonic() - self._waited > MOST_WAITED_S:
            self.sounding.stop()  # a device that hangs holds nothing up
            self._follows_sound, self._due = False, self._clock()
        if self.programme is None or heard is None or heard == self.frame:
            return
        is_over = heard < self.first if self.is_backwards else heard > self.last
        if is_over and not self.loops:
            end = self.first if self.is_backwards else self.last
            if self.frame != end:
                self._show(end, self._clock())
            self.stop()
            return
        passed = abs(heard - self.frame) - 1 if abs(heard - self.frame) < MOST_PASSED else 0
        key = self.key_of(heard)
        is_there = key is None or self._pictures.has(key)
        if passed or not is_there:
            self._dropped += passed + (not is_there)
            self.dropped.emit(self._dropped)
        self._show(heard, self._clock())

    def _show(self, frame: int, now: float) -> None:
        self._shown.append(now)
        self.frame = frame
        self._fetch()
        self.moved.emit(self.frame)
        if len(self._shown) > 2:
            self.rate_changed.emit((len(self._shown) - 1) / (self._shown[-1] - self._shown[0]))

    def _fetch(self) -> None:
        """Wish for the picture under the playhead, then for those that come next."""
        if self._ask(self.frame, Urgency.NOW):
            self._fetch_ahead()

    def _fetch_on(self, key: ScreenKey) -> None:
        if (key.width, key.height) == self._size:
            self._fetch_ahead()

    def _read_ahead(self) -> None:
        width, height = self._size
        self._reach = max(AHEAD, min(READ_AHEAD, MOST_AHEAD // (width * height * 4)))
        self._fetch_ahead()

    def _fetch_ahead(self) -> None:
        self._coming = self._frames_to_come()
        self._ahead.start()

    def _frames_to_come(self) -> Iterator[int]:
        frame = self.frame
        for _ in range(self._reach):
            following = self._following(frame)
            frame = following if following is not None else self.first
            yield frame

    def _ask_some(self) -> bool:
        """A few of the frames that come next; on a slow disk each file is asked for a while."""
        until = time.monotonic() + A_FEW_S
        for frame in self._coming if self.programme is not None else ():
            self._ask(frame, Urgency.AHEAD)
            if time.monotonic() > until:
                return True
        return False

    def _ask(self, frame: int, wish: Urgency) -> bool:
        """Wish for a frame's picture; whether there is one."""
        if self.looked is not None:
            pair = self.pair(frame)
            if pair is not None:
                self._pictures.ask_beside(pair, self.looked.show, *self._size, wish)
            return pair is not None
        recipe = self.recipe(frame)
        if recipe is None:
            return False
        inspection = self.inspection(frame)
        key = ScreenKey(recipe.key, *self._size, inspection=inspection.key)
        lightly = self._goes_lightly(recipe, key)
        self._pictures.ask(recipe, *self._size, wish, lightly=lightly, inspection=inspection)
        return True
