"""Whether a process that left something is still there.

A number alone does not say it: the system gives it to another process, soon after or when the
machine has started again. So a process is named by its number and by when it began.
"""

from __future__ import annotations

import os
import re
from contextlib import suppress
from pathlib import Path

__all__ = ["is_alive", "is_process_name", "process_name"]

NAME = re.compile(r"(\d{1,10})(?:-(\d{1,20}))?", re.ASCII)
# Of /proc/N/stat, behind the command in brackets (proc_pid_stat(5), fields 3 and 22).
STATE, BEGAN = 0, 19
ENDED = ("Z", "X")


def process_name(number: int | None = None) -> str:
    """The name of a process (this one): `NUMBER-BEGAN`; its number alone once it has ended."""
    number = os.getpid() if number is None else number
    facts = facts_of(number)
    return f"{number}-{facts[BEGAN]}" if facts else str(number)


def is_process_name(text: str) -> bool:
    return NAME.fullmatch(text) is not None


def is_alive(name: str) -> bool:
    """Whether a process of this name is there. A number alone: whether any has the number."""
    found = NAME.fullmatch(name)
    if found is None:
        return False
    facts = facts_of(int(found[1]))
    if not facts:
        return is_hidden(int(found[1]))
    return facts[STATE] not in ENDED and found[2] in (None, facts[BEGAN])


def is_hidden(number: int) -> bool:
    """Whether a process has a number, but the system tells nothing about it: another user's."""
    with suppress(PermissionError):
        try:
            os.kill(number, 0)
        except (ProcessLookupError, OverflowError):
            return False
    return True


def facts_of(number: int) -> list[str]:
    """What the system says of a process; nothing where there is none."""
    with suppress(OSError):
        stat = Path(f"/proc/{number}/stat").read_text(errors="replace")
        return stat.rpartition(")")[2].split()
    return []
