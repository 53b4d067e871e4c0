"""Playing the mix: made ahead on a thread, given to a device, which is the clock.

The device asks whenever it likes and never waits: what is not there in time is silence, which
the position does not count. So the picture that follows it stays with what is heard.
"""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable
from fractions import Fraction

import numpy as np
from av.error import FFmpegError

from waxseal.core.errors import SoundError
from waxseal.core.sound.audio_devices import Outlet, SilentOutlet, open_outlet
from waxseal.core.sound.level_meter import Levels, Meter
from waxseal.core.sound.live_stretch import Stretching
from waxseal.core.sound.mix import Mixer
from waxseal.core.sound.mix_plan import SoundPlan
from waxseal.core.sound.sample_types import Samples

__all__ = ["Feed", "SharedMixer", "Speaker"]

BLOCK = 2048  # samples made at a time
AHEAD = 1 << 14  # samples that wait to be asked for
UNREADABLE = "A sound of the reel cannot be played: its card in the in-tray says why."
OPENS_S = 2.0  # that a device may take to open, before nobody waits for it
KEPT_LEVELS = 64  # more than wait to be heard
SEAM = 96  # samples over which it comes and goes where the playhead jumps

Opener = Callable[[int, int, str], Outlet]


class SharedMixer:
    """A mix that several feeds read, one after the other, each on its own thread."""

    def __init__(self, plan: SoundPlan) -> None:
        self.plan = plan
        self._mixer, self._lock = Mixer(plan), threading.Lock()

    def read(self, at: int, count: int) -> Samples:
        with self._lock:
            return self._mixer.read(at, count)

    def close(self) -> None:
        """Waits for what is being read."""
        with self._lock:
            self._mixer.close()


class Feed:
    """The samples of a stretch of the reel, from a sample on, in the order they are heard.

    first, last: samples of the reel, at the plan's rate; `last` is not heard. at: where it
    begins. loops: whether it goes on with the first after the last. speed: 1, 1/2 or 2, with
    the pitch kept. is_backwards: whether time runs backwards. mixer: of the same plan, which has
    open and decoded already what other feeds asked for.
    """

    def __init__(
        self,
        plan: SoundPlan,
        first: int,
        last: int,
        at: int,
        *,
        loops: bool = False,
        speed: Fraction = Fraction(1),
        is_backwards: bool = False,
        mixer: SharedMixer | None = None,
    ) -> None:
        self._mixer = mixer or SharedMixer(plan)
        self._is_own = mixer is None
        self.plan, self.first, self.last = plan, first, max(first + 1, last)
        self.at = min(max(at, first), self.last - 1)
        self.loops, self.speed, self.is_backwards = loops, speed, is_backwards
        self.starved = 0  # samples of silence, because nothing was there in time
        self.trouble = ""
        self._parts: deque[Samples] = deque()
        self._levels: deque[tuple[int, Levels]] = deque(maxlen=KEPT_LEVELS)
        self._made = 0  # samples
        self._waiting = 0
        self._is_over = False
        self._wanted = threading.Condition()
        self._thread = threading.Thread(target=self._make, daemon=True)
        self._thread.start()

    def _make(self) -> None:
        mixer = self._mixer
        meter = Meter(self.plan.sample_rate, self.plan.channels)
        stretching = Stretching(self.plan, self.speed) if self.speed != 1 else None
        at = self.at
        is_seam = at != (self.last - 1 if self.is_backwards else self.first)
        try:
            while not self._is_over:
                part, at, is_end = self._next(mixer, at)
                if is_seam:
                    part = eased(part, 0)
                is_seam = False
                if is_end and self.loops:
                    part = eased(part, len(part))
                    at = self.last - 1 if self.is_backwards else self.first
                    is_seam = True
                made = stretching.take(part, is_last=is_end) if stretching is not None else part
                if len(made):
                    self._put(made, meter.take(made))
                if is_end and not self.loops:
                    return
        except (SoundError, FFmpegError, OSError) as error:
            self.trouble = str(error) if isinstance(error, SoundError) else UNREADABLE
        finally:
            if self._is_own:
                mixer.close()
            with self._wanted:
                self._is_over = True

    def _next(self, mixer: SharedMixer, at: int) -> tuple[Samples, int, bool]:
        """The next samples in the order of time, where they end, and whether that is the end."""
        if self.is_backwards:
            count = min(BLOCK, at - self.first + 1)
            part = mixer.read(at - count + 1, count)[::-1]
            return part, at - count, at - count < self.first
        count = min(BLOCK, self.last - at)
        return mixer.read(at, count), at + count, at + count >= self.last

    def _put(self, part: Samples, levels: Levels) -> None:
        with self._wanted:
            while self._waiting >= AHEAD and not self._is_over:
                self._wanted.wait(0.5)
            self._made += len(part)
            self._levels.append((self._made, levels))
            self._parts.append(part)
            self._waiting += len(part)

    def take(self, count: int) -> Samples:
        """The next samples; silence where they are not there. Never waits for them."""
        with self._wanted:
            taken = []
            left = count
            while left and self._parts:
                part = self._parts[0]
                taken.append(part[:left])
                if len(part) > left:
                    self._parts[0] = part[left:]
                else:
                    self._parts.popleft()
                left -= len(taken[-1])
            self._waiting -= count - left
            if left and not (self._is_over and not self._parts):
                self.starved += left
            self._wanted.notify_all()
        if left:
            taken.append(np.zeros((left, self.plan.channels), np.float32))
        return np.concatenate(taken) if len(taken) != 1 else taken[0]

    def place(self, heard: float) -> float:
        """The sample of the reel that is heard once so many of this feed have been."""
        gone = heard * float(self.speed)
        if self.loops:
            whole = self.last - self.first
            into = self.at - self.first + (-gone if self.is_backwards else gone)
            return self.first + into % whole
        return self.at - gone if self.is_backwards else self.at + gone

    def levels(self, heard: float) -> Levels | None:
        """How loud it is once so many samples of this feed have been heard."""
        with self._wanted:
            there = tuple(self._levels)
        last = there[-1][1] if there else None
        return next((level for end, level in there if end >= heard), last)

    def stop(self) -> None:
        with self._wanted:
            self._is_over = True
            self._parts.clear()
            self._waiting = 0
            self._wanted.notify_all()  # its thread ends by itself: it may be decoding

    def wait(self, seconds: float) -> None:
        """Until its thread has ended, but no longer than that."""
        self._thread.join(seconds)


def eased(part: Samples, end: int) -> Samples:
    """A part that comes from silence (end 0), or goes into it, without a click."""
    count = min(SEAM, len(part))
    part = part.copy()
    ramp = (np.arange(count, dtype=np.float32) + 0.5)[:, None] / count
    if end == 0:
        part[:count] *= ramp
    else:
        part[len(part) - count :] *= ramp[::-1]
    return part


class Speaker:
    """Plays feeds on one device, which stays open between them.

    trouble: a sentence, where the device went away or a sound cannot be read. volume: 0..1.
    late: seconds by which what is heard comes after what the device says, to be set by ear.
    """

    def __init__(self, opener: Opener = open_outlet) -> None:
        self._opener = opener
        self._outlet: Outlet | None = None
        self._feed: Feed | None = None
        self._given = 0  # samples of this outlet before the feed began
        self._count, self._channels = 0, 2
        self._wanted: Feed | None = None
        self._opening: threading.Thread | None = None
        self._lock, self._opens = threading.Lock(), threading.Lock()
        self.trouble = ""
        self._is_lost = False  # whether the device has just gone away
        self.volume, self.late = 1.0, 0.0
        self.device = ""

    def play(self, feed: Feed) -> None:
        """Play a feed from now on, in place of another.

        A device is opened on a thread: it may take its time, and nothing is played until then.
        """
        self.pause()
        outlet, self._wanted = self._outlet, feed
        if outlet is None or (outlet.sample_rate, outlet.channels) != (
            feed.plan.sample_rate,
            feed.plan.channels,
        ):
            self._opening = threading.Thread(target=self._open, args=(feed,), daemon=True)
            self._opening.start()
        else:
            self._begin(feed)

    def _open(self, feed: Feed) -> None:
        with self._opens:
            self._stop_outlet()
            self._count = 0
            sample_rate, channels = feed.plan.sample_rate, feed.plan.channels
            self._channels = channels
            opener = silent_outlet if self._is_lost else self._opener
            self._is_lost = False  # the next one to be opened is looked for again
            outlet = opener(sample_rate, channels, self.device)
            try:
                outlet.start(self._take)
            except OSError:
                outlet = SilentOutlet(sample_rate, channels)
                outlet.start(self._take)
            self._outlet = outlet
        self._begin(feed)

    def _begin(self, feed: Feed) -> None:
        with self._lock:
            if self._wanted is feed:  # else it was stopped while the device opened
                self._feed, self._given = feed, self._count

    def _take(self, count: int) -> Samples:
        with self._lock:
            feed = self._feed
            self._count += count
            volume = self.volume
        if feed is None:
            return np.zeros((count, self._channels), np.float32)
        part = feed.take(count)
        return part if volume == 1 else part * np.float32(volume)

    @property
    def is_silent(self) -> bool:
        """Whether no device of the machine is heard."""
        return self._outlet is None or not self._outlet.name

    @property
    def place(self) -> float | None:
        """The sample of the reel that is heard now; None where nothing is played."""
        feed, outlet = self._feed, self._outlet
        if feed is None or outlet is None:
            return None
        if not outlet.is_alive:
            self._go_on_silently(feed, outlet)
            return self.place
        if feed.trouble and not self.trouble:
            self.trouble = feed.trouble
        late = self.late * outlet.sample_rate
        return feed.place(max(0.0, outlet.heard - self._given - feed.starved - late))

    @property
    def levels(self) -> Levels | None:
        """The levels of what is heard now; None if nothing is played."""
        feed, outlet = self._feed, self._outlet
        if feed is None or outlet is None:
            return None
        return feed.levels(max(0.0, outlet.heard - self._given - feed.starved))

    def _go_on_silently(self, feed: Feed, gone: Outlet) -> None:
        """The device went away: the picture goes on by the wall's clock."""
        at = feed.place(max(0.0, gone.heard - self._given - feed.starved))
        self.trouble = "The sound device went away: the picture plays on without it."
        again = Feed(
            *(feed.plan, feed.first, feed.last, round(at)),
            loops=feed.loops,
            speed=feed.speed,
            is_backwards=feed.is_backwards,
        )
        self.close()
        self._is_lost = True
        self.play(again)

    def pause(self) -> None:
        """Play nothing; the device stays open."""
        with self._lock:
            feed, self._feed, self._wanted = self._wanted, None, None
        if feed is not None:
            feed.stop()

    def close(self) -> None:
        """Let the device go."""
        feed = self._wanted
        self.pause()
        if feed is not None:
            feed.wait(OPENS_S)
        if self._opening is not None:
            self._opening.join(OPENS_S)
        if self._opens.acquire(timeout=OPENS_S):  # else the device hangs while it opens
            self._stop_outlet()
            self._opens.release()

    def _stop_outlet(self) -> None:
        outlet, self._outlet = self._outlet, None
        if outlet is not None:
            outlet.stop()


def silent_outlet(sample_rate: int, channels: int, _name: str) -> Outlet:
    return SilentOutlet(sample_rate, channels)
