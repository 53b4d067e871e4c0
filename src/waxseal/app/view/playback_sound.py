"""The reel's sound while it is played or scrubbed; the device that plays it is the clock."""

from __future__ import annotations

import math
import threading
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal

from waxseal.core.errors import WaxSealError
from waxseal.core.job.model import Sound
from waxseal.core.plan.sound_pieces import sound_plan
from waxseal.core.plan.timeline import Timeline
from waxseal.core.timing.ranges import FrameRange

if TYPE_CHECKING:  # they bring codecs along: imported when something is to be heard
    from waxseal.core.sound.level_meter import Levels
    from waxseal.core.sound.mix_plan import SoundPlan
    from waxseal.core.sound.speaker import Feed, Opener, SharedMixer, Speaker

__all__ = ["ListeningSettings", "PlaybackSound"]

IDLE_MS = 4000  # a device that nobody needs for so long is let go
WATCH_MS = 200
ALONE_RATE = 48_000
CLOSES_S = 1.0


@dataclass(frozen=True, slots=True)
class ListeningSettings:
    """How the window is heard; deliveries know nothing of it.

    volume: 0..1. late: seconds by which what is heard comes later than the device says, to be
    set by ear. device: its name; empty for the usual one.
    """

    volume: float = 1.0
    is_mute: bool = False
    late: float = 0.0
    device: str = ""


class PlaybackSound(QObject):
    """complained: a sentence, where something is not heard. changed: how it is heard.
    begun: it is played from now on.

    muted, solo: ids of sounds on the reel; for listening only, never for a delivery.
    """

    complained = Signal(str)
    changed = Signal()
    begun = Signal()

    def __init__(self, parent: QObject, opener: Opener | None = None) -> None:
        super().__init__(parent)
        self.opener = opener
        self._made: Speaker | None = None
        self._timeline: Timeline | None = None
        self._plan: SoundPlan | None = None
        self._is_planned = False
        self._mixer: SharedMixer | None = None
        self._told = ""
        self._alone_until = 0  # samples of a sound that is heard by itself
        self._listening = ListeningSettings()
        self.muted: frozenset[str] = frozenset()
        self.solo: frozenset[str] = frozenset()
        self._idle = QTimer(self, interval=IDLE_MS, singleShot=True)
        self._idle.timeout.connect(self.close)
        self._watch = QTimer(self, interval=WATCH_MS)
        self._watch.timeout.connect(self._tell_trouble)

    # ---- what is heard -----------------------------------------------------------------------

    def show_timeline(self, timeline: Timeline | None) -> None:
        """The reel from now on; what is played goes on as it was until it is begun again."""
        self._timeline, self._is_planned = timeline, False

    def hear(self, laid: str, how: str, *, is_so: bool) -> None:
        """Change how one sound of the reel is listened to. how: `muted` or `alone`."""
        before = self.muted if how == "muted" else self.solo
        after = before | {laid} if is_so else before - {laid}
        if how == "muted":
            self.muted = after
        else:
            self.solo = after
        self._is_planned = False
        self.changed.emit()

    def _plan_now(self) -> SoundPlan | None:
        if not self._is_planned and self._timeline is not None:
            self._is_planned = True
            try:
                found = sound_plan(self._timeline, FrameRange(1, self._timeline.length))
            except WaxSealError as error:
                found = None
                self.complained.emit(str(error))
            plan = self._heard_of(found) if found is not None else None
            if plan != self._plan:
                self._plan = plan
                self._let_mixer_go()
        return self._plan if self._timeline is not None else None

    def _let_mixer_go(self, *, wait: float = 0.0) -> None:
        """On a thread: it may be decoding. wait: seconds, at the most, for that to end."""
        mixer, self._mixer = self._mixer, None
        if mixer is not None:
            closing = threading.Thread(target=mixer.close, daemon=True)
            closing.start()
            closing.join(wait)

    def _feed(self, plan: SoundPlan, first: int, last: int, at: int, **how: Any) -> Feed:
        from waxseal.core.sound.speaker import Feed, SharedMixer

        if self._mixer is None:
            self._mixer = SharedMixer(plan)
        return Feed(plan, first, last, at, mixer=self._mixer, **how)

    def _heard_of(self, plan: SoundPlan) -> SoundPlan:
        def is_heard(laid: str) -> bool:
            return laid not in self.muted and (not self.solo or laid in self.solo)

        return replace(plan, pieces=tuple(one for one in plan.pieces if is_heard(one.laid)))

    # ---- playing -----------------------------------------------------------------------------

    def begin(
        self, frame: int, frames: FrameRange, *, loops: bool, speed: Fraction, is_backwards: bool
    ) -> bool:
        """Play from a frame of the reel; whether there is a sound that says how time goes."""
        plan, timeline = self._plan_now(), self._timeline
        if plan is None or timeline is None:
            return False
        rate = plan.sample_rate
        first, last, at, following = (
            round(n * rate / timeline.rate)
            for n in (frames.first - 1, frames.last, frame - 1, frame)
        )
        at = following - 1 if is_backwards else at
        feed = self._feed(
            *(plan, first, last, at), loops=loops, speed=speed, is_backwards=is_backwards
        )
        self._speaker.play(feed)
        self._alone_until = 0
        self._idle.stop()
        self._watch.start()
        self.begun.emit()
        return True

    @property
    def frame(self) -> int | None:
        """The reel frame that is heard now, also past the end; None while a device opens."""
        plan, timeline = self._plan, self._timeline
        place = self._speaker.place
        if place is None or plan is None or timeline is None:
            return None
        return 1 + math.floor(place * float(timeline.rate) / plan.sample_rate + 1e-6)

    @property
    def is_heard(self) -> bool:
        """Whether something is played, or will be once its device has opened."""
        return self._watch.isActive()

    @property
    def levels(self) -> Levels | None:
        """The levels of the sound that is playing; None if none is."""
        return self._made.levels if self._made is not None else None

    def play_alone(self, sound: Sound) -> None:
        """Hear a source by itself, from its start."""
        from waxseal.core.sound.layouts import LAYOUTS
        from waxseal.core.sound.mix_plan import SoundPiece, SoundPlan
        from waxseal.core.sound.sound_source import heard_length
        from waxseal.core.sound.speaker import Feed

        if sound.channels not in LAYOUTS:
            self.complained.emit(self.tr("{0} has too many channels.").format(sound.name))
            return
        count = heard_length(sound, ALONE_RATE)
        piece = SoundPiece("", sound, 0, count)
        plan = SoundPlan(ALONE_RATE, sound.channels, 0, count, (piece,))
        self._speaker.play(Feed(plan, 0, count, 0))
        self._alone_until = count
        self._idle.stop()
        self._watch.start()
        self.begun.emit()

    def scrub(self, frame: int) -> None:
        """Let a frame's worth be heard, where the playhead has come to."""
        plan, timeline = self._plan_now(), self._timeline
        if plan is None or timeline is None or self._listening.is_mute:
            return
        at, end = (round(n * plan.sample_rate / timeline.rate) for n in (frame - 1, frame))
        self._speaker.play(self._feed(plan, at, end, at))
        self._idle.start()

    def stop(self) -> None:
        self._watch.stop()
        self._alone_until = 0
        if self._made is not None:
            self._made.pause()
            self._idle.start()

    def close(self) -> None:
        self._idle.stop()
        self._watch.stop()
        if self._made is not None:
            self._made.close()
        self._let_mixer_go(wait=CLOSES_S)

    def _tell_trouble(self) -> None:
        place = self._made.place if self._made is not None and self._alone_until else None
        if place is not None and place >= self._alone_until:
            self.stop()
        trouble = self._made.trouble if self._made is not None else ""
        if trouble and trouble != self._told:
            self.complained.emit(trouble)
        self._told = trouble

    # ---- how it is heard ---------------------------------------------------------------------

    @property
    def _speaker(self) -> Speaker:
        if self._made is None:
            from waxseal.core.sound.speaker import Speaker

            self._made = Speaker(self.opener) if self.opener is not None else Speaker()
            self._set_up()
        return self._made

    def _set_up(self) -> None:
        if self._made is not None:
            wanted = self._listening
            self._made.volume = 0.0 if wanted.is_mute else wanted.volume
            self._made.late, self._made.device = wanted.late, wanted.device

    @property
    def listening(self) -> ListeningSettings:
        """How it is heard."""
        return self._listening

    def listen(self, listening: ListeningSettings) -> None:
        """Hear it otherwise: louder, later, on another device, or not at all."""
        before, self._listening = self._listening, listening
        if listening == before:
            return
        if listening.device != before.device:
            self.close()
            self._made = None  # one that lost its device would stay silent
        self._set_up()
        self.changed.emit()

    def toggle_mute(self) -> None:
        self.listen(replace(self._listening, is_mute=not self._listening.is_mute))
