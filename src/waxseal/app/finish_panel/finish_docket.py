"""The corrections of a shot, an overlay or the reel, one line each, in their order."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QMenu, QVBoxLayout, QWidget

from waxseal.app.finish_panel import finish_texts
from waxseal.app.finish_panel.cdl_fields import CdlFiles
from waxseal.app.finish_panel.correction_row import CorrectionLine
from waxseal.app.finish_panel.matte_fields import MatteLine
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.line_tools import Lines
from waxseal.app.look.widgets import button, label, row_of
from waxseal.core.job.corrections import (
    ORDER,
    Cdl,
    Correction,
    Corrects,
    Text,
    TextPlace,
)
from waxseal.core.job.corrections.fields import FileField, SourceField
from waxseal.core.job.edits import (
    REEL,
    add_text,
    copy_finish,
    finish_of,
    remove_correction,
    reset_finish,
    set_correction,
    switch_finish,
)
from waxseal.core.job.finish_settings import Finish
from waxseal.core.job.model import Job, change
from waxseal.core.job.passes import PassKind

__all__ = ["FinishDocket"]


class FinishDocket(QWidget):
    """of: whose finish, REEL for the reel's. name: what undo calls it."""

    def __init__(self, of: str, name: str, pen: Pen) -> None:
        super().__init__()
        self._pen = pen
        self.of, self._name = of, name
        self._finish = Finish()
        self._job = Job()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._add = button(self.tr("Add…"), self._offer)
        self._add.setObjectName("add correction")
        self._switch = button("", self._switch_all, "word")
        self._reset = button(self.tr("Take all away"), self._reset_all, "word")
        self._copy = button(self.tr(finish_texts.FINISH_ALL_SHOTS_ALIKE), self._copy_to_all, "word")
        self._files = CdlFiles(self, pen)
        self._files.chosen.connect(self._take_cdl)
        self._none = label(self.tr(finish_texts.AS_IT_WAS_RENDERED), "quiet")
        column.addLayout(
            row_of(
                label(self.tr("Finish"), "name"),
                self._none,
                1,
                self._copy,
                self._switch,
                self._reset,
                self._add,
            )
        )
        self._lines = Lines(gap=4)
        column.addWidget(self._lines)
        self._matte = MatteLine(of, name, pen)
        column.addWidget(self._matte)

    def show_job(self, job: Job) -> None:
        """The finish as it is now."""
        finish = finish_of(job, self.of)
        self._finish, self._job = finish, job
        kinds = tuple(one.kind for one in finish.corrections)
        sources = tuple((one.id, one.name) for one in job.sequences)
        self._lines.show_values(
            finish.corrections,
            (kinds, sources),
            self._make_line,
            lambda line, one: line.show_correction(one),  # type: ignore[attr-defined]
        )
        some = bool(finish.corrections)
        self._none.setVisible(not some)
        for widget in (self._switch, self._reset):
            widget.setVisible(some)
        self._copy.setVisible(some and self.of != REEL and len(job.reel.shots) > 1)
        is_on = any(one.on for one in finish.corrections)
        self._switch.setText(self.tr("Switch all off") if is_on else self.tr("Switch all on"))
        self._matte.setVisible(some)
        if some:
            self._matte.show_job(job)

    def _make_line(self, at: int, one: Correction) -> CorrectionLine:
        line = CorrectionLine(one, self._job, self._pen)
        line.changed.connect(partial(self._change, at))
        line.remove_asked.connect(partial(self._remove, at))
        return line

    # ---- saying ----------------------------------------------------------------------------

    def _number(self, at: int) -> int:
        """Which one of its kind a correction is: texts are many."""
        kind = self._finish.corrections[at].kind
        return sum(one.kind == kind for one in self._finish.corrections[:at])

    def _change(self, at: int, name: str, value: object) -> None:
        if at >= len(self._finish.corrections):
            return
        before = self._finish.corrections[at]
        number = self._number(at)
        words = self.tr("{0}: {1} {2}").format(self._name, before.label, name.replace("_", " "))

        def apply(job: Job) -> Job:
            one: Correction = change(before, **{name: value})
            return set_correction(job, of=self.of, correction=one, number=number)

        self._pen.ask(words, apply, f"{self.of} {before.kind} {number} {name}")

    def _remove(self, at: int) -> None:
        one = self._finish.corrections[at]
        act = partial(remove_correction, of=self.of, kind=one.kind, number=self._number(at))
        self._pen.ask(self.tr("{0}: take {1} away").format(self._name, one.label), act)

    def _switch_all(self) -> None:
        is_on = any(one.on for one in self._finish.corrections)
        words = self.tr("{0}: finish off") if is_on else self.tr("{0}: finish on")
        self._pen.ask(words.format(self._name), partial(switch_finish, of=self.of, on=not is_on))

    def _reset_all(self) -> None:
        self._pen.ask(
            self.tr("{0}: as rendered").format(self._name), partial(reset_finish, of=self.of)
        )

    def _copy_to_all(self) -> None:
        others = [one.id for one in self._job.reel.shots if one.id != self.of]
        words = self.tr(finish_texts.ALL_SHOTS_FINISHED_AS).format(self._name)
        self._pen.ask(words, partial(copy_finish, of=self.of, to=others))

    # ---- adding ----------------------------------------------------------------------------

    def _offer(self) -> None:
        self.menu().popup(self._add.mapToGlobal(self._add.rect().bottomLeft()))

    def menu(self) -> QMenu:
        """What can be added: each kind once, text as often as is wanted."""
        menu = QMenu(self)
        there = {type(one) for one in self._finish.corrections}
        for kind in ORDER:
            if kind is Text:
                menu.addSeparator()
                menu.addAction(self.tr("text"), partial(self._add_text, Text(words="{name}")))
                menu.addAction(
                    self.tr("frame and timecode"),
                    partial(self._add_text, BURN_IN),
                )
                menu.addSeparator()
                continue
            action = menu.addAction(kind.label, partial(self._add_kind, kind))
            action.setEnabled(kind not in there)
        menu.addSeparator()
        menu.addAction(self.tr(finish_texts.CDL_FROM_A_FILE), self._files.choose)
        save = menu.addAction(self.tr("Save the CDL…"), self._save_cdl)
        save.setEnabled(Cdl in there)
        return menu

    def _add_kind(self, kind: type[Corrects]) -> None:
        given = self._given(kind)
        if given is None:
            return
        made = change(
            Finish(), corrections=({"kind": correction_kind(kind), **kind.begins, **given},)
        ).corrections[0]
        words = self.tr("{0}: add {1}").format(self._name, kind.label)
        self._pen.ask(words, partial(set_correction, of=self.of, correction=made))

    def _given(self, kind: type[Corrects]) -> dict[str, str] | None:
        """What a correction cannot be without, a file or a source; None if there is none."""
        given = {}
        for one in kind.fields:
            if not kind.model_fields[one.name].is_required():
                continue
            if isinstance(one, FileField):
                given[one.name] = self._files.choose_for(one)
            elif isinstance(one, SourceField):
                given[one.name] = source_for(self._job, one.prefers)
        return given if all(given.values()) else None

    def _add_text(self, text: Text) -> None:
        words = self.tr("{0}: add text").format(self._name)
        self._pen.ask(words, partial(add_text, of=self.of, text=text))

    def _take_cdl(self, cdl: Cdl) -> None:
        words = self.tr(finish_texts.CDL_FROM_A_FILE_EDIT).format(self._name)
        self._pen.ask(words, partial(set_correction, of=self.of, correction=cdl))

    def _save_cdl(self) -> None:
        one = self._finish.of("cdl")
        if isinstance(one, Cdl):
            self._files.save(one, self._name)


BURN_IN = Text(words="{name} {frame}   {timecode}", place=TextPlace.BOTTOM, size=32, shade=0.6)


def correction_kind(kind: type[Corrects]) -> str:
    return str(kind.model_fields["kind"].default)


def source_for(job: Job, kind: PassKind) -> str:
    """The source that is a pass of a kind, or the first there is; empty if there is none."""
    passes = [one.id for one in job.sequences if one.belongs and one.belongs.kind is kind]
    return next(iter([*passes, *(one.id for one in job.sequences)]), "")
