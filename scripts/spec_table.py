"""Writes the table of the shipped specs into the guide, from their files."""

from __future__ import annotations

import sys
from pathlib import Path

from waxseal.core.deliver.specs.spec_book import shipped
from waxseal.core.job.model import Alpha
from waxseal.core.text_format import bytes_words, numbered

GUIDE = Path(__file__).parent.parent / "docs" / "guide.md"
BEGIN, END = "<!-- specs -->\n", "<!-- end of specs -->\n"


def table() -> str:
    """Markdown, a row for each spec."""
    lines = [
        "| spec | for | file | size | alpha | limits |",
        "| --- | --- | --- | --- | --- | --- |",
    ]
    for one in shipped():
        sizes = " or ".join(str(size) for size in one.chosen_sizes) or "as the reel"
        limits = []
        if one.rates:
            limits.append(f"{', '.join(one.rates)} fps")
        if one.longest:
            limits.append(f"{one.longest:g} s")
        if one.max_size:
            limits.append(bytes_words(one.most_bytes))
        if one.loudness is not None:
            limits.append(f"{numbered(one.loudness, 1)} LUFS")
        if one.true_peak is not None:
            limits.append(f"{numbered(one.true_peak, 1)} dBTP")
        if one.timecode:
            limits.append(f"from {one.timecode}")
        if one.sound.value != "allowed":
            limits.append(f"sound {one.sound}")
        alpha = "–" if one.alpha is Alpha.NONE else one.alpha.value
        lines.append(
            f"| {one.name} | {one.purpose.label} | {one.codec}, {one.container_name} | {sizes} "
            f"| {alpha} | {'; '.join(limits) or '–'} |"
        )
    return "\n".join(lines) + "\n"


def with_table(text: str) -> str:
    """The guide with the table as it is now."""
    before, rest = text.split(BEGIN)
    _, after = rest.split(END)
    return f"{before}{BEGIN}{table()}{END}{after}"


def main() -> None:
    GUIDE.write_text(with_table(GUIDE.read_text(encoding="utf-8")), encoding="utf-8")
    sys.stdout.write(f"{GUIDE.name}: the table is as the specs are\n")


if __name__ == "__main__":
    main()
