"""Commands are run in this process: what they leave running is ended after each file."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from waxseal.core.helpers import dismiss_helpers


@pytest.fixture(scope="module", autouse=True)
def _no_helpers_left() -> Iterator[None]:
    yield
    dismiss_helpers()
