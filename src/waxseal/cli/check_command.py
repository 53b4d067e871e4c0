"""`waxseal check`: measure files, and compare each with the seal beside it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict, dataclass, replace
from pathlib import Path

from waxseal.cli.terminal import DONE, FINDINGS, WRONG, answer, progress_line, say, stoppable, tell
from waxseal.core.deliver.compare.compare_file import (
    Against,
    against_words,
    check_against,
    delivery_like,
)
from waxseal.core.deliver.format.output_path import keys_of
from waxseal.core.deliver.publish.publish_file import is_unfinished
from waxseal.core.deliver.specs.apply_spec import file_troubles
from waxseal.core.deliver.specs.spec import Spec
from waxseal.core.deliver.specs.spec_book import spec_book
from waxseal.core.errors import UnreadableInput, WrongUse
from waxseal.core.job.job_file import load
from waxseal.core.job.model import Delivery, DeliveryState, Job
from waxseal.core.picture.compile_kernels import ready_kernels
from waxseal.core.progress import CancelToken, Report
from waxseal.core.seal.record import Checked, check, facts_of
from waxseal.core.seal.signing import is_public_key
from waxseal.core.sound.clap_finder import ClapsAndFlashes
from waxseal.core.text_format import counted, plain

__all__ = ["run_check"]

LEAST_LATE_MS = 1.0  # less is what a clap and its flash differ by anyway
UNFINISHED = (
    "A delivery was stopped while it gave this file its name: deliver it again to finish that."
)


@dataclass(frozen=True, slots=True)
class CheckWishes:
    """signed_by: the key that has to have signed each; empty where any will do.

    against: a job file, whose reel each is compared with. only: the delivery by its name.
    spec: of the spec book; empty for none.
    """

    signed_by: str = ""
    against: Path | None = None
    only: str = ""
    spec: str = ""


@dataclass(frozen=True, slots=True)
class FileResult:
    """What was found of one file.

    asked: whether something else than the seal was asked about: without it, a file needs a seal.
    """

    checked: Checked
    against: Against | None = None
    troubles: tuple[str, ...] = ()
    asked: bool = False

    @property
    def is_good(self) -> bool:
        if self.troubles or (self.against is not None and not self.against.is_alike):
            return False
        if self.checked.state is DeliveryState.UNSEALED:
            return self.asked
        return self.checked.state is DeliveryState.SEALED


def run_check(files: list[Path], wishes: CheckWishes, *, as_json: bool) -> int:
    """Returns the exit code: the worst of all files. Raises WrongUse, JobError."""
    if wishes.signed_by and not is_public_key(wishes.signed_by):
        raise WrongUse(
            f"“{wishes.signed_by}” is no key: give the 44 letters that waxseal key shows its owner."
        )
    if wishes.only and wishes.against is None:
        raise WrongUse("--only names a delivery of a job: give the job with --against.")
    job = load(wishes.against) if wishes.against is not None else None
    spec = spec_book().named(wishes.spec) if wishes.spec else None
    looked: list[tuple[Path, FileResult | None]] = []
    with stoppable() as token, progress_line() as report:
        for file in files:
            checked = one_checked(file, wishes.signed_by, report, token)
            against = None
            is_open = checked is not None and checked.measured is not None
            if is_open and job is not None:
                ready_kernels(report)
                delivery = chosen(job, wishes.only, file)
                against = check_against(file, job, delivery, report=report, token=token)
            troubles = tuple(said_by(spec, checked, file)) if spec and checked else ()
            asked = job is not None or spec is not None
            found = FileResult(checked, against, troubles, asked=asked) if checked else None
            looked.append((file, found))
    if as_json:
        answer(
            {"files": [facts(file, result) for file, result in looked]}
            if len(files) > 1
            else facts(*looked[0])
        )
    else:
        for file, result in looked:
            if result is not None:
                tell(*lines(file, result))
    if any(result is None for _, result in looked):
        return WRONG
    return DONE if all(result and result.is_good for _, result in looked) else FINDINGS


def said_by(spec: Spec, checked: Checked, file: Path) -> Iterator[str]:
    if checked.measured is not None:
        suffix = "" if file.is_dir() else file.suffix
        yield from file_troubles(spec, checked.measured, suffix)


def chosen(job: Job, name: str, file: Path) -> Delivery:
    """The delivery that a file is compared as. Raises WrongUse, JobError."""
    if not name:
        return delivery_like(job, file)
    for one in job.deliveries:
        if name.casefold() in keys_of(one):
            return one
    known = ", ".join(plain(one.name) for one in job.deliveries)
    raise WrongUse(f"There is no delivery “{name}” in this job: choose one of {known}.")


def one_checked(file: Path, signed_by: str, report: Report, token: CancelToken) -> Checked | None:
    try:
        checked = check(file, signed_by=signed_by, report=report, token=token)
    except UnreadableInput as error:
        say(str(error))
        if is_unfinished(file):
            say(UNFINISHED)
        return None
    if is_unfinished(file):
        return replace(checked, reasons=(*checked.reasons, UNFINISHED))
    return checked


def facts(file: Path, looked: FileResult | None) -> dict[str, object]:
    if looked is None:
        return {"file": plain(file), "state": "refused", "reasons": ["It cannot be read."]}
    checked, against = looked.checked, looked.against
    return {
        "file": plain(file),
        "state": checked.state.value,
        "reasons": list(checked.reasons),
        **(facts_of(checked.measured) if checked.measured is not None else {}),
        "seal": plain(checked.seal) if checked.seal else None,
        "signed_by": checked.signed_by or None,
        **({"sync": asdict(checked.sync)} if checked.sync is not None else {}),
        **({} if against is None else against_facts(against)),
        **({"spec": list(looked.troubles)} if looked.troubles else {}),
    }


def against_facts(against: Against) -> dict[str, object]:
    return {
        "against": against.delivery.name,
        "compared": against.compared,
        "differs": [
            {"frame": one.frame, "what": one.what, "by": one.by} for one in against.differs
        ],
        "otherwise": list(against.reasons),
    }


def against_lines(against: Against) -> Iterator[str]:
    yield f"  against {plain(against.delivery.name)}: {counted(against.compared, 'frame')} compared"
    yield from (f"    {one}" for one in against_words(against))


def sync_words(sync: ClapsAndFlashes) -> str:
    flashes = counted(len(sync.flashes), "flash", "flashes")
    beside = f"{counted(len(sync.claps), 'clap')} beside {flashes}"
    if sync.late is None:
        return f"{beside}, none near another"
    late = abs(sync.late) * 1000
    if late < LEAST_LATE_MS:
        return f"{beside}: together"
    return f"{beside}: the sound is {late:.1f} ms {'late' if sync.late > 0 else 'early'}"


def lines(file: Path, looked: FileResult) -> list[str]:
    checked = looked.checked
    reasons = [f"  {reason}" for reason in checked.reasons]
    if checked.measured is None:
        return [f"{plain(file.name)}: {checked.state.value}", *reasons]
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
        *([f"  sync: {sync_words(checked.sync)}"] if checked.sync is not None else []),
        f"  sha256: {found['sha256']}",
        *([f"  signed by: {plain(checked.signed_by)}"] if checked.signed_by else []),
        *reasons,
        *(f"  {trouble}" for trouble in looked.troubles),
        *(against_lines(looked.against) if looked.against is not None else ()),
    ]
