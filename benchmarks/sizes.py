"""One frame of the smallest and of the largest sizes in every codec, with alpha where it has any.

`make sizes` delivers each: it is sealed, or it was refused before the start with the reason.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
from pathlib import Path

from tests.making import job_of, write_sequence
from waxseal.core.deliver.codecs import CODECS, Codec, codec_named
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import Alpha, DeliveryState, Framing, Job, Size
from waxseal.core.progress import CancelToken, silent

__all__ = ["large_frame"]

SIZES = ((16, 16), (8192, 4320), (12_000, 2000), (16_384, 8640))


def large_frame(job: Job, size: Size) -> Job:
    """The job with its delivery of one frame of that size, in the codec that it has."""
    (delivery,) = job.deliveries
    codec = codec_named(delivery.codec)
    has_alpha = bool(codec.alphas and codec.clear_containers)
    return change_delivery(
        job,
        delivery=delivery.id,
        size=size,
        range=(1, 1),
        framing=Framing.STRETCH,
        space=codec.usual_space,
        alpha=codec.alphas[0] if has_alpha else Alpha.NONE,
        container=(codec.clear_containers if has_alpha else codec.containers)[0],
    )


def trouble_with(codec: Codec, size: Size) -> str:
    """What is wrong; empty for nothing."""
    with tempfile.TemporaryDirectory() as folder:
        job = job_of(write_sequence(Path(folder) / "frames", frames=range(1, 3)))
        job = change_delivery(job, delivery=job.deliveries[0].id, codec=codec.name)
        job = large_frame(job, size)
        outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    if outcome.state is DeliveryState.SEALED:
        return ""
    expected = codec.size_trouble(size)
    is_told = bool(expected) and outcome.reasons == (expected,)
    return "" if is_told else " ".join(outcome.reasons)


def main() -> int:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("codecs", nargs="*", help="all of them where none is named")
    names, wrong = asked.parse_args().codecs or list(CODECS), 0
    for width, height in SIZES:
        size = Size(width=width, height=height)
        for name in names:
            trouble = trouble_with(codec_named(name), size)
            wrong += bool(trouble)
            print(f"{size}  {name:14} {trouble or 'right'}", flush=True)
    print(f"{wrong} wrong")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
