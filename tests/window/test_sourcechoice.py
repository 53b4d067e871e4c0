"""A choice of the job's sources."""

from __future__ import annotations

import pytest
from pytestqt.qtbot import QtBot

from waxseal.app.look.sourcechoice import SourceChoice


@pytest.mark.parametrize("none", ["", "nowhere"])
def test_a_choice_of_sources_gives_their_ids(qtbot: QtBot, none: str) -> None:
    box = SourceChoice("choice", "Choice", none=none, each="in {0}")
    qtbot.addWidget(box)
    box.show_sources(())
    assert box.count() == bool(none)
    box.show_sources((("s1", "a"), ("s2", "{b}")))
    box.choose("s2")
    assert (box.source, box.currentText()) == ("s2", "in {b}")
    box.choose("s9")
    assert (box.source, box.currentIndex()) == ("", -1)
