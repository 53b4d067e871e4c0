"""What an OCIO config depends on. The library is read in only where there is a config."""

from __future__ import annotations

import os
import re
from functools import lru_cache
from pathlib import Path

from waxseal.core.errors import JobError
from waxseal.core.folders import config_around
from waxseal.core.foreign_text import ForeignTextError, read_foreign
from waxseal.core.picture.colour.config_archives import is_archive, text_in
from waxseal.core.plan.filestates import FileState, state_of

__all__ = ["config_states"]

LARGEST_BYTES = 64 * 1024 * 1024
# A variable of the environment, as OpenColorIO takes it in names of files, spaces and gradings:
# OpenColorIO documentation, "Context variables".
VARIABLE = re.compile(rb"\$\{?(\w+)\}?|%(\w+)%")

Said = tuple[tuple[str, str], ...]  # variables, each with what it stands for


def config_states(path: str) -> tuple[object, ...]:
    """A config's file, the variables and files that it names, as they are now.

    None of the built-in one. path: as in a job; empty for that of the environment, if there is one.
    """
    path = path or config_around()
    if not path or path.startswith("ocio://"):
        return ()
    config = state_of(path)
    said = tuple((name, os.environ.get(name, "")) for name in variables_in(config))
    return (config, said, *(state_of(one) for one in files_named(config, said)))


@lru_cache(maxsize=16)
def variables_in(config: FileState) -> tuple[str, ...]:
    """The names of all variables that its text may mean."""
    try:
        if is_archive(config.path):
            text = text_in(config.path)
        else:
            text = read_foreign(Path(config.path), LARGEST_BYTES)
    except (FileNotFoundError, ForeignTextError):
        return ()  # it is said where a picture needs it
    found = {(one or other).decode() for one, other in VARIABLE.findall(text)}
    return tuple(sorted(found))


@lru_cache(maxsize=16)
def files_named(config: FileState, _said: Said) -> tuple[str, ...]:
    from waxseal.core.picture.colour.lut_files import (
        FAILURES,
        check_file,
        files_of,
        large_config_in,
        load_config,
    )

    if is_archive(config.path):
        return ()  # they are in it
    try:
        check_file(config.path)
        large = large_config_in(config.path)
        return tuple(files_of(load_config(config.path, ()), large.files if large else None))
    except (JobError, *FAILURES):
        return ()
