"""The docket of the whole reel: its colour, what is behind, its finish."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

from waxseal.app.finish_panel.finish_docket import FinishDocket
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.key_widgets import Choice
from waxseal.app.look.sourcechoice import SourceChoice
from waxseal.app.look.tooltips import set_tip
from waxseal.app.look.widgets import button
from waxseal.app.reel_view import reel_texts
from waxseal.app.reel_view.shot_sections import Section
from waxseal.core.errors import JobError
from waxseal.core.folders import config_around
from waxseal.core.job.edits import REEL, change_colourway, put_behind, set_counting
from waxseal.core.job.model import GRAPHICS_WHITES, Colourway, Job, View, Working
from waxseal.core.text_format import plain
from waxseal.core.timing.timecode import Counting, can_drop

__all__ = ["ReelDocket"]


class ReelDocket(QWidget):
    def __init__(self, pen: Pen) -> None:
        super().__init__()
        self.setObjectName("reelDocket")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._colour = ColourSection(pen)
        self._behind = BehindSection(pen)
        self._time = TimeSection(pen)
        self.finish = FinishDocket(REEL, self.tr("the reel"), pen)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 6, 8)
        column.setSpacing(6)
        for part in (self._colour, self._behind, self._time, self.finish):
            column.addWidget(part)

    def show_job(self, job: Job) -> None:
        self._colour.show_colourway(job.reel.colour)
        self._behind.show_job(job)
        self._time.show_job(job)
        self.finish.show_job(job)


class ColourSection(Section):
    """Working primaries, view, config."""

    def __init__(self, pen: Pen) -> None:
        super().__init__(self.tr("Colour"), REEL, self.tr("the reel"), pen)
        self._now = Colourway()
        self._working = self.choice("working", Working)
        self._working.setToolTip(self.tr(reel_texts.THE_PRIMARIES_THAT_LIGHT))
        self._working.activated.connect(self._say_working)
        self._view = self.choice("view", View)
        self._view.setToolTip(self.tr(reel_texts.PLAIN_IS_THE_DISPLAYS))
        self._view.activated.connect(self._say_view)
        self._own = Choice()
        self._own.setObjectName("own view")
        self._own.setAccessibleName(self.tr(reel_texts.VIEW_OF_THE_CONFIG))
        self._own.activated.connect(self._say_own)
        self._white = Choice()
        self._white.setObjectName("graphics white")
        self._white.setAccessibleName(self.tr("graphics white"))
        self._white.setToolTip(self.tr(reel_texts.THE_WHITE_OF_GRAPHICS))
        for white in GRAPHICS_WHITES:
            self._white.addItem(self.tr("{0} cd/m²").format(white), white)
        self._white.activated.connect(self._say_white)
        self._config = button("", self._choose_config)
        self._builtin = button(self.tr("the usual one"), partial(self._say, config=""), "word")
        self.add(self.tr("working space"), self._working)
        self.add(self.tr("view"), self._view)
        self.add("", self._own)
        self.add(self.tr("graphics white"), self._white)
        self.add(self.tr("OCIO config"), self._config, self._builtin)

    def show_colourway(self, colourway: Colourway) -> None:
        self._working.setCurrentIndex(self._working.findData(colourway.working))
        self._view.setCurrentIndex(self._view.findData(colourway.view))
        self._white.setCurrentIndex(self._white.findData(colourway.white))
        config = colourway.config or config_around()
        self._config.setText(Path(config).name or self.tr("built-in"))
        set_tip(self._config, plain(config))
        self._builtin.setVisible(bool(colourway.config))
        is_own = colourway.view is View.OWN
        self._own.setVisible(is_own)
        if is_own and (colourway != self._now or not self._own.count()):
            self._own.clear()
            for display, view in self._views(colourway.config):
                self._own.addItem(f"{display} · {view}", (display, view))
            now = f"{colourway.display} · {colourway.shown}"
            self._own.setCurrentIndex(self._own.findText(now))
        self._now = colourway

    def _views(self, config: str) -> tuple[tuple[str, str], ...]:
        from waxseal.core.picture.colour.colour_spaces import (
            own_views,  # OCIO: not in the first second
        )

        try:
            return own_views(config)
        except JobError as error:
            self._pen.complained.emit(str(error))
            return ()

    def _say(self, **values: object) -> None:
        self.ask(self.tr("colour"), partial(change_colourway, **values))  # type: ignore[arg-type]

    def _say_working(self, _index: int) -> None:
        self._say(working=self._working.currentData())

    def _say_view(self, _index: int) -> None:
        view = View(self._view.currentData())
        if view is not View.OWN:
            self._say(view=view)
            return
        views = self._views(self._now.config)
        if views:
            display, shown = views[0]
            self._say(view=view, display=display, shown=shown)

    def _say_white(self, _index: int) -> None:
        self._say(white=self._white.currentData())

    def _say_own(self, _index: int) -> None:
        display, shown = self._own.currentData()
        self._say(view=View.OWN, display=display, shown=shown)

    def _choose_config(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, self.tr("OCIO config"), self._now.config, "OCIO config (*.ocio *.ocioz)"
        )
        if name and self._views(name):
            self._say(config=name)


class BehindSection(Section):
    """A picture behind all others."""

    def __init__(self, pen: Pen) -> None:
        super().__init__(self.tr("Behind"), REEL, self.tr("the reel"), pen)
        words, none = self.tr("Behind all pictures"), self.tr("the ground alone")
        self._source = SourceChoice("behind", words, none=none)
        self._source.activated.connect(self._say_source)
        self.add("", self._source)

    def show_job(self, job: Job) -> None:
        self._source.show_sources([(one.id, one.name) for one in job.sequences])
        self._source.choose(job.reel.behind)

    def _say_source(self, _index: int) -> None:
        self.ask(self.tr("what is behind"), partial(put_behind, source=self._source.source))


class TimeSection(Section):
    """How timecode counts; only where the reel's rate leaves a choice."""

    def __init__(self, pen: Pen) -> None:
        super().__init__(self.tr("Time"), REEL, self.tr("the reel"), pen)
        self._counting = self.choice("timecode", Counting)
        self._counting.setToolTip(self.tr(reel_texts.DROP_FRAME_KEEPS_UP))
        self._counting.activated.connect(self._say)
        self.add(self.tr("timecode"), self._counting)

    def show_job(self, job: Job) -> None:
        self.setVisible(bool(job.reel.shots) and can_drop(job.reel_rate))
        self._counting.setCurrentIndex(self._counting.findData(job.reel.counting))

    def _say(self, _index: int) -> None:
        counting = partial(set_counting, counting=self._counting.currentData())
        self.ask(self.tr("timecode"), counting)
