"""The decisions that the match table offers, beside the row that asks for them."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial, reduce

from PySide6.QtCore import QCoreApplication

from waxseal.app import window_texts
from waxseal.app.look.edit_signals import Pen
from waxseal.app.outbox import outbox_texts
from waxseal.app.outbox.match_table import Decision
from waxseal.app.reel_view import reel_texts
from waxseal.core.deliver.codecs import Codec
from waxseal.core.deliver.format.output_path import container_of
from waxseal.core.deliver.match import Row, State, has_guessed_rate, sources_lacking
from waxseal.core.job.edits import (
    Edit,
    accept_sound,
    bind_sound,
    change_delivery,
    change_sound,
    confirm_rates,
    hold_for_missing,
)
from waxseal.core.job.model import Delivery, Job
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.strayed_sounds import strayed_sounds
from waxseal.core.timing.rates import rate_words

__all__ = ["Decisions"]

tr = partial(QCoreApplication.translate, "decisions")


class Decisions:
    """Of one delivery, for the reel as it is."""

    def __init__(self, delivery: Delivery, codec: Codec, programme: Programme, pen: Pen) -> None:
        self._delivery, self._codec, self._programme = delivery, codec, programme
        self._pen = pen

    def of(self, row: Row) -> Sequence[Decision]:
        """Empty for a row that needs no decision."""
        asks: dict[str, Callable[[Row], Iterator[Decision]]] = {
            "rate": self._of_rate,
            "frames": self._of_frames,
            "alpha": self._of_alpha,
            "sound": self._of_sound,
        }
        return tuple(asks[row.what](row)) if row.what in asks else ()

    def _edit(self, words: str, change: Callable[[Job], Job]) -> Decision:
        return words, partial(self._pen.asked.emit, Edit(words, change))

    def _of_rate(self, row: Row) -> Iterator[Decision]:
        parts = (part.sequence for part in self._programme.timeline.shots)
        guess = next((one.reading.rate for one in parts if has_guessed_rate(one)), None)
        if row.state is State.DECIDE and guess is not None:
            words = tr("confirm {0}").format(rate_words(guess.value))
            confirm = partial(confirm_rates, rate=guess.value)
            yield words, partial(self._pen.ask_of_many, words, confirm)

    def _of_frames(self, row: Row) -> Iterator[Decision]:
        lacking = sources_lacking(self._programme, self._delivery) if row.reasons else ()
        if lacking:
            hold = partial(hold_for_missing, sources=lacking)
            yield self._edit(tr(outbox_texts.LET_THE_FRAME_BEFORE), hold)

    def _of_alpha(self, row: Row) -> Iterator[Decision]:
        there = container_of(self._delivery).name
        can_keep = bool(self._codec.alphas) and there in self._codec.clear_containers
        if row.state is State.LOST and can_keep:
            alpha = self._codec.alphas[0]
            keep = partial(change_delivery, delivery=self._delivery.id, alpha=alpha)
            yield self._edit(tr("keep the alpha"), keep)

    def _of_sound(self, row: Row) -> Iterator[Decision]:
        if row.state is not State.DECIDE:
            return
        job = self._programme.timeline.job
        used = dict.fromkeys(job.sound(one.source) for one in job.reel.sounds)
        broken = [one.id for one in used if one.damage and not one.accepted]
        if broken:
            yield self._edit(
                tr(window_texts.USE_IT_ALL_THE_SAME), each(accept_sound, "source", broken)
            )
            return
        stray = [one.laid.id for one in strayed_sounds(self._programme.timeline)]
        if stray:
            bind = each(bind_sound, "sound", stray)
            yield self._edit(tr(reel_texts.BIND_TO_ITS_SHOT), bind)
            stay = each(partial(change_sound, placed=True), "sound", stray)
            yield self._edit(tr(reel_texts.LIES_WHERE_IT_SHOULD), stay)


def each(change: Callable[..., Job], name: str, values: Sequence[str]) -> Callable[[Job], Job]:
    """The same change for each of several, in one edit."""

    def changed(job: Job) -> Job:
        return reduce(lambda before, value: change(before, **{name: value}), values, job)

    return changed
