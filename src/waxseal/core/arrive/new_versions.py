"""What is said of versions that arrive: which source each could replace, and what that changes."""

from __future__ import annotations

from collections.abc import Collection

from waxseal.core.job.edits import change_words
from waxseal.core.job.model import Job
from waxseal.core.job.versions import older_versions, successors
from waxseal.core.text_format import counted

__all__ = ["older_words", "successor_words"]

MOST_NAMED = 2  # more would not be read


def successor_words(job: Job, arrived: Collection[str]) -> tuple[str, str]:
    """Which sources could be replaced by what has just come, by its ids; and what that changes.

    Both are sentences, and empty where there is nothing to say.
    """
    offers = [one for one in successors(job).values() if one.by.id in arrived]
    if len(offers) > MOST_NAMED:
        return f"{counted(len(offers), 'source')} could be replaced by what has come.", ""
    came = (
        f"{one.by.name} is a new version of {one.source.name}."
        if one.label
        else f"{one.source.name} has moved."
        for one in offers
    )
    changes = filter(None, (change_words(job, one) for one in offers))
    return " ".join(came), " ".join(changes)


def older_words(job: Job, arrived: Collection[str]) -> str:
    """Which of them are not on the reel because a newer version is there."""
    older = older_versions(job.sequences)
    names = [one.name for one in job.sequences if one.id in older and one.id in arrived]
    if not names:
        return ""
    return f"Not on the reel, because there is a newer version: {', '.join(names)}."
