"""What an OCIO config depends on. The library is read in only where there is a config."""

from __future__ import annotations

from waxseal.core.folders import config_around
from waxseal.core.plan.recipe import FileState, state_of

__all__ = ["config_states"]


def config_states(path: str) -> tuple[FileState, ...]:
    """A config's file and the files that it names, as they are now; none of the built-in one.

    path: as in a job; empty for that of the environment, where there is one.
    """
    path = path or config_around()
    if not path or path.startswith("ocio://"):
        return ()
    import PyOpenColorIO as ocio

    from waxseal.core.picture.colour.files import FAILURES, files_of

    try:
        named = tuple(files_of(ocio.Config.CreateFromFile(path)))
    except FAILURES:
        named = ()  # it is said where a picture needs it
    return tuple(state_of(one) for one in (path, *named))
