"""`waxseal check`: measure files, and compare each with the seal beside it."""

from __future__ import annotations

import sys
from contextlib import suppress
from pathlib import Path

from waxseal.cli.talking import DONE, FINDINGS, WRONG, answer, progress_line, say, stoppable
from waxseal.core.deliver.handover import recover
from waxseal.core.errors import UnreadableInput, WrongUse
from waxseal.core.job.model import DeliveryState
from waxseal.core.progress import CancelToken, Report
from waxseal.core.seal.record import Checked, check, facts_of
from waxseal.core.seal.signing import is_public_key
from waxseal.core.words import counted, plain

__all__ = ["run_check"]


def run_check(files: list[Path], *, signed_by: str = "", as_json: bool) -> int:
    """Returns the exit code: the worst of all files. Raises WrongUse.

    signed_by: the key that has to have signed each; empty where any will do.
    """
    if signed_by and not is_public_key(signed_by):
        raise WrongUse(
            f"“{signed_by}” is no key: give the 44 letters that waxseal key shows its owner."
        )
    checked: list[tuple[Path, Checked | None]] = []
    with stoppable() as token, progress_line() as report:
        for file in files:
            checked.append((file, one_checked(file, signed_by, report, token)))
    if as_json:
        answer(
            {"files": [facts(file, result) for file, result in checked]}
            if len(files) > 1
            else facts(*checked[0])
        )
    else:
        for file, result in checked:
            if result is not None:
                sys.stdout.write("\n".join(lines(file, result)) + "\n")
    if any(result is None for _, result in checked):
        return WRONG
    good = (DeliveryState.SEALED, DeliveryState.UNSEALED)
    return DONE if all(result and result.state in good for _, result in checked) else FINDINGS


def one_checked(file: Path, signed_by: str, report: Report, token: CancelToken) -> Checked | None:
    with suppress(OSError):
        recover(file)  # a delivery that was stopped while it got its name
    try:
        return check(file, signed_by=signed_by, report=report, token=token)
    except UnreadableInput as error:
        say(str(error))
        return None


def facts(file: Path, checked: Checked | None) -> dict[str, object]:
    if checked is None:
        return {"file": plain(file), "state": "refused", "reasons": ["It cannot be read."]}
    return {
        "file": plain(file),
        "state": checked.state.value,
        "reasons": list(checked.reasons),
        **facts_of(checked.measured),
        "seal": plain(checked.seal) if checked.seal else None,
        "signed_by": checked.signed_by or None,
    }


def lines(file: Path, checked: Checked) -> list[str]:
    found = facts_of(checked.measured)
    width, height = found["size"]
    sound = found["sound"]
    heard = (
        f"{sound['codec']}, {sound['sample_rate']} Hz, {sound['channels']} channels, "
        f"{sound['seconds']:.3f} s"
        if sound
        else "none"
    )
    rate = f"at {found['rate']}" if found["rate"] else "without a rate"
    length = f"{found['seconds']:.3f} s, " if found["seconds"] else ""
    return [
        f"{plain(file.name)}: {checked.state.value}",
        f"  {counted(found['frames'], 'frame')} {rate}, {length}"
        f"{width} × {height}, {found['codec']} {found['profile']}, {found['bytes']} bytes",
        f"  sound: {heard}",
        f"  sha256: {found['sha256']}",
        *([f"  signed by: {plain(checked.signed_by)}"] if checked.signed_by else []),
        *(f"  {reason}" for reason in checked.reasons),
    ]
