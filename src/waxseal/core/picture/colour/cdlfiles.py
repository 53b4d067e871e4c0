"""CDL files: read and written through OpenColorIO."""

from __future__ import annotations

from pathlib import Path

import PyOpenColorIO as ocio

from waxseal.core.atomic_write import save_safely
from waxseal.core.errors import JobError
from waxseal.core.job.corrections import Cdl
from waxseal.core.job.values import change
from waxseal.core.picture.colour.colour_spaces import built_in
from waxseal.core.picture.colour.grading import cdl
from waxseal.core.picture.colour.lut_files import FAILURES, take_file
from waxseal.core.plan.filestates import state_of

__all__ = ["read_cdl", "write_cdl"]

FORMATS = {
    ".cc": "ColorCorrection",
    ".ccc": "ColorCorrectionCollection",
    ".cdl": "ColorDecisionList",
}


def read_cdl(path: Path) -> tuple[tuple[str, Cdl], ...]:
    """The corrections of a `.cc`, `.ccc` or `.cdl` file by their ids. Raises JobError."""
    take_file(state_of(path))
    try:
        group = ocio.CDLTransform.CreateGroupFromFile(str(path))
    except FAILURES:
        raise JobError(f"{path.name} cannot be read as a CDL file.") from None
    found = []
    for number, one in enumerate(group, 1):
        made = change(
            Cdl(),
            slope=tuple(one.getSlope()),
            offset=tuple(one.getOffset()),
            power=tuple(one.getPower()),
            saturation=one.getSat(),
        )
        found.append((one.getID() or str(number), made))
    if not found:
        raise JobError(f"{path.name} holds no correction.")
    return tuple(found)


def write_cdl(path: Path, corrections: dict[str, Cdl]) -> None:
    """Write corrections by their ids; the kind of file by its suffix. Raises JobError."""
    kind = FORMATS.get(path.suffix.lower())
    if kind is None:
        raise JobError("A CDL file is called .cdl, .ccc or .cc.")
    if kind == "ColorCorrection" and len(corrections) != 1:
        raise JobError("A .cc file holds one correction: write a .ccc instead.")
    group = ocio.GroupTransform()
    for name, one in corrections.items():
        transform = cdl(one)
        transform.setID(name)
        group.appendTransform(transform)
    try:
        text = group.write(kind, built_in())
        save_safely(path, text.encode())
    except FAILURES as error:
        raise JobError(f"The CDL cannot be written: {error}") from None
    except OSError as error:
        raise JobError(f"{path} cannot be written: {error.strerror}.", path=path) from None
