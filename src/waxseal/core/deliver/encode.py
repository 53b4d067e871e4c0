"""The encode: decoding, pictures and the encoder overlap, and all of it stays deterministic.

Pictures are made by a few threads ahead of the encoder; the encoder's own
threads fill the rest. Nothing here knows of processes (see worker).
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from math import lcm
from pathlib import Path
from typing import Any, cast

import av
import numpy as np
from av.error import FFmpegError
from numpy.typing import NDArray

from waxseal.core.deliver.forms import FORMS, encoder_options
from waxseal.core.deliver.settings import (
    CONTAINER_OPTIONS,
    THREADS,
    sound_bits_per_second,
)
from waxseal.core.errors import DeliveryRefused, FrameError
from waxseal.core.job.model import Bitrate, Delivery, StandIn
from waxseal.core.picture.kernels import KernelChoice
from waxseal.core.picture.make import Picture, Target, make
from waxseal.core.plan.programme import Place, Programme
from waxseal.core.plan.recipe import Recipe, state_of
from waxseal.core.progress import CancelToken, Report
from waxseal.core.seal.likeness import Sketch, sketch
from waxseal.core.sound.mix import SoundPlan, sound_blocks, sound_plan
from waxseal.core.speed import Speedometer
from waxseal.core.timing.ranges import write_frames

__all__ = ["Encoded", "Supply", "encode", "target_of"]

MAKERS = 2  # threads that make pictures
AHEAD = 6  # pictures made before the encoder asks for them
AAC_BLOCK = 1024  # samples in one packet


@dataclass(frozen=True, slots=True, eq=False)
class Encoded:
    """What was put into the file.

    reel: the programme as it was encoded, with the frames that turned out unreadable.
    sketches: one of each frame, to hold the decoded file against.
    """

    reel: Programme
    sketches: tuple[Sketch, ...]
    contents_key: str  # as it was before the first frame was read


@dataclass(frozen=True, slots=True, eq=False)
class Made:
    """A picture, and what it is recognised by."""

    picture: Picture
    seen: Any


def target_of(reel: Programme, delivery: Delivery) -> Target:
    """What the reel's pictures are made for when they are delivered."""
    return Target(
        reel.size.width,
        reel.size.height,
        FORMS[delivery.codec].layout,
        space=delivery.space,
        exact=delivery.exact,
        lut=state_of(Path(delivery.lut)) if delivery.lut else None,
        dither=delivery.dither,
    )


def encode(
    reel: Programme, delivery: Delivery, partial: Path, report: Report, token: CancelToken
) -> Encoded:
    """Write the reel's marked range to `partial`, whole, as the delivery orders it.

    Raises DeliveryRefused with every unreadable frame, FFmpegError and OSError
    where the file cannot be written, Cancelled.
    """
    frames = reel.frames
    contents_key = reel.contents_key()
    kernels = KernelChoice()
    kernels.warm_for(frames.count * reel.size.width * reel.size.height)
    supply = Supply(reel, target_of(reel, delivery), kernels, sketch)
    sketches: list[Sketch] = []
    speed = Speedometer("encoding", frames.count)
    try:
        with Writer(reel, delivery, partial) as writer:
            for reel_frame in range(frames.first, frames.last + 1):
                token.check()
                made = supply.next_made(reel_frame, token)
                writer.write(made.picture, reel_frame - frames.first)
                sketches.append(made.seen)
                report(speed.at(len(sketches)))
            writer.finish()
    finally:
        supply.close()
    return Encoded(supply.reel, tuple(sketches), contents_key)


class Supply:
    """Makes pictures ahead of the encoder, each recipe once.

    see: what is kept of its planes to recognise a picture by.
    """

    def __init__(
        self,
        reel: Programme,
        target: Target,
        kernels: KernelChoice,
        see: Callable[[tuple[NDArray[Any], ...]], Any],
    ) -> None:
        self.reel = reel
        self._see = see
        self._last = reel.frames.last
        self._target = target
        self._kernels = kernels
        self._pool = ThreadPoolExecutor(MAKERS, "picture")
        self._making: OrderedDict[str, Future[Made]] = OrderedDict()

    def close(self) -> None:
        self._pool.shutdown(cancel_futures=True)

    def next_made(self, reel_frame: int, token: CancelToken) -> Made:
        """The picture of a frame; where its file is unreadable, what stands in for it."""
        for ahead in range(reel_frame, min(self._last, reel_frame + AHEAD) + 1):
            self._ask(self.reel.recipe(ahead))
        while True:
            try:
                return self._ask(self.reel.recipe(reel_frame)).result()
            except FrameError as error:
                blamed = self._blamed(reel_frame, error)
                if blamed.shown is None:
                    raise
                self.reel = self.reel.without(blamed.sequence.id, blamed.shown)
                self._refuse_unless_stood_in(blamed, error, token)

    def _ask(self, recipe: Recipe) -> Future[Made]:
        making = self._making.get(recipe.key)
        if making is None:
            making = self._pool.submit(self._make, recipe)
            self._making[recipe.key] = making
            while len(self._making) > AHEAD + MAKERS:
                self._making.popitem(last=False)
        return making

    def _make(self, recipe: Recipe) -> Made:
        picture = make(recipe, self._target, kernels=self._kernels.current)
        return Made(picture, self._see(picture.planes))

    def _blamed(self, reel_frame: int, error: FrameError) -> Place:
        """Whose frame it is that could not be read: the shot's, where nobody else's."""
        owner = self.reel.owner_of(error.path, reel_frame) if error.path else None
        return owner or self.reel.at(reel_frame)

    def _refuse_unless_stood_in(self, place: Place, error: FrameError, token: CancelToken) -> None:
        """Go on where something stands in; else read on, so that one list names all."""
        now = self.reel.again(place)
        if now.shown is not None or place.sequence.reading.stand_in.value is StandIn.BLACK:
            return
        unreadable: dict[str, dict[int, str]] = {}
        unreadable.setdefault(place.sequence.id, {})[place.frame] = str(error)
        for reel_frame in range(place.reel_frame + 1, self._last + 1):
            token.check()
            try:
                self._ask(self.reel.recipe(reel_frame)).result()
            except FrameError as trouble:
                later = self._blamed(reel_frame, trouble)
                unreadable.setdefault(later.sequence.id, {})[later.frame] = str(trouble)
        raise DeliveryRefused(*self._sentences(unreadable)) from error

    def _sentences(self, unreadable: dict[str, dict[int, str]]) -> Iterator[str]:
        for source, frames in unreadable.items():
            name = self.reel.job.sequence(source).name
            first = next(iter(frames))
            one = len(frames) == 1
            yield (
                f"{name}: {'frame' if one else 'frames'} {write_frames(frames)} could not be read"
                f" ({'' if one else f'{first}: '}{frames[first]}):"
                f" render {'it' if one else 'them'} again, or choose a stand-in."
            )


class Writer:
    """An MP4 file being written: one video stream, a sound beside it where there is one."""

    def __init__(self, reel: Programme, delivery: Delivery, partial: Path) -> None:
        self._rate = reel.rate
        self._plan = sound_plan(reel.job, reel.frames, reel.rate)
        scale = reel.rate.numerator
        if self._plan is not None:
            scale = lcm(scale, self._plan.sample_rate)
        # The scale of the whole file, so that both tracks' lengths are exact in it.
        options = CONTAINER_OPTIONS | {"movie_timescale": str(scale)}
        self._container = av.open(str(partial), "w", format="mp4", container_options=options)
        self._video = self._add_video(reel, delivery)
        self._sound = self._add_sound() if self._plan is not None else None
        self._blocks = sound_blocks(self._plan, AAC_BLOCK) if self._plan else iter(())
        self._heard = 0

    def __enter__(self) -> Writer:
        return self

    def __exit__(self, kind: type[BaseException] | None, *_rest: object) -> None:
        if kind is None:
            self._container.close()
            return
        try:
            self._container.close()
        except (FFmpegError, OSError, ValueError):
            return  # the first error is the one that is told

    def _add_video(self, reel: Programme, delivery: Delivery) -> av.VideoStream:
        form = FORMS[delivery.codec]
        options = encoder_options(form, delivery.quality)
        stream = cast(
            av.VideoStream,
            self._container.add_stream(form.encoder, rate=reel.rate, options=options),
        )
        stream.width, stream.height = target_of(reel, delivery).stored_size
        stream.pix_fmt = form.pixel_format
        if form.tag:
            stream.codec_context.codec_tag = form.tag
        stream.time_base = 1 / reel.rate
        context = stream.codec_context
        context.time_base = 1 / reel.rate
        context.framerate = reel.rate
        self._form, self._colour = form, form.colours[delivery.space]
        context.color_primaries, context.color_trc, context.colorspace, _ = self._colour
        context.color_range = 1
        context.flags |= av.codec.context.Flags.bitexact
        # Slices, the default, would cut each picture in as many parts as there are threads.
        context.thread_type = "FRAME"
        context.thread_count = THREADS
        if isinstance(delivery.quality, Bitrate):
            context.bit_rate = delivery.quality.bits_per_second
        return stream

    def _add_sound(self) -> av.AudioStream:
        plan = cast(SoundPlan, self._plan)
        stream = self._container.add_stream("aac", rate=plan.sample_rate)
        context = stream.codec_context
        context.layout = layout_of(plan)
        context.format = "fltp"
        context.bit_rate = sound_bits_per_second(plan.sound.channels)
        context.time_base = Fraction(1, plan.sample_rate)
        context.flags |= av.codec.context.Flags.bitexact
        return stream

    def write(self, picture: Picture, index: int) -> None:
        """Encode one picture, and the sound up to its end."""
        frame = video_frame(picture, self._form.pixel_format, self._colour)
        frame.pts, frame.time_base = index, 1 / self._rate
        self._container.mux(self._video.encode(frame))
        if self._plan is not None:
            self._write_sound(round((index + 1) * self._plan.sample_rate / self._rate))

    def _write_sound(self, until: int) -> None:
        if self._sound is None or self._plan is None:
            return
        while self._heard < until:
            block = next(self._blocks, None)
            if block is None:
                return
            frame = av.AudioFrame.from_ndarray(
                np.ascontiguousarray(block.T), format="fltp", layout=layout_of(self._plan)
            )
            frame.sample_rate = self._plan.sample_rate
            frame.pts, frame.time_base = self._heard, Fraction(1, self._plan.sample_rate)
            self._heard += len(block)
            self._container.mux(self._sound.encode(frame))

    def finish(self) -> None:
        """Encode what is still held back."""
        if self._plan is not None:
            self._write_sound(self._plan.count)
        self._container.mux(self._video.encode(None))
        if self._sound is not None:
            self._container.mux(self._sound.encode(None))


def layout_of(plan: SoundPlan) -> str:
    return {1: "mono", 2: "stereo", 6: "5.1"}[plan.sound.channels]


def video_frame(
    picture: Picture, pixel_format: str, colour: tuple[int, int, int, bool]
) -> av.VideoFrame:
    height, width = picture.planes[0].shape
    frame = av.VideoFrame(width, height, pixel_format)
    for plane, values in zip(frame.planes, picture.planes, strict=True):
        in_line = plane.line_size // values.itemsize
        lines = np.frombuffer(memoryview(plane), values.dtype).reshape(-1, in_line)
        lines[: values.shape[0], : values.shape[1]] = values
    frame.color_primaries, frame.color_trc, frame.colorspace, _ = colour
    frame.color_range = 1
    return frame
