"""What is said of versions that arrive: which source each could replace, and what that changes."""

from __future__ import annotations

from collections.abc import Collection

from waxseal.core.job.edits import change_words
from waxseal.core.job.model import Job
from waxseal.core.job.versions import older_versions, successors
from waxseal.core.text_format import counted

__all__ = ["older_words", "successor_words"]

MOST_NAMED = 2  # more would not be read


def successor_words(job: Job, arrived: Collection[str]) -> str:
    """Of sources that have just come, by their ids; empty where none could replace another."""
    offers = [one for one in successors(job).values() if one.by.id in arrived]
    if len(offers) > MOST_NAMED:
        return f"{counted(len(offers), 'source')} could be replaced by what has come."
    said = []
    for one in offers:
        old, new = one.source.name, one.by.name
        said.append(f"{new} is a new version of {old}." if one.label else f"{old} has moved.")
        said.append(change_words(job, one))
    return " ".join(filter(None, said))


def older_words(job: Job, arrived: Collection[str]) -> str:
    """Which of them are not on the reel because a newer version is there."""
    older = older_versions(job.sequences)
    names = [one.name for one in job.sequences if one.id in older and one.id in arrived]
    if not names:
        return ""
    return f"Not on the reel, because there is a newer version: {', '.join(names)}."
