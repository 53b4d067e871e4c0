"""The core is tested in this process: what a test puts in place of something counts."""

from __future__ import annotations

import pytest

from waxseal.core.helpers import dismiss_helpers


@pytest.fixture(autouse=True)
def no_helpers() -> None:
    dismiss_helpers()
