"""The rule: what it writes at its marks, and what it draws of long reels."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QObject, Signal

from tests.making import write_sequence
from waxseal.app.look.palette import current
from waxseal.app.reel_view.rule import Rule, time_words
from waxseal.core.arrive.scanning import scan
from waxseal.core.job.edits import add_sources, put_on_reel
from waxseal.core.job.model import Job
from waxseal.core.plan.programme import programme


@pytest.mark.parametrize(
    ("seconds", "words"), [(0, "0 s"), (45, "45 s"), (60, "1 min"), (90, "1:30"), (1830, "30:30")]
)
def test_times_are_as_short_as_they_can_be(seconds: int, words: str) -> None:
    assert time_words(seconds) == words


class Nothing(QObject):
    """In place of pictures and peaks: there are none yet."""

    made = Signal(str)
    learned = Signal()

    def get(self, _key: object) -> None:
        return None


@pytest.mark.parametrize("shots", [300, 630, 900, 2000])
@pytest.mark.usefixtures("qapp")
def test_frames_that_are_missing_show_among_hundreds_of_shots(tmp_path: Path, shots: int) -> None:
    """No border is drawn over a tick, as both are a pixel or two wide."""
    for name in "ab":
        write_sequence(tmp_path / name, f"{name}.%04d.png", frames=range(1, 5))
    (tmp_path / "b" / "b.0002.png").unlink()
    job = add_sources(Job(), sources=scan([tmp_path / "a", tmp_path / "b"]).sources)
    whole, gapped = sorted(job.sequences, key=lambda one: len(one.missing))
    gaps = range(31, shots, 70)
    ids = [gapped.id if place in gaps else whole.id for place in range(shots)]
    none = Nothing()
    rule = Rule(none, none)  # type: ignore[arg-type]
    rule.resize(1252, rule.height())
    rule.show_programme(programme(put_on_reel(job, sources=ids)))
    drawn = rule.grab().toImage()
    wrong, middle = current().colour("wrong").rgb(), drawn.height() // 2
    ticks = [x for x in range(drawn.width()) if drawn.pixel(x, middle) == wrong]
    for place in gaps:
        x = rule.place_of(4 * place + 2)
        assert any(abs(tick - x) <= 2 for tick in ticks), (place, x, ticks)
