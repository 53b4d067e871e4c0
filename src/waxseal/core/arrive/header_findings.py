"""What is wrong with files, as far as their headers and ends tell: a check each, and a table."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from collections.abc import Sequence as Row
from dataclasses import dataclass

from waxseal.core.frames.headers import Header
from waxseal.core.job.model import Files, Finding, FindingKind
from waxseal.core.text_format import bytes_words, plain

__all__ = ["ScannedHeader", "check_files", "header_kind"]

ODD_TIMES = 3  # how many times smaller or larger than both neighbours a file is odd


@dataclass(frozen=True, slots=True)
class ScannedHeader:
    """A frame's header, or why there is none.

    is_growing: not whole yet, and written just now. is_not_read: of a kind that is not read.
    """

    frame: int
    header: Header | None
    trouble: str = ""
    is_growing: bool = False
    is_not_read: bool = False


@dataclass(frozen=True, slots=True)
class HeaderEvidence:
    """All that a check may look at. usual: a header of the size and kind that most frames have."""

    files: Files
    looked: Row[ScannedHeader]
    usual: Header | None


def header_kind(header: Header) -> tuple[object, ...]:
    """What frames of one sequence have in common."""
    return (header.width, header.height, header.channels, header.depth)


def check_files(
    files: Files, looked: Row[ScannedHeader], usual: Header | None
) -> tuple[Finding, ...]:
    """Everything that the quick look finds, check after check."""
    seen = HeaderEvidence(files, looked, usual)
    return tuple(
        Finding(kind=kind, frame=frame, file=file, what=what)
        for check in CHECKS
        for kind, frame, file, what in check(seen)
    )


Found = tuple[FindingKind, int, str, str]  # kind, frame, file, and what is wrong
Check = Callable[[HeaderEvidence], Iterator[Found]]


def unreadable(seen: HeaderEvidence) -> Iterator[Found]:
    """Damaged, of a kind that is not read, or not whole yet."""
    for one in seen.looked:
        file = seen.files.name_of(one.frame)
        if one.is_growing:
            what = f"still being written ({one.trouble})"
            yield FindingKind.ARRIVING, one.frame, file, what
        elif one.header is None:
            kind = FindingKind.NOT_READ if one.is_not_read else FindingKind.DAMAGED
            yield kind, one.frame, file, one.trouble


def others(seen: HeaderEvidence) -> Iterator[Found]:
    """Of another size or kind than most."""
    usual = seen.usual
    for one in seen.looked:
        header = one.header
        if header is None or usual is None or header_kind(header) == header_kind(usual):
            continue
        file = seen.files.name_of(one.frame)
        if (header.width, header.height) != (usual.width, usual.height):
            what = f"{header.width} × {header.height}, the others {usual.width} × {usual.height}"
            yield FindingKind.ANOTHER_SIZE, one.frame, file, what
        else:
            what = (
                f"{''.join(header.channels)} {header.depth}, "
                f"the others {''.join(usual.channels)} {usual.depth}"
            )
            yield FindingKind.ANOTHER_KIND, one.frame, file, what


def odd_sizes(seen: HeaderEvidence) -> Iterator[Found]:
    """Files far smaller or larger than both neighbours. A fade grows steadily, so is left out."""
    whole = [(one.frame, one.header.size_bytes) for one in seen.looked if one.header is not None]
    for (_, before), (frame, size), (_, after) in zip(whole, whole[1:], whole[2:], strict=False):
        small, large = min(before, after), max(before, after)
        if large < ODD_TIMES * small and not small / ODD_TIMES <= size <= large * ODD_TIMES:
            what = (
                f"the file has {bytes_words(size)}, its neighbours "
                f"{bytes_words(before)} and {bytes_words(after)}"
            )
            yield FindingKind.ODD_SIZE, frame, seen.files.name_of(frame), what


def odd_files(seen: HeaderEvidence) -> Iterator[Found]:
    """What is unusual in a file that can be read all the same."""
    for one in seen.looked:
        if one.header is not None and one.header.oddity:
            what = f"the file {one.header.oddity}; its picture is whole"
            yield FindingKind.ODD_FILE, one.frame, seen.files.name_of(one.frame), what


def strays(seen: HeaderEvidence) -> Iterator[Found]:
    """Other files that have one of the numbers."""
    for frame, file in seen.files.strays:
        what = f"{plain(file)} has the same number: {plain(seen.files.name_of(frame))} is used"
        yield FindingKind.STRAY, frame, file, what


def stated_colour(seen: HeaderEvidence) -> Iterator[Found]:
    """A colour that its files state and that is not read: said once, at the first frame."""
    for one in seen.looked:
        stated = one.header.stated if one.header is not None else None
        if stated is not None and stated.colour is None:
            what = f"states {stated.words}, and is read as the card says: choose its colour there"
            is_high = stated.is_high_range
            kind = FindingKind.HIGH_RANGE if is_high else FindingKind.STATED_COLOUR
            yield kind, one.frame, seen.files.name_of(one.frame), what
            return


CHECKS: tuple[Check, ...] = (unreadable, others, odd_sizes, odd_files, strays, stated_colour)
