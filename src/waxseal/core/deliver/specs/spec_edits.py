"""A spec as a form has it: a text for each of its keys, and back."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Any

from waxseal.core.deliver.specs.spec import KEYS, Spec
from waxseal.core.deliver.specs.spec_key import Key
from waxseal.core.errors import JobError
from waxseal.core.job.model import make, shape_words

__all__ = ["spec_of", "texts_of"]

ON, OFF = "yes", "no"


def texts_of(spec: Spec) -> dict[str, str]:
    """What stands in each entry; empty where it is left out."""
    return {name: text_of(spec, name, key) for name, key in KEYS.items()}


def text_of(spec: Spec, name: str, key: Key) -> str:
    value = getattr(spec, name)
    if isinstance(value, bool):
        return ON if value else OFF
    if value is None or (not key.choices and value == Spec.model_fields[name].default):
        return ""
    if isinstance(value, Fraction):
        return shape_words(value)
    if isinstance(value, tuple):
        return ", ".join(str(one) for one in value)
    return f"{value:g}" if isinstance(value, float) else str(value)


def spec_of(texts: Mapping[str, str]) -> Spec:
    """The spec of a form. Raises JobError, which names the entry that is wrong."""
    values = {key: value_of(key, text.strip()) for key, text in texts.items() if text.strip()}
    try:
        return make(Spec, **values)
    except JobError as error:
        key, mark, why = str(error).partition(": ")
        known = KEYS.get(key.split(" ")[0])
        raise JobError(f"{known.label}: {why}" if mark and known else str(error)) from None


def value_of(key: str, text: str) -> Any:
    """A text as the model takes it: numbers are read there."""
    annotation = str(Spec.model_fields[key].annotation)
    if annotation.startswith("tuple"):
        return [one.strip() for one in text.split(",") if one.strip()]
    if "bool" in annotation:
        return text == ON
    return text.replace("−", "-") if "float" in annotation else text
