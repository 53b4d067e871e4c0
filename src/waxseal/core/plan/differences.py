"""What of a source is another than the reel's, and what follows from it, in sentences."""

from __future__ import annotations

from collections.abc import Iterator

from waxseal.core.job.model import Job, Sequence
from waxseal.core.timing.matching import conversion_words
from waxseal.core.timing.rates import rate_words

__all__ = ["reel_differences"]


def reel_differences(job: Job, source: Sequence) -> tuple[str, ...]:
    """Empty where the source is as the reel is, or the reel is empty."""
    return tuple(differences(job, source)) if job.reel.shots else ()


def differences(job: Job, source: Sequence) -> Iterator[str]:
    rate, reel_rate = source.reading.rate.value, job.reel_rate
    if source.kind != "still" and rate != reel_rate:
        words = conversion_words(rate, reel_rate)
        yield f"The reel runs at {rate_words(reel_rate)}: {words}."
    size, reel_size = source.shown_size, job.reel_size
    if source.found.format and size != reel_size:
        shape = "" if size == source.found.size else f" shown as {size}"
        yield f"The reel is {reel_size}, this {source.found.size}{shape}."
