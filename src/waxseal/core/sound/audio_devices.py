"""Where samples go to be heard: a device of the machine, or a silent one of our own."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Generator
from pathlib import Path
from typing import Protocol

import numpy as np

from waxseal.core.sound.sample_types import Samples

__all__ = ["DeviceOutlet", "Outlet", "SilentOutlet", "Take", "device_names", "open_outlet"]

PERIOD_MS, PERIODS = 30, 3  # what a device asks for at once, and how many of them wait in it
SILENT_S = 0.01  # how often a silent device asks
GONE_S = 1.0  # a device that has asked for nothing for so long is gone
CARDS = Path("/dev/snd")

Take = Callable[[int], Samples]  # (count, channels) float32; never waits


class Outlet(Protocol):
    """name: of the device; empty for a silent one."""

    name: str
    sample_rate: int
    channels: int

    def start(self, take: Take) -> None:
        """Begin to ask for samples, from a thread of its own. Raises OSError."""

    def stop(self) -> None: ...

    @property
    def heard(self) -> float:
        """The samples that were asked for and have been heard, since the start."""

    @property
    def is_alive(self) -> bool: ...


class SilentOutlet:
    """Asks for samples as the wall's clock goes. keeps: whether they are kept, in `given`."""

    name = ""

    def __init__(self, sample_rate: int, channels: int, *, keeps: bool = False) -> None:
        self.sample_rate, self.channels = sample_rate, channels
        self.given: list[Samples] = []
        self._keeps = keeps
        self._began, self._count = 0.0, 0
        self._ends = threading.Event()
        self._thread: threading.Thread | None = None

    def start(self, take: Take) -> None:
        self._began = time.monotonic()
        self._thread = threading.Thread(target=self._run, args=(take,), daemon=True)
        self._thread.start()

    def _run(self, take: Take) -> None:
        while not self._ends.wait(SILENT_S):
            due = int((time.monotonic() - self._began) * self.sample_rate)
            part = take(due - self._count)
            self._count = due
            if self._keeps:
                self.given.append(part)

    def stop(self) -> None:
        self._ends.set()
        if self._thread is not None:
            self._thread.join()

    @property
    def heard(self) -> float:
        if not self._began:
            return 0.0
        return min((time.monotonic() - self._began) * self.sample_rate, float(self._count))

    @property
    def is_alive(self) -> bool:
        return True


class DeviceOutlet:
    """A device of the machine, by miniaudio."""

    def __init__(self, sample_rate: int, channels: int, name: str = "") -> None:
        """name: of the device; the usual one without. Raises OSError where there is none."""
        import miniaudio

        try:
            there = found_devices() if name else []
            chosen = next((one for one in there if one["name"] == name), None)
            self._device = miniaudio.PlaybackDevice(
                output_format=miniaudio.SampleFormat.FLOAT32,
                nchannels=channels,
                sample_rate=sample_rate,
                buffersize_msec=PERIOD_MS,
                callback_periods=PERIODS,
                device_id=chosen["id"] if chosen is not None else None,
                backends=backends(),
                app_name="Wax Seal",
            )
        except miniaudio.MiniaudioError as error:
            raise OSError("there is no sound device") from error
        self.name = name or self._device.backend
        self.sample_rate, self.channels = sample_rate, channels
        self._late = sample_rate * PERIOD_MS * (PERIODS - 1) / 1000  # samples that wait in it
        self._count, self._asked = 0, 0.0
        self._most = 0.0

    def start(self, take: Take) -> None:
        import miniaudio

        def samples() -> Generator[Samples, int, None]:
            count = yield np.zeros((0, self.channels), np.float32)
            while True:
                self._asked = time.monotonic()
                part = np.ascontiguousarray(take(count))
                self._count += count
                count = yield part

        asking = samples()
        next(asking)
        try:
            self._device.start(asking)
        except miniaudio.MiniaudioError as error:
            raise OSError("the sound device does not start") from error
        self._asked = time.monotonic()

    def stop(self) -> None:
        self._device.close()

    @property
    def heard(self) -> float:
        since = (time.monotonic() - self._asked) * self.sample_rate
        period = self.sample_rate * PERIOD_MS / 1000
        now = self._count - self._late - period + min(since, period)
        self._most = max(self._most, min(now, float(self._count)))
        return self._most

    @property
    def is_alive(self) -> bool:
        return time.monotonic() - self._asked < GONE_S


def backends() -> list[object]:
    """The ways to a device that may be there. ALSA writes to the terminal where it has no card."""
    import miniaudio

    found = [miniaudio.Backend.PULSEAUDIO]
    if any(CARDS.glob("pcm*p")):
        found.append(miniaudio.Backend.ALSA)
    return found


def found_devices() -> list[dict[str, object]]:
    import miniaudio

    try:
        found: list[dict[str, object]] = miniaudio.Devices(backends()).get_playbacks()
    except miniaudio.MiniaudioError:
        return []
    return found


def device_names() -> tuple[str, ...]:
    """The devices that there are now, by the names that the system gives them."""
    return tuple(str(one["name"]) for one in found_devices())


def open_outlet(sample_rate: int, channels: int, name: str = "") -> Outlet:
    """A device, or where there is none a silent one."""
    try:
        return DeviceOutlet(sample_rate, channels, name)
    except OSError:
        return SilentOutlet(sample_rate, channels)
