"""Where the playhead is sent, and what is done at the place where it is."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QObject, Signal

from waxseal.app import window_texts
from waxseal.app.document import Document
from waxseal.app.view.player import Player
from waxseal.core.job.edits import Edit, change_reading, mark, set_subject
from waxseal.core.job.model import Alpha, Job, Shot
from waxseal.core.plan.cutting import (
    duplicate_shot,
    split_shot,
    trim_head_to,
    trim_tail_to,
)

__all__ = ["Navigation"]


class Navigation(QObject):
    """said: a sentence."""

    said = Signal(str)

    def __init__(self, document: Document, player: Player) -> None:
        super().__init__(document)
        self._document, self._player = document, player

    def to_frame(self, reel_frame: int) -> None:
        self._player.stop()
        self._player.look_for(reel_frame)

    def to_source(self, source: str) -> None:
        """To the first shot of a source."""
        timeline = self._player.timeline
        for part in timeline.shots if timeline is not None else ():
            if part.laid.source == source:
                self._player.go(part.first)
                return

    def to_source_frame(self, source: str, frame: int) -> None:
        """To where a frame of a source is on the reel."""
        timeline = self._player.timeline
        reel_frame = timeline.where(source, frame) if timeline is not None else None
        if reel_frame is None:
            self.said.emit(self.tr(window_texts.FRAME_IS_NOT_ON_THE_REEL).format(frame))
        else:
            self.to_frame(reel_frame)

    def to_cut(self, shot: str, frame: int) -> None:
        """Show the frame at the cut while it is dragged."""
        timeline = self._player.timeline
        for part in timeline.shots if timeline is not None else ():
            if part.laid.id == shot:
                self.to_frame(part.last if frame >= part.laid.last else part.first)

    def drag_subject(self, right: float, down: float) -> None:
        """Move what the delivery keeps of the shot under the playhead."""
        timeline, beside = self._player.timeline, self._player.beside
        if timeline is None or beside is None:
            return
        shot = timeline.shot_at(self._player.frame).laid
        if isinstance(shot, Shot):
            subject = beside.dragged(shot.subject, right, down)
            drag = partial(set_subject, shot=shot.id, across=subject.x, down=subject.y)
            self._document.do(Edit(self.tr("what is kept"), drag, f"{shot.id} subject"))

    # ---- done where it is ------------------------------------------------------------------

    def flip_alpha(self) -> None:
        """Read the alpha of what is being looked at the other way."""
        programme = self._player.programme
        if programme is None:
            return
        source = programme.place(self._player.frame).sequence
        if source.reading.alpha.value is Alpha.NONE:
            self.said.emit(self.tr(window_texts.HAS_NO_ALPHA).format(source.name))
            return
        is_straight = source.reading.alpha.value is Alpha.STRAIGHT
        alpha = Alpha.PREMULTIPLIED if is_straight else Alpha.STRAIGHT
        words = self.tr("read {0}: alpha {1}").format(source.name, alpha)
        self._document.do(Edit(words, partial(change_reading, source=source.id, alpha=alpha)))
        self.said.emit(words[0].upper() + words[1:])

    def split(self) -> None:
        self._cut(self.tr("split a shot"), split_shot)

    def begin_here(self) -> None:
        self._cut(self.tr(window_texts.A_SHOT_BEGINS_HERE), trim_head_to)

    def end_here(self) -> None:
        self._cut(self.tr(window_texts.A_SHOT_ENDS_HERE), trim_tail_to)

    def double(self) -> None:
        """Duplicate the shot under the playhead."""
        timeline = self._player.timeline
        if timeline is not None:
            shot = timeline.shot_at(self._player.frame).laid.id
            words = self.tr(window_texts.A_SHOT_ONCE_MORE)
            self._document.do(Edit(words, partial(duplicate_shot, shot=shot)))

    def _cut(self, words: str, cut: Callable[..., Job]) -> None:
        if self._player.timeline is not None:
            self._document.do(Edit(words, partial(cut, at=self._player.frame)))

    def mark_in(self) -> None:
        self._mark(self._player.frame, self._player.last)

    def mark_out(self) -> None:
        self._mark(self._player.first, self._player.frame)

    def _mark(self, first: int, last: int) -> None:
        if self._player.timeline is not None:
            words = self.tr("mark {0} to {1}").format(min(first, last), max(first, last))
            self._document.do(Edit(words, partial(mark, first=first, last=last)))

    def unmark(self) -> None:
        self._document.do(
            Edit(self.tr(window_texts.TAKE_THE_MARK_AWAY), partial(mark, first=None, last=None))
        )
