"""Starting the encoding process."""

from __future__ import annotations

import subprocess
import sys

__all__ = ["start_process"]


def start_process() -> subprocess.Popen[bytes]:
    """The worker, which waits for its order."""
    return subprocess.Popen(
        [sys.executable, "-P", "-m", "waxseal.core.deliver.process.worker"],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=errors_of_ours(),
    )


def errors_of_ours() -> int | None:
    """Where this process writes its own messages; None where it writes none."""
    try:
        return sys.stderr.fileno()
    except (AttributeError, OSError, ValueError):
        return None
