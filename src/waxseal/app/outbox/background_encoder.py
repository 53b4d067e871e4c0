"""A process that encodes beside the window, at a lower priority."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from waxseal.core.deliver.process.worker_process import EncodingProcess

__all__ = ["encoder"]


def encoder() -> EncodingProcess:
    """A process for one delivery. What starts it is imported here, at first use."""
    from waxseal.core.deliver.process.worker_process import EncodingProcess

    return EncodingProcess.in_background()
