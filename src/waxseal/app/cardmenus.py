"""The menus of cards and rows: what can be done with one source, shot or overlay."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject, QPoint
from PySide6.QtWidgets import QMenu, QWidget

from waxseal.app import window_texts
from waxseal.app.document import Document
from waxseal.app.reel_view.ledger import Ledger
from waxseal.app.relinking import Relinking
from waxseal.app.view.player import Player
from waxseal.core.job.edits import (
    Edit,
    accept_sound,
    change_words,
    join_shot,
    lay_over,
    lay_sound,
    make_stack,
    passes_for,
    put_behind,
    put_on_reel,
    remove_source,
    take_offered,
    take_where_complete,
)
from waxseal.core.job.model import JoinKind, Sequence, Shot, Sound
from waxseal.core.job.soundtracks import own_sounds
from waxseal.core.job.versions import successors

__all__ = ["CardMenus"]


class CardMenus(QObject):
    def __init__(
        self,
        parent: QWidget,
        document: Document,
        player: Player,
        ledger: Ledger,
        relinking: Relinking,
    ) -> None:
        super().__init__(parent)
        self._parent, self._document, self._player = parent, document, player
        self._ledger, self._relinking = ledger, relinking

    def source(self, source: str, place: QPoint) -> None:
        menu = QMenu(self._parent)
        menu.setToolTipsVisible(True)
        one = self._document.job.source(source)
        self._add_offer(menu, source)
        if isinstance(one, Sequence):
            self._add_for_sequence(menu, one)
            own = own_sounds(self._document.job).get(source)
            if own is not None:
                self._add_hearing(menu, own)
        else:
            self._add_hearing(menu, one)
            if one.damage and not one.accepted:
                self._add(
                    menu,
                    self.tr(window_texts.USE_IT_ALL_THE_SAME),
                    self.tr("use {0} all the same").format(one.name),
                    partial(accept_sound, source=source),
                )
            for words, at in (
                (self.tr(window_texts.LAY_FROM_THE_REELS_START), 1),
                (self.tr(window_texts.LAY_FROM_THE_PLAYHEAD), self._player.frame),
            ):
                change = partial(lay_sound, source=source, at=at, placed=at != 1)
                self._add(menu, words, self.tr("lay {0}").format(one.name), change)
        menu.addAction(
            self.tr(window_texts.FIND_ITS_FILES_ELSEWHERE), partial(self._relinking.ask, source)
        )
        self._add(
            menu,
            self.tr(window_texts.TAKE_OUT_OF_THE_IN_TRAY),
            self.tr("take {0} out").format(one.name),
            partial(remove_source, source=source),
        )
        menu.popup(place)

    def _add_offer(self, menu: QMenu, source: str) -> None:
        """A newer version, or its files where they are now; the tool tip says what changes."""
        job = self._document.job
        found = (one for one in successors(job).values() if source in (one.source.id, one.by.id))
        offer = next(found, None)
        if offer is None:
            return
        old, new = offer.source, offer.by
        words = self.tr("use the files of {0}").format(new.name)
        title = (
            self.tr(window_texts.TAKE_A_VERSION).format(new.name, old.name)
            if offer.label
            else self.tr(window_texts.USE_THE_MOVED_FILES)
        )
        self._add(menu, title, words, partial(take_offered, source=old.id))
        menu.actions()[-1].setToolTip(change_words(job, offer))
        if offer.label and old.stack is None:
            title = self.tr(window_texts.ONLY_WHERE_IT_IS_COMPLETE).format(new.name)
            change = partial(take_where_complete, source=old.id, by=new.id)
            self._add(menu, title, words, change)
        menu.addSeparator()

    def _add_hearing(self, menu: QMenu, sound: Sound) -> None:
        """Hear it by itself; a second time it stops."""

        def hear() -> None:
            self._player.stop()
            self._player.sounding.play_alone(sound)

        menu.addAction(self.tr(window_texts.HEAR_IT), hear)
        menu.addAction(self.tr(window_texts.STOP_HEARING), self._player.sounding.stop)

    def _add_for_sequence(self, menu: QMenu, one: Sequence) -> None:
        at = self._player.frame
        for title, words, change in (
            (
                self.tr(window_texts.PUT_ON_THE_REEL),
                self.tr(window_texts.PUT_ON_THE_REEL_EDIT),
                partial(put_on_reel, sources=[one.id]),
            ),
            (
                self.tr(window_texts.LAY_OVER_FROM_THE_PLAYHEAD),
                self.tr(window_texts.LAY_OVER_THE_REEL),
                partial(lay_over, source=one.id, at=at),
            ),
            (
                self.tr(window_texts.PUT_BEHIND_ALL_PICTURES),
                self.tr("{0} behind"),
                partial(put_behind, source=one.id),
            ),
        ):
            self._add(menu, title, words.format(one.name), change)
        if one.stack is None and passes_for(self._document.job, one.id) is not None:
            words = self.tr(window_texts.PUT_THE_PASSES_OF_TOGETHER).format(one.name)
            self._add(
                menu,
                self.tr(window_texts.PUT_ITS_PASSES_TOGETHER),
                words,
                partial(make_stack, source=one.id),
            )

    def _add(self, menu: QMenu, title: str, words: str, change: object) -> None:
        edit = Edit(words, change)  # type: ignore[arg-type]
        menu.addAction(title, partial(self._document.do, edit))

    def shot(self, shot: str, place: QPoint) -> None:
        menu, ledger = QMenu(self._parent), self._ledger
        menu.setToolTipsVisible(True)
        self._add_offer(menu, self._document.job.shot(shot).source)
        menu.addAction(self.tr("Move up\tAlt+Up"), partial(ledger.step, shot, -1))
        menu.addAction(self.tr("Move down\tAlt+Down"), partial(ledger.step, shot, 1))
        if self._document.job.reel.shots[0].id != shot:
            self._add_joins(menu, self._document.job.shot(shot))
        menu.addAction(self.tr("Take off the reel\tDel"), partial(ledger.remove, shot))
        menu.popup(place)

    def _add_joins(self, menu: QMenu, shot: Shot) -> None:
        for kind in JoinKind:
            title = self.tr(window_texts.JOIN_TITLES[kind.value])
            if kind is not shot.join.kind:
                change = partial(join_shot, shot=shot.id, kind=kind)
                self._add(menu, title, self.tr("join by a {0}").format(kind), change)

    def overlay(self, overlay: str, place: QPoint) -> None:
        menu, ledger = QMenu(self._parent), self._ledger
        menu.addAction(self.tr("Take off the reel\tDel"), partial(ledger.remove_overlay, overlay))
        menu.popup(place)
