"""Where a film is cut into segments, and the key of each."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from waxseal.core.deliver.codecs import StreamEncoder
from waxseal.core.deliver.encode.segments.segment_pictures import encoder_of, stream_key
from waxseal.core.deliver.encode.segments.still_segments import file_key
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.job.model import Bitrate, Quality
from waxseal.core.picture.colour.colour_file_states import config_states
from waxseal.core.plan.filestates import FileState
from waxseal.core.plan.recipe import Recipe
from waxseal.core.plan.recipe_keys import store_key
from waxseal.core.plan.recipe_range import Recipes, changed_files
from waxseal.core.timing.ranges import FrameRange

__all__ = ["Piece", "pieces_of"]

# Frames. Where pictures lean on each other a segment costs a key frame, so it is long;
# where each stands by itself it costs nothing, and a short one is soon encoded again.
LONGEST, SHORTEST = 96, 24
LONGEST_ALONE, SHORTEST_ALONE = 48, 12
LONGEST_FILES, SHORTEST_FILES = 16, 4  # large ones
STEPPED, SHORTEST_STEPPED = 8, 8  # segments, at the least, where they have a quality each
STEP = 8  # frames of a source: a larger step from one frame to the next is a cut


@dataclass(frozen=True, slots=True)
class Piece:
    """Frames that become one segment.

    place: of its first frame in the film, from 0. recipes: of its frames. form: with its own
    quality.
    """

    place: int
    span: FrameRange
    recipes: tuple[Recipe, ...]
    form: ResolvedFormat

    @property
    def frames(self) -> FrameRange:
        return self.span

    def recipe(self, reel_frame: int) -> Recipe:
        return self.recipes[reel_frame - self.span.first]

    @property
    def is_replaced(self) -> bool:
        """Whether a file is another by now than its recipes say."""
        return bool(changed_files(self.files))

    @property
    def files(self) -> tuple[FileState, ...]:
        """Every file that its pictures are made from, once each."""
        return tuple(dict.fromkeys(file for one in set(self.recipes) for file in one.files()))

    @property
    def key(self) -> str:
        """All that the bytes of its segment depend on."""
        form = self.form
        is_stream = isinstance(form.codec.coding, StreamEncoder)
        return store_key(
            *("segment", *(stream_key if is_stream else file_key)(form)),
            *(form.target, tuple(one.key for one in self.recipes)),
            config_states(self.recipes[0].colour.config),
        )


def pieces_of(
    film: Recipes, form: ResolvedFormat, qualities: Mapping[int, Quality] | None = None
) -> Iterator[Piece]:
    """A film in pieces, from the first to the last. qualities: see Work."""
    frames = film.frames
    for span in spans_of(film, form):
        recipes = tuple(film.recipe(frame) for frame in span)
        place = span.first - frames.first
        quality = (qualities or {}).get(place, form.quality)
        own = form if quality == form.quality else replace(form, quality=quality)
        yield Piece(place, span, recipes, own)


def spans_of(film: Recipes, form: ResolvedFormat) -> Iterator[FrameRange]:
    """At cuts, where a key frame is due anyway, and never so short that it costs much.

    Cuts move with their shots: one that is trimmed moves all that follows, and changes
    no other shot's segments.
    """
    longest, shortest = lengths_for(form)
    first, last = film.frames.first, film.frames.last
    begin = first
    for frame in range(first + 1, last + 1):
        count = frame - begin
        is_due = count >= longest or (
            count >= shortest and is_cut(film.recipe(frame - 1), film.recipe(frame))
        )
        if is_due and last + 1 - frame >= shortest:
            yield FrameRange(begin, frame - 1)
            begin = frame
    yield FrameRange(begin, last)


def lengths_for(form: ResolvedFormat) -> tuple[int, int]:
    if not isinstance(form.codec.coding, StreamEncoder):
        return LONGEST_FILES, SHORTEST_FILES
    if not form.codec.has_key_frames:
        return LONGEST_ALONE, SHORTEST_ALONE
    keys = form.key_frames
    most = LONGEST * encoder_of(form).stretch
    if form.most_bytes and encoder_of(form).is_whole:
        # Its figures are steps: a limit is met by giving segments one or the other.
        most = min(most, max(SHORTEST_STEPPED, form.frames.count // STEPPED))
    longest = max(keys, most // keys * keys) if keys else most
    # A bitrate is kept over a segment: a short one has no room to share its bits out.
    shortest = longest if isinstance(form.quality, Bitrate) else min(SHORTEST, longest)
    return longest, shortest


def is_cut(before: Recipe, after: Recipe) -> bool:
    """Whether another shot begins: another source, or another place in it."""
    if before.shot is None or after.shot is None:
        return (before.shot is None) != (after.shot is None)
    one, other = before.shot.pick, after.shot.pick
    return one.source != other.source or abs(one.frame - other.frame) > STEP
