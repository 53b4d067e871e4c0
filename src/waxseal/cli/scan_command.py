"""`waxseal scan`: what is there, is it whole, what has to come again."""

from __future__ import annotations

import csv
import sys
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Any

from waxseal.cli.terminal import DONE, FINDINGS, WRONG, answer, progress_line, say, stoppable, tell
from waxseal.cli.when_complete import wait_for_all
from waxseal.core.arrive.decode_check import look_deep
from waxseal.core.arrive.listing import WHAT_IS_READ
from waxseal.core.arrive.scanning import Scan, scan
from waxseal.core.atomic_write import save_safely
from waxseal.core.errors import SoundError, WrongUse
from waxseal.core.helpers import use_helpers
from waxseal.core.job.layers import layer_name
from waxseal.core.job.model import Health, Origin, Sequence, Sound, WithOrigin, change, colour_words
from waxseal.core.job.primaries import primaries_name
from waxseal.core.job.rerender_list import reasons_to_render, rerender_text
from waxseal.core.job.sources import sparse_sentence
from waxseal.core.progress import CancelToken, Report
from waxseal.core.sound.loudness import loudness_of
from waxseal.core.sound.sound_findings import look_closely
from waxseal.core.text_format import counted, names_words, plain
from waxseal.core.timing.ranges import FrameRange, write_frames
from waxseal.core.timing.rates import rate_words, write_rate
from waxseal.core.timing.timecode import seconds_words

if TYPE_CHECKING:
    from waxseal.core.sound.loudness import Loudness
    from waxseal.core.sound.sound_findings import SoundFinding

__all__ = ["AnswerFormat", "Wishes", "run_scan"]


class AnswerFormat(StrEnum):
    """How the answer is written."""

    TEXT = "text"
    JSON = "json"
    CSV = "csv"


COLUMNS = (
    "name",
    "pattern",
    "kind",
    "first",
    "last",
    "count",
    "expected",
    "missing",
    "unexpected",
    "damaged",
    "rerender",
    "size",
    "format",
    "depth",
    "channels",
    "rate",
    "rate_origin",
    "alpha",
    "colour",
    "health",
)


@dataclass(frozen=True, slots=True)
class Wishes:
    """What a scan is asked for.

    expected: of every sequence that is found. deep: decode every frame.
    watch: wait until all that is expected is there. list_to: a file for the
    re-render lists.
    """

    expected: FrameRange | None = None
    deep: bool = False
    watch: bool = False
    list_to: Path | None = None
    form: AnswerFormat = AnswerFormat.TEXT


def run_scan(paths: list[Path], wishes: Wishes) -> int:
    """Returns the exit code."""

    def expecting_all(found: Scan) -> Scan:
        sources = tuple(expecting(one, wishes.expected) for one in found.sources)
        return replace(found, sources=sources)

    listened: dict[str, SoundResult] = {}
    use_helpers()
    with stoppable() as token:
        if wishes.watch:
            found = wait_for_all(paths, expecting=expecting_all, token=token)
        else:
            with progress_line() as report:
                found = expecting_all(scan(paths, report=report, token=token))
        if wishes.deep:
            with progress_line() as report:
                found = replace(found, sources=tuple(deeply(found.sources, report, token)))
            listened = listen_to(found.sources, token)
    if wishes.list_to is not None:
        write_lists(found.sources, wishes.list_to)
    form = wishes.form
    for trouble in found.troubles:
        say(trouble)
    if form is AnswerFormat.CSV:
        write_csv(found.sources)
    elif form is AnswerFormat.JSON:
        answer(
            {
                "sources": [
                    source_facts(source) | listened_facts(source, listened)
                    for source in found.sources
                ],
                "troubles": list(found.troubles),
            }
        )
    elif found.sources:
        show(found.sources)
        for path, heard in listened.items():
            for one in heard.findings:
                say(f"{plain(Path(path).name)}: {one.what}.")
    if not found.sources:
        if not found.troubles:
            say(f"There are no frames and no sounds: {WHAT_IS_READ}.")
        return WRONG
    is_whole = all(
        source.health is Health.WHOLE
        and not (source.findings or source.unexpected or source.is_sparse)
        and not source.is_part_guessed
        for source in found.sources
        if isinstance(source, Sequence)
    )
    is_whole = is_whole and not any(one.damage for one in found.sources if isinstance(one, Sound))
    return DONE if is_whole and not found.troubles else FINDINGS


def write_csv(sources: Iterable[Sequence | Sound]) -> None:
    """A row for each source, for a spreadsheet; lists and sizes as text."""
    rows = csv.DictWriter(sys.stdout, COLUMNS, extrasaction="ignore", lineterminator="\n")
    rows.writeheader()
    for source in sources:
        facts = source_facts(source)
        if facts.get("size"):
            facts["size"] = "x".join(str(side) for side in facts["size"])
        if isinstance(facts.get("channels"), list):
            facts["channels"] = " ".join(facts["channels"])
        rows.writerow({name: cell(fact) for name, fact in facts.items()})


def cell(fact: object) -> object:
    """A fact as a spreadsheet takes it for text: none begins as a formula does.

    Source: OWASP, CSV Injection.
    """
    if isinstance(fact, str):
        text = plain(fact)
        return f"'{text}" if text.startswith(("=", "+", "-", "@")) else text
    return fact


def deeply(
    sources: Iterable[Sequence | Sound], report: Report, token: CancelToken
) -> Iterator[Sequence | Sound]:
    for source in sources:
        if isinstance(source, Sequence) and source.found.format:
            yield look_deep(source, report=report, token=token)
        else:
            yield source


@dataclass(frozen=True, slots=True)
class SoundResult:
    """What a close look at a sound found."""

    loudness: Loudness | None
    findings: tuple[SoundFinding, ...]


def listen_to(sources: Iterable[Sequence | Sound], token: CancelToken) -> dict[str, SoundResult]:
    """Of each sound, by its path; a sentence for one that cannot be heard."""
    found: dict[str, SoundResult] = {}
    for source in sources:
        if isinstance(source, Sound):
            path = Path(source.path)
            try:
                found[source.path] = SoundResult(
                    loudness_of(path, token), look_closely(path, token)
                )
            except SoundError as error:
                say(str(error))
    return found


def listened_facts(
    source: Sequence | Sound, listened: dict[str, SoundResult]
) -> dict[str, float | list[dict[str, object]] | None]:
    heard = listened.get(source.path) if isinstance(source, Sound) else None
    if heard is None:
        return {}
    facts: dict[str, float | list[dict[str, object]] | None] = {
        "findings": [
            {"from": round(one.first, 6), "to": round(one.last, 6), "what": one.what}
            for one in heard.findings
        ]
    }
    if heard.loudness is not None:
        facts["integrated_lufs"] = heard.loudness.integrated_lufs
        facts["true_peak_dbtp"] = round(heard.loudness.true_peak_dbtp, 2)
    return facts


def write_lists(sources: Iterable[Sequence | Sound], path: Path) -> None:
    """Raises WrongUse where the file cannot be written."""
    text = rerender_text(one for one in sources if isinstance(one, Sequence))
    try:
        save_safely(path, f"{text}\n".encode("utf-8", "backslashreplace") if text else b"")
    except OSError as error:
        raise WrongUse(f"{plain(path)} cannot be written: {error.strerror}.", path=path) from error


def expecting(source: Sequence | Sound, expected: FrameRange | None) -> Sequence | Sound:
    """A source of which just this is wanted: what is there besides does not make up for it."""
    if expected is None or isinstance(source, Sound) or source.kind != "sequence":
        return source
    ends = (expected.first, expected.last)
    wanted = WithOrigin[tuple[int, int]](value=ends, origin=Origin.SAID)
    return change(source, expected=ends, reading=change(source.reading, range=wanted))


def source_facts(source: Sequence | Sound) -> dict[str, Any]:
    if isinstance(source, Sound):
        return {
            "name": source.name,
            "pattern": plain(source.path),
            "kind": source.kind,
            "sample_rate": source.sample_rate,
            "channels": source.channels,
            "samples": source.samples,
            "seconds": round(source.samples / source.sample_rate, 6),
            "format": source.format,
            "start": source.start,
            "damage": source.damage,
        }
    files, found, reading = source.files, source.found, source.reading
    return {
        "name": source.name,
        "pattern": plain(Path(files.folder) / files.pattern),
        "kind": source.kind,
        "first": files.range.first,
        "last": files.range.last,
        "count": files.count,
        "padding": files.padding,
        "expected": str(source.range),
        "missing": write_frames(source.missing),
        "unexpected": write_frames(source.unexpected),
        "damaged": write_frames(source.damaged),
        "rerender": write_frames(source.to_rerender),
        "rerender_reasons": reasons_to_render(source),
        "size": [found.size.width, found.size.height] if found.format else None,
        "format": found.format,
        "depth": found.depth,
        "channels": list(found.channels),
        "rate": write_rate(reading.rate.value),
        "rate_origin": reading.rate.origin.value,
        "alpha": reading.alpha.value.value,
        "alpha_origin": reading.alpha.origin.value,
        "alpha_why": reading.alpha.why,
        "matte": reading.matte.value,
        "colour": reading.colour.value.value,
        "taken_as": reading.taken_as.value,
        "primaries": primaries_name(reading.chromaticities.value),
        "pixel_shape": str(reading.pixel_shape.value),
        "parts": [part.name for part in found.parts],
        "part": reading.part.value,
        "part_origin": reading.part.origin.value,
        "part_why": reading.part.why,
        "codec": found.codec,
        "others": [plain(name) for name in files.others],
        "pass": source.belongs.kind.value if source.belongs else None,
        "pass_of": source.belongs.shot if source.belongs else None,
        "health": source.health.value,
        "findings": [
            {"frame": one.frame, "file": plain(one.file), "what": one.what, "kind": one.kind.value}
            for one in found.findings
        ]
        + sparse_findings(source),
    }


def layer_lines(source: Sequence) -> Iterator[str]:
    """The pictures in files that hold several, and which of them is shown."""
    if not source.found.parts:
        return
    told = source.reading.part
    guess = ", a guess: say --part" if source.is_part_guessed else ""
    shown = plain(told.value) or "the one without a name"
    why = f": {told.why}" if told.why else ""
    yield f"  shows {shown}{why}{guess}"
    for part in source.found.parts:
        said = layer_name(part.name) if part.name else None
        words = f", {said.kind}" if said is not None else ""
        short = "".join(channel.rpartition(".")[2] for channel in part.channels)
        yield f"  layer {plain(part.name) or 'without a name'}: {short}{words}"


def sparse_findings(source: Sequence) -> list[dict[str, object]]:
    if not source.is_sparse:
        return []
    frame = source.files.range.first
    file, what = source.files.name_of(frame), sparse_sentence(source)
    return [{"frame": frame, "file": plain(file), "what": what, "kind": "sparse"}]


def lines_of(source: Sequence | Sound) -> list[str]:
    """A source as a few lines of text."""
    if isinstance(source, Sound):
        seconds = source.samples / source.sample_rate
        return [
            f"{source.name}: sound, {seconds:.3f} s, {source.sample_rate} Hz, "
            f"{counted(source.channels, 'channel')}",
            *([f"  {source.name} is not whole: {source.damage}"] if source.damage else []),
        ]
    files, found, reading = source.files, source.found, source.reading
    rate = rate_words(reading.rate.value)
    origin = {
        Origin.GUESS: ", a guess: say --rate",
        Origin.WRITTEN: ", written in the file",
    }.get(reading.rate.origin, "")
    kind = f"{found.format} {found.codec}".rstrip()
    expected = source.range.count
    count = (
        counted(source.count, "frame")
        if source.count == expected
        else (f"{source.count} of {expected} frames")
    )
    is_pass = f"  ({source.belongs.kind} of {source.belongs.shot})" if source.belongs else ""
    lines = [
        f"{plain(files.pattern)}{is_pass}  {source.range}  {count}  {source.health.value}",
        f"  {found.size}, {kind} {''.join(found.channels)} {found.depth}, "
        f"{colour_words(reading.colour.value, reading.chromaticities.value)}, "
        f"alpha {reading.alpha.value.value}, "
        f"{seconds_words(expected, reading.rate.value)} at {rate}{origin}",
    ]
    lines += layer_lines(source)
    lines += [f"  {one.frame}: {one.what} ({plain(one.file)})" for one in found.findings]
    if source.is_sparse:
        lines.append(f"  {sparse_sentence(source)}")
    if source.unexpected:
        lines.append(f"  not expected: {write_frames(source.unexpected)}")
    if files.others:
        lines.append(f"  beside it: {names_words(files.others)}")
    if source.to_rerender:
        lines.append(f"  to re-render: {write_frames(source.to_rerender)}")
    return lines


def show(sources: tuple[Sequence | Sound, ...]) -> None:
    for source in sources:
        tell(*lines_of(source))
