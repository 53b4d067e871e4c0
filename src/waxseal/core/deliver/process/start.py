"""Starting the encoding process. Imports next to nothing, so that it can be done first."""

from __future__ import annotations

import subprocess
import sys

__all__ = ["start_process"]


def start_process() -> subprocess.Popen[bytes]:
    """The worker, importing already while its parent still looks at the frames."""
    return subprocess.Popen(
        [sys.executable, "-P", "-m", "waxseal.core.deliver.process.worker"],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
    )
