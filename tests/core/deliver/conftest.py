from __future__ import annotations

import pytest

from waxseal.core.deliver.encode.segments import segment_cuts


@pytest.fixture
def short_segments(monkeypatch: pytest.MonkeyPatch) -> None:
    """Segments of four to eight frames, so that a short film has some."""
    for name in ("LONGEST", "LONGEST_ALONE", "LONGEST_FILES"):
        monkeypatch.setattr(segment_cuts, name, 8)
    for name in ("SHORTEST", "SHORTEST_ALONE", "SHORTEST_FILES"):
        monkeypatch.setattr(segment_cuts, name, 4)
