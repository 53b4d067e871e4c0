"""How large a delivery becomes, and how long it takes: a few of its segments are encoded.

They are kept, so that the delivery itself does not encode them again.
"""

from __future__ import annotations

import time
from dataclasses import dataclass

from av.error import FFmpegError

from waxseal.core.deliver.encode.encode_state import EncodeState
from waxseal.core.deliver.encode.segments.segment_builder import segment_for
from waxseal.core.deliver.encode.segments.segment_cuts import pieces_of
from waxseal.core.deliver.encode.segments.segment_store import SegmentStore
from waxseal.core.deliver.format.delivery_settings import film_of, form_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.deliver.run.preflight import preflight
from waxseal.core.errors import Cancelled, DeliveryRefused, WaxSealError
from waxseal.core.job.model import Delivery, DeliveryState, Job, Outcome
from waxseal.core.progress import CancelToken, Report
from waxseal.core.text_format import bytes_words, left_words

__all__ = ["Prediction", "predict", "predicted"]

SAMPLES = 4
PACKET_BYTES, HEAD_BYTES = 14, 3000  # what a container takes, about: for a picture, for itself
CHECK = 0.2  # of the time to encode: what the check takes
SAMPLE_BYTES = 3  # of PCM


@dataclass(frozen=True, slots=True)
class Prediction:
    """size: in bytes. seconds: until it is sealed, with what is kept already."""

    size: int
    seconds: float
    most: int = 0

    @property
    def words(self) -> str:
        """`about 12.3 MB, made in about 40 s`"""
        made = left_words(max(1.0, self.seconds)).removesuffix(" left")
        size = f"about {bytes_words(self.size)}, made in about {made}"
        if self.most and self.size > self.most:
            return f"{size}; at most {bytes_words(self.most)}: its quality will be lowered"
        return size


def predict(job: Job, delivery: Delivery, report: Report, token: CancelToken) -> Prediction:
    """Encode a few segments of a delivery. Raises DeliveryRefused, FrameError, Cancelled."""
    programme = preflight(job, delivery, may_replace=True)
    form, film = form_of(programme.timeline, delivery), film_of(programme, delivery)
    work = EncodeState(film, form, report, token, stage="predicting")
    store, pieces = SegmentStore(), list(pieces_of(film, form))
    chosen = sorted({round(at * (len(pieces) - 1) / (SAMPLES - 1)) for at in range(SAMPLES)})
    size = frames = made_frames = 0
    taken = 0.0
    for place in chosen:
        begun, kept = time.monotonic(), work.segments_kept
        size += segment_for(pieces[place], work=work, store=store).size_bytes
        frames += pieces[place].span.count
        if work.segments_kept == kept:
            taken += time.monotonic() - begun
            made_frames += pieces[place].span.count
    whole = film.frames.count
    left = whole - frames
    each = taken / made_frames if made_frames else 0.0
    pictures = size / frames * whole
    return Prediction(
        round(pictures) + PACKET_BYTES * whole + HEAD_BYTES + sound_bytes(form),
        each * (left + whole * CHECK),
        form.most_bytes,
    )


def predicted(job: Job, delivery: Delivery, report: Report, token: CancelToken) -> Outcome:
    """The same as an outcome of nothing that was made. Never raises for what can go wrong."""
    try:
        found = predict(job, delivery, report, token)
    except Cancelled:
        return Outcome(state=DeliveryState.STOPPED)
    except DeliveryRefused as error:
        return Outcome(state=DeliveryState.REFUSED, reasons=error.reasons)
    except (WaxSealError, FFmpegError, OSError) as error:
        return Outcome(state=DeliveryState.REFUSED, reasons=(str(error),))
    return Outcome(
        state=DeliveryState.DRAFT,
        size_bytes=found.size,
        seconds=round(found.seconds, 3),
        notes=(found.words,),
    )


def sound_bytes(form: ResolvedFormat) -> int:
    sound, codec = form.sound, form.sound_codec
    if sound is None or codec is None:
        return 0
    if codec.bits_per_second:
        return codec.bits_per_second[sound.channels] * sound.count // sound.sample_rate // 8
    return sound.count * sound.channels * (codec.bits or 8 * SAMPLE_BYTES) // 8
