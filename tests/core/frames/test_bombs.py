"""Small files that unpack to gigabytes: memory is bounded by what a picture needs."""

from __future__ import annotations

import resource
import subprocess
import sys
from pathlib import Path

import pytest

from tests.bombs import BOMBS
from waxseal.core.errors import WaxSealError
from waxseal.core.helpers import dismiss_helpers, run_apart, use_helpers

MOST = 700_000_000  # bytes: Python, NumPy and the libraries take some two hundred million
LOOK = """
import sys
from pathlib import Path
from waxseal.core.errors import WaxSealError
from waxseal.core.frames.headers import look
from waxseal.core.frames.frame_reader import read_pixels
for act in (look, read_pixels):
    try:
        act(Path(sys.argv[1]))
    except WaxSealError as error:
        print(error)
# (ru_maxrss would count the process that started this one, too.)
status = Path("/proc/self/status").read_text().split("VmHWM:")[1]
print(int(status.split()[0]) * 1024)
"""


def peak(path: Path) -> int:
    """Bytes that a process takes that looks at a file and decodes it."""
    done = subprocess.run(
        [sys.executable, "-c", LOOK, str(path)], capture_output=True, text=True, timeout=60
    )
    assert done.returncode == 0, done.stderr
    return int(done.stdout.split()[-1])


@pytest.mark.parametrize("name", BOMBS)
def test_a_bomb_takes_no_more_than_a_picture(tmp_path: Path, name: str) -> None:
    assert peak(BOMBS[name](tmp_path / name)) < MOST


def take_everything() -> int:
    return len(bytearray(1 << 40))


def test_a_helper_has_a_limit_and_the_next_one_is_there(tmp_path: Path) -> None:
    dismiss_helpers()
    use_helpers(1)
    try:
        with pytest.raises((MemoryError, WaxSealError)):
            run_apart("", take_everything)
        limit, _ = run_apart("", resource.getrlimit, resource.RLIMIT_AS)
        assert 0 < limit <= 16 << 30
    finally:
        dismiss_helpers()
