"""What all parts of a job have in common: frozen, validated, changed by copy."""

from __future__ import annotations

from typing import TypeVar

from pydantic import BaseModel, ConfigDict, ValidationError

from waxseal.core.errors import JobError

__all__ = ["Value", "change", "sentence_of"]


M = TypeVar("M", bound="Value")


class Value(BaseModel):
    """What all parts of a job have in common."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)


def change(value: M, **fields: object) -> M:
    """A copy with other fields, validated. Raises JobError with a sentence."""
    try:
        return type(value).model_validate({**dict(value), **fields})
    except ValidationError as error:
        raise JobError(sentence_of(error)) from error


def sentence_of(error: ValidationError) -> str:
    """The first complaint of a validation, with the place where it is."""
    first = error.errors(include_url=False, include_input=False)[0]
    place = ".".join(str(part) for part in first["loc"])
    what = first["msg"].removeprefix("Value error, ")
    return f"{place}: {what}" if place else what
