"""The files that hold a stream of pictures, and a sound beside it where there is one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any

from waxseal.core.deliver.codecs.aac import AAC
from waxseal.core.deliver.codecs.codec import SoundCodec
from waxseal.core.deliver.codecs.flac import FLAC
from waxseal.core.deliver.codecs.opus import OPUS
from waxseal.core.deliver.codecs.pcm import PCM16, PCM24
from waxseal.core.deliver.containers.container import Container
from waxseal.core.deliver.containers.lightbox import state_light
from waxseal.core.job.model import Space
from waxseal.core.progress import CancelToken, Report
from waxseal.core.seal.lightlevels import light_levels
from waxseal.core.text_format import plain

if TYPE_CHECKING:
    from waxseal.core.deliver.encode_state import Work
    from waxseal.core.deliver.resolved_format import Form
    from waxseal.core.seal.expected import LightLevels
    from waxseal.core.seal.measure.file_facts import Look, Measured

__all__ = ["MOVIES", "levels_in"]

# The index in front, so that it plays while it is loaded.
IN_FRONT = {"movflags": "+faststart"}

# SMPTE ST 379 knows no others.
BROADCAST_RATES = tuple(
    Fraction(*one)
    for one in (
        *((24_000, 1001), (24, 1), (25, 1), (30_000, 1001), (30, 1)),
        *((50, 1), (60_000, 1001), (60, 1)),
    )
)


@dataclass(frozen=True, slots=True)
class Movie:
    """Writes a file. format: the library's name for it; options: what it is told."""

    format: str
    options: Mapping[str, str] = field(default_factory=dict)
    has_whole_scale: bool = False

    def __call__(self, path: Path, work: Work) -> str:
        from waxseal.core.deliver.containers.movie_writer import MovieWriter
        from waxseal.core.deliver.segments.segment_builder import segments_of

        with MovieWriter(
            path, work.form, self.format, self.options, scales=self.has_whole_scale
        ) as writer:
            for segment in segments_of(work):
                work.wait_for_room(path.parent, segment.size_bytes)
                writer.add(segment)
            writer.finish()
        if work.form.says_light_levels:
            state_light(path, levels_in(work.marks.values()), work.form.mastering)
        return writer.stream


def levels_in(marks: Iterable[Any]) -> LightLevels:
    """Of a film whose frames have marks that end with theirs."""
    return light_levels(mark[-1] for mark in marks)


def measure(
    path: Path, *, look: Look | None, expected_frames: int, report: Report, token: CancelToken
) -> Measured:
    from waxseal.core.seal.measure.measure_movie import measure_movie

    return measure_movie(
        path, look=look, expected_frames=expected_frames, report=report, token=token
    )


def path_trouble(path: Path, _form: Form, *, overwrite: bool) -> str:
    if path.is_dir():
        return f"{plain(path.name)} is a folder: choose another name."
    if path.exists() and not overwrite:
        return f"{plain(path.name)} is there already: choose another name, or overwrite it."
    return ""


def of_movies(
    name: str,
    suffix: str,
    sounds: tuple[SoundCodec, ...],
    begin: Movie,
    *,
    has_tags: bool = True,
    has_timecode: bool = True,
    rates: tuple[Fraction, ...] = (),
    unsaid: tuple[Space, ...] = (),
) -> Container:
    return Container(
        name=name,
        suffix=suffix,
        sounds=sounds,
        has_boxes=begin.has_whole_scale,
        has_tags=has_tags,
        has_timecode=has_timecode,
        rates=rates,
        unsaid=unsaid,
        format=begin.format,
        write=begin,
        measure=measure,
        path_trouble=path_trouble,
    )


# What a player hears of each is as long as it was to the sample. (AAC in MKV is not: nothing
# there says how many samples of its last packet are only padding.)
SAMPLES = (PCM24, PCM16)


def measure_animated(
    path: Path, *, look: Look | None, expected_frames: int, report: Report, token: CancelToken
) -> Measured:
    from waxseal.core.seal.measure.measure_animated import measure_animation

    return measure_animation(
        path, look=look, expected_frames=expected_frames, report=report, token=token
    )


def animate(path: Path, work: Work) -> str:
    from waxseal.core.deliver.containers.animated_writer import write_animated

    return write_animated(path, work)


MOVIES = (
    of_movies(
        *("MP4", ".mp4", (AAC, OPUS, FLAC, *SAMPLES)),
        Movie("mp4", IN_FRONT, has_whole_scale=True),
    ),
    of_movies("MOV", ".mov", (*SAMPLES, AAC), Movie("mov", IN_FRONT, has_whole_scale=True)),
    of_movies("MKV", ".mkv", (FLAC, *SAMPLES, OPUS), Movie("matroska")),
    of_movies("WebM", ".webm", (OPUS,), Movie("webm")),
    of_movies("AVI", ".avi", (PCM16,), Movie("avi"), has_tags=False, has_timecode=False),
    of_movies("MXF", ".mxf", SAMPLES, Movie("mxf"), rates=BROADCAST_RATES, unsaid=(Space.P3,)),
    Container(
        name="APNG",
        suffix=".apng",
        sounds=(),
        has_boxes=False,
        has_tags=False,
        has_timecode=False,
        largest=65_535,
        write=animate,
        measure=measure_animated,
        path_trouble=path_trouble,
    ),
)
