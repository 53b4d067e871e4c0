"""On a terminal there is a bar; a pseudo-terminal stands in for it."""

from __future__ import annotations

import os
import pty
import subprocess
import sys
from pathlib import Path

from tests.making import write_sequence


def on_terminal(*words: str) -> tuple[int, str]:
    """Run a command with a terminal as its standard error; its code, and what was drawn."""
    ours, theirs = pty.openpty()
    process = subprocess.Popen(
        [sys.executable, "-m", "waxseal.cli.main", *words],
        stderr=theirs,
        stdout=subprocess.DEVNULL,
        env={**os.environ, "TERM": "xterm-256color", "COLUMNS": "100"},
    )
    os.close(theirs)
    drawn = b""
    while True:
        try:
            part = os.read(ours, 4096)
        except OSError:  # the other end is closed
            break
        if not part:
            break
        drawn += part
    os.close(ours)
    return process.wait(), drawn.decode(errors="replace")


def test_a_bar_is_drawn_on_a_terminal(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "frames", frames=range(1, 13))
    (tmp_path / "out").mkdir()
    code, drawn = on_terminal(
        "assemble", str(folder), "--out", str(tmp_path / "out" / "a.mp4"), "--rate", "24"
    )
    assert code == 0
    assert "\x1b[" in drawn
    assert "encoding" in drawn
    assert "12/12" in drawn
    assert "sealed:" in drawn
    assert "Traceback" not in drawn


def test_no_words_of_a_library_reach_the_terminal(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "frames", "a.%04d.exr", frames=range(1, 7))
    damaged = folder / "a.0003.exr"
    content = bytearray(damaged.read_bytes())
    content[len(content) * 2 // 3] ^= 0x20
    damaged.write_bytes(content)
    for words in (
        ("scan", "--deep"),
        ("assemble", "--rate", "24", "--out", str(tmp_path / "a.mp4")),
    ):
        code, drawn = on_terminal(words[0], str(folder), *words[1:])
        assert code == 1
        assert "cannot be unpacked" in drawn or words[0] == "scan"
        assert "EXR_ERR" not in drawn
        assert str(folder) not in drawn, "libraries name the whole path"
