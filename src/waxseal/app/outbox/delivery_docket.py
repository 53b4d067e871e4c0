"""The docket of a delivery: its name, what will happen to the reel, and its settings."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.widgets import Elided, Field, button, label, row_of
from waxseal.app.outbox import outbox_texts
from waxseal.app.outbox.decisions import Decisions
from waxseal.app.outbox.match_table import MatchTable
from waxseal.app.outbox.setting_rows import FilledRows, SettingRows, without_what_it_lacks
from waxseal.core.deliver.codecs import CODECS, Codec
from waxseal.core.deliver.format.output_path import file_name, named_container, path_of
from waxseal.core.deliver.match import Drawings, Row, match_drawn
from waxseal.core.deliver.run.each_shot import split_by_shot
from waxseal.core.deliver.specs.apply_spec import spec_from, spec_troubles
from waxseal.core.deliver.specs.spec_book import save_spec, spec_book
from waxseal.core.errors import JobError, WaxSealError
from waxseal.core.job.edits import Edit, change_delivery
from waxseal.core.job.model import (
    Delivery,
    Job,
)
from waxseal.core.plan.programme import Programme
from waxseal.core.text_format import lines_text, plain

__all__ = ["DeliveryDocket"]


class DeliveryDocket(QWidget):
    """Made for one state of a delivery; the match table follows the reel.

    settings_asked: show the settings, or hide them.
    """

    send_asked = Signal()
    remove_asked = Signal()
    proof_asked = Signal()
    look_asked = Signal()
    hear_asked = Signal()
    poster_asked = Signal()
    predict_asked = Signal()
    settings_asked = Signal(bool)

    def __init__(
        self, delivery: Delivery, pen: Pen, *, is_running: bool, shows_settings: bool
    ) -> None:
        super().__init__()
        self._delivery, self._pen = delivery, pen
        self._is_running = is_running
        self._codec = known_codec(delivery)
        self._programme: Programme | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(self._name_row())
        self._match = MatchTable()
        self._match.setEnabled(not is_running)
        column.addWidget(self._match)
        self._troubles = label("", "bad", wraps=True)
        column.addWidget(self._troubles)
        self._as_wanted = button(self.tr("As the spec wants it"), self._take_spec, "word")
        column.addLayout(row_of(self._as_wanted, 1))
        words = self.tr("Hide the settings") if shows_settings else self.tr("Settings")
        settings = button(words, partial(self.settings_asked.emit, not shows_settings), "word")
        settings.setObjectName("word")
        column.addLayout(row_of(settings, 1))
        if shows_settings:
            rows = SettingRows(delivery, self._codec, pen, self._say, self).rows()
            column.addLayout(self._grid(rows))
            column.addWidget(self._spec_row())
        proof = button(self.tr("Proof"), self.proof_asked.emit, "word")
        proof.setToolTip(self.tr(outbox_texts.A_SECOND_AROUND_THE_PLAYHEAD))
        poster = button(self.tr("Poster frame"), self.poster_asked.emit, "word")
        poster.setToolTip(self.tr(outbox_texts.THE_FRAME_UNDER_THE_PLAYHEAD))
        predict = button(self.tr("Predict"), self.predict_asked.emit, "word")
        predict.setToolTip(self.tr(outbox_texts.HOW_LARGE_AND_HOW_LONG))
        is_made = delivery.outcome is not None
        see = outbox_texts.COMPARE_WITH_ITS_FILE if is_made else outbox_texts.AS_IT_WILL_BE
        look = button(self.tr(see), self.look_asked.emit, "word")
        look.setToolTip(self.tr(outbox_texts.IN_THE_PICTURE_AS_IT_WILL_BE))
        hear = button(self.tr("Hear it"), self.hear_asked.emit, "word")
        hear.setToolTip(self.tr(outbox_texts.THE_SOUND_OF_ITS_FILE))
        hear.setVisible(delivery.outcome is not None)
        column.addLayout(row_of(look, hear, proof, 1))
        column.addLayout(row_of(poster, predict, 1))
        self._each_shot = button(self.tr("Every shot as its own file"), self._split, "word")
        self._each_shot.setToolTip(self.tr(outbox_texts.A_DELIVERY_FOR_EACH_SHOT))
        column.addLayout(row_of(self._each_shot, 1))
        send = button(self.tr("Seal this one"), self.send_asked.emit)
        remove = button(self.tr("Remove"), self.remove_asked.emit, "word")
        for widget in (send, remove):
            widget.setEnabled(not is_running)
        column.addLayout(row_of(send, 1, remove))

    def _grid(self, rows: FilledRows) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        for row, (words, widget) in enumerate(rows):
            title = label(words, "quiet")
            title.setBuddy(widget)
            grid.addWidget(title, row, 0)
            grid.addWidget(widget, row, 1)
            widget.setEnabled(not self._is_running)
        return grid

    # ---- what will happen ------------------------------------------------------------------

    def show_programme(self, programme: Programme | None) -> None:
        """What happens to the reel as it is now."""
        rows: tuple[Row, ...] = ()
        drawings: Drawings | None = None
        troubles: list[str] = []
        if programme is not None and self._delivery.codec in CODECS:
            try:
                rows, drawings = match_drawn(programme, self._delivery)
                if self._delivery.spec:
                    spec = spec_book().named(self._delivery.spec)
                    troubles = list(spec_troubles(spec, programme.timeline, self._delivery))
            except WaxSealError as error:
                troubles = [str(error)]
        self._match.setVisible(bool(rows))
        if programme is not None:
            found = Decisions(self._delivery, self._codec, programme, self._pen)
            told = [(row, found.of(row)) for row in rows]
            self._match.show_match(told, drawings, programme.timeline)
        self._troubles.setText(lines_text(troubles))
        self._troubles.setVisible(bool(troubles))
        self._programme = programme
        can_split = programme is not None and len(programme.timeline.shots) > 1
        self._each_shot.setVisible(can_split and not self._is_running)
        can_take = bool(troubles) and spec_book().get(self._delivery.spec) is not None
        self._as_wanted.setVisible(can_take and not self._is_running)

    def _split(self) -> None:
        split = partial(split_by_shot, delivery=self._delivery.id)
        self._pen.asked.emit(Edit(self.tr("every shot as its own file"), split))

    def _take_spec(self) -> None:
        """Set everything that the spec says; what it leaves open stays."""
        spec = spec_book().get(self._delivery.spec)
        if spec is None:
            return
        timeline = self._programme.timeline if self._programme is not None else None
        self._say(self.tr("as {0} wants it").format(spec.name), **spec.settings(timeline))

    # ---- the name --------------------------------------------------------------------------

    def _name_row(self) -> QHBoxLayout:
        delivery = self._delivery
        name = Field(path_of(delivery).name, self.tr("Name"), file_name)
        name.setObjectName("deliveryName")
        name.said.connect(self._say_name)
        name.wrong.connect(self._pen.complained)
        folder = Elided(plain(delivery.folder), "", middle=True)
        choose = button(self.tr("Choose…"), self._choose_folder, "word")
        row = row_of(name, label(self.tr("in"), "quiet"), folder, choose)
        row.setStretch(0, 3)
        row.setStretch(2, 2)
        for widget in (name, choose):
            widget.setEnabled(not self._is_running)
        return row

    def _say_name(self, name: object) -> None:
        """A suffix that the codec has a container for chooses that."""
        fields: dict[str, object] = {"name": name, "outcome": None}
        container = named_container(str(name), self._codec)
        if container:
            fields |= {"container": container, **without_what_it_lacks(container, self._codec)}
        self._say(self.tr("name a delivery"), **fields)

    def _choose_folder(self) -> None:
        before = self._delivery.folder
        chosen = QFileDialog.getExistingDirectory(self, self.tr("Deliver into"), before)
        if chosen:
            words = self.tr("deliver into {0}").format(Path(chosen).name)
            self._say(words, folder=chosen, outcome=None)

    # ---- the spec --------------------------------------------------------------------------

    def _spec_row(self) -> QWidget:
        """The name under which these settings go into the spec book."""
        name = Field(self._delivery.spec, self.tr("Spec"), str)
        name.setObjectName("specName")
        name.setPlaceholderText(self.tr(outbox_texts.NAME_OF_A_SPEC))
        save = button(self.tr("Save as a spec"), partial(self._save_spec, name), "word")
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(name)
        column.addLayout(row_of(save, 1))
        holder.setEnabled(not self._is_running and self._delivery.codec in CODECS)
        return holder

    def _save_spec(self, name: Field) -> None:
        try:
            spec = spec_from(self._delivery, name.text())
            save_spec(spec)
        except JobError as error:
            self._pen.complained.emit(str(error))
            return
        self._say(self.tr("save a spec"), spec=spec.name)
        self._pen.complained.emit(self.tr(outbox_texts.IS_IN_THE_SPEC_BOOK).format(spec.name))

    # ---- saying ----------------------------------------------------------------------------

    def _say(self, words: str, **fields: object) -> None:
        delivery = self._delivery.id

        def change(job: Job) -> Job:
            return change_delivery(job, delivery=delivery, **fields)

        self._pen.asked.emit(Edit(words, change))


def known_codec(delivery: Delivery) -> Codec:
    """A delivery's codec, or the usual one where a newer job names one that is not known here."""
    return CODECS.get(delivery.codec) or next(iter(CODECS.values()))
