"""What all parts of a job have in common: frozen, validated, changed by copy."""

from __future__ import annotations

from typing import Annotated, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from waxseal.core.errors import JobError

__all__ = [
    "FARTHEST",
    "Count",
    "FrameNumber",
    "Value",
    "change",
    "make",
    "sentence_of",
]

# Every number of a job has bounds, so that nothing that works with one falls over it.
FARTHEST = 1_000_000_000  # a frame's number, also below zero
FrameNumber = Annotated[int, Field(ge=-FARTHEST, le=FARTHEST)]
Count = Annotated[int, Field(ge=0, le=1 << 60)]  # of whatever is counted, bytes too


M = TypeVar("M", bound="Value")
ABSENT = object()


class Value(BaseModel):
    """What all parts of a job have in common."""

    model_config = ConfigDict(frozen=True, extra="forbid")


def make(kind: type[M], **fields: object) -> M:
    """A value of what somebody typed. Raises JobError with a sentence."""
    try:
        return kind.model_validate(fields)
    except ValidationError as error:
        raise JobError(sentence_of(error)) from error


def change(value: M, **fields: object) -> M:
    """A copy with other fields, validated. Raises JobError with a sentence.

    The value itself where the fields are as they were: an edit that goes through hundreds of
    shots and concerns one costs what that one costs.
    """
    before = dict(value)
    if all(is_same(before.get(name, ABSENT), one) for name, one in fields.items()):
        return value
    try:
        return type(value).model_validate({**before, **fields})
    except ValidationError as error:
        raise JobError(sentence_of(error)) from error


def is_same(before: object, after: object) -> bool:
    return before is after or (type(before) is type(after) and before == after)


def sentence_of(error: ValidationError) -> str:
    """The first complaint of a validation, in our own words, with the place where it is."""
    first = error.errors(include_url=False, include_input=False)[0]
    kind, facts = first["type"], first.get("ctx", {})
    if kind == "value_error":
        what = str(facts["error"])
    else:
        words = next((words for start, words in WORDS if kind.startswith(start)), OTHER_WORDS)
        said = {name: f"{one:g}" if isinstance(one, float) else one for name, one in facts.items()}
        what = words.format(**said)
    # Entries of lists are counted from 1, as people do.
    parts = [f"{part + 1}" if isinstance(part, int) else str(part) for part in first["loc"]]
    place = " › ".join(parts)
    return f"{place}: {what}" if place else what


# What is said for the kinds of complaints that the library has, by how their names begin.
WORDS = (
    ("string_too_long", "it is too long: {max_length} letters are the most."),
    ("string_too_short", "it is empty, or too short."),
    ("string", "it has to be a text."),
    ("greater_than_equal", "it has to be {ge} or more."),
    ("greater_than", "it has to be more than {gt}."),
    ("less_than_equal", "it has to be {le} or less."),
    ("less_than", "it has to be less than {lt}."),
    ("int", "it has to be a whole number."),
    ("float", "it has to be a number."),
    ("finite_number", "it has to be a number."),
    ("bool", "it has to be true or false."),
    ("enum", "it has to be {expected}."),
    ("literal_error", "it has to be {expected}."),
    ("missing", "it is not there."),
    (
        "extra_forbidden",
        "nothing is known here under that name.",
    ),
    ("too_long", "it has too many entries: {max_length} are the most."),
    ("too_short", "it has too few entries: {min_length} are the least."),
    ("union_tag", "nothing of that kind is known here."),
)
OTHER_WORDS = "the value is not valid."
