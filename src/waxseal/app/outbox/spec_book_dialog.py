"""The spec book as a screen: each spec with all its keys; the user's own are written in place."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from waxseal.app.look.key_widgets import Choice
from waxseal.app.look.question_box import Question
from waxseal.app.look.text_scale import px
from waxseal.app.look.widgets import button, label, row_of
from waxseal.app.outbox import outbox_texts
from waxseal.core.deliver.specs.spec import KEYS, Spec
from waxseal.core.deliver.specs.spec_book import Book, remove_spec, save_spec, spec_book
from waxseal.core.deliver.specs.spec_edits import spec_of, texts_of
from waxseal.core.deliver.specs.spec_key import Key
from waxseal.core.deliver.specs.spec_values import Purpose
from waxseal.core.errors import JobError
from waxseal.core.job.model import change
from waxseal.core.text_format import plain

__all__ = ["SpecBook"]

NAME = Qt.ItemDataRole.UserRole


class SpecBook(QDialog):
    """changed: what is in the book."""

    changed = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(self.tr("The spec book"))
        self.resize(px(820), px(620))
        self._book: Book = spec_book()
        self._chosen = ""  # by its name
        self._list = QTreeWidget()
        self._list.setAccessibleName(self.tr("Specs"))
        self._list.setObjectName("specs")
        self._list.setHeaderHidden(True)
        self._list.setRootIsDecorated(False)
        self._list.setIndentation(px(12))
        self._list.setMinimumWidth(px(240))
        self._list.currentItemChanged.connect(self._choose_item)
        self._title = label("", "strong")
        self._about = label("", "quiet", wraps=True)
        self._fields: dict[str, QLineEdit | Choice] = {}
        self._trouble = label("", "bad", wraps=True)
        self.save = button(self.tr("Save"), self._save)
        self.copy = button(self.tr("Copy as my own"), self._copy)
        self.remove = button(self.tr("Remove"), self._ask_to_remove, "word")
        self._question = Question(self._remove, self._keep)
        close = button(self.tr("Close"), self.close)
        right = QVBoxLayout()
        right.addWidget(self._title)
        right.addWidget(self._about)
        right.addWidget(self._form(), 1)
        right.addWidget(self._trouble)
        right.addWidget(self._question)
        right.addLayout(row_of(self.save, self.copy, self.remove, 1, close))
        whole = QHBoxLayout(self)
        whole.setSpacing(px(14))
        whole.addWidget(self._list)
        whole.addLayout(right, 1)
        self._fill()

    def _form(self) -> QScrollArea:
        inside = QWidget()
        form = QFormLayout(inside)
        form.setContentsMargins(0, 0, px(10), 0)
        form.setVerticalSpacing(4)
        for name, key in KEYS.items():
            widget = self._field(name, key)
            title = label(self.tr(key.label), "quiet")
            title.setBuddy(widget)
            form.addRow(title, widget)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inside)
        return area

    def _field(self, name: str, key: Key) -> QLineEdit | Choice:
        made: QLineEdit | Choice
        if key.choices:
            made = Choice()
            for one in key.choices:
                made.addItem(one or self.tr(key.usual), one)
            made.activated.connect(self._look)
        else:
            made = QLineEdit()
            made.textEdited.connect(self._look)
        made.setAccessibleName(self.tr(key.label))
        made.setObjectName(f"spec {name}")
        self._fields[name] = made
        return made

    # ---- the list ----------------------------------------------------------------------------

    def _fill(self) -> None:
        """The book as it is now, the chosen spec chosen still."""
        self._book = spec_book()
        self._list.blockSignals(True)
        self._list.clear()
        wanted = None
        small = self._list.font()
        small.setPixelSize(px(11))
        small.setBold(True)
        for purpose in Purpose:
            specs = [one for one in self._book if one.purpose is purpose]
            if not specs:
                continue
            title = QTreeWidgetItem([purpose.label.upper()])
            title.setFont(0, small)
            title.setFlags(Qt.ItemFlag.ItemIsEnabled)
            self._list.addTopLevelItem(title)
            for spec in specs:
                mark = "" if self._book.file_of(spec.name) is None else self.tr("  · yours")
                item = QTreeWidgetItem(title, [f"{spec.name}{mark}"])
                item.setData(0, NAME, spec.name)
                if wanted is None or spec.name == self._chosen:
                    wanted = item
            title.setExpanded(True)
        self._list.blockSignals(False)
        if wanted is not None:
            self._list.setCurrentItem(wanted)

    def _choose_item(self, item: QTreeWidgetItem | None) -> None:
        name = item.data(0, NAME) if item is not None else None
        spec = self._book.get(name) if name else None
        if spec is not None:
            self._chosen = spec.name
            self._show(spec)

    def _show(self, spec: Spec) -> None:
        file = self._book.file_of(spec.name)
        self._title.setText(plain(spec.name))
        where = self.tr(outbox_texts.COMES_WITH_WAX_SEAL)
        if file is not None:
            where = self.tr(outbox_texts.A_FILE_OF_YOURS).format(plain(file))
        self._about.setText(f"{self.tr(outbox_texts.WHAT_A_DESTINATION_TAKES)}\n{where}")
        texts = texts_of(spec)
        for name, key in KEYS.items():
            field, text = self._fields[name], texts[name]
            if isinstance(field, Choice):
                field.setCurrentIndex(max(0, field.findData(text)))
            else:
                field.setText(text)
                field.setPlaceholderText(hint(key, is_written=file is not None))
            field.setEnabled(file is not None)
        self.save.setVisible(file is not None)
        self.remove.setVisible(file is not None)
        self._question.hide()
        self._look()

    # ---- what is written ---------------------------------------------------------------------

    def _texts(self) -> dict[str, str]:
        return {
            key: field.currentData() if isinstance(field, Choice) else field.text()
            for key, field in self._fields.items()
        }

    def _look(self, *_change: object) -> None:
        """Say what is wrong while it is written."""
        spec = self._written()
        before = self._book.get(self._chosen)
        self.save.setEnabled(spec is not None and spec != before)

    def _written(self) -> Spec | None:
        try:
            spec = spec_of(self._texts())
        except JobError as error:
            self._trouble.setText(str(error))
            return None
        self._trouble.setText("")
        return spec

    def _save(self) -> None:
        spec = self._written()
        if spec is not None:
            self._keep_in_book(spec, self._chosen)

    def _copy(self) -> None:
        """A spec of the user's that is as this one, under a name that is free."""
        spec = self._book.get(self._chosen)
        if spec is None:
            return
        names = (f"{spec.name} {number}" for number in range(2, 1000))
        free = next(name for name in names if self._book.get(name) is None)
        self._keep_in_book(change(spec, name=free))

    def _keep_in_book(self, spec: Spec, replaces: str = "") -> None:
        try:
            save_spec(spec, replaces=replaces)
        except JobError as error:
            self._trouble.setText(str(error))
            return
        self._chosen = spec.name
        self._fill()
        self.changed.emit()

    def _ask_to_remove(self) -> None:
        words = self.tr(outbox_texts.REMOVE_IT).format(plain(self._chosen))
        self._question.ask(words, self.tr("Remove"), self.tr("Keep it"))

    def _keep(self) -> None:
        self._question.hide()

    def _remove(self) -> None:
        try:
            remove_spec(self._chosen)
        except JobError as error:
            self._trouble.setText(str(error))
            return
        self._fill()
        self.changed.emit()


def hint(key: Key, *, is_written: bool) -> str:
    """What an empty entry means, and how another is written."""
    if is_written and key.example:
        return f"{key.usual}, or {key.example}"
    return key.usual
