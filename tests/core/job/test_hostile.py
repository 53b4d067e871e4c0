"""Whatever a job file says: it is loaded, planned and refused in time, with a sentence."""

from __future__ import annotations

import copy
import json
import re
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from tests.making import job_of, sequence, sound, write_sequence
from waxseal.core.deliver.run.preflight import preflight
from waxseal.core.errors import DeliveryRefused, JobError
from waxseal.core.job.corrections import Fade, Text
from waxseal.core.job.edits import (
    add_sources,
    lay_over,
    lay_sound,
    mark,
    put_on_reel,
    set_correction,
    set_expected,
)
from waxseal.core.job.job_file import read_job, write_job
from waxseal.core.job.model import Job
from waxseal.core.plan.programme import programme

HOME = Path("/")
VALUES: tuple[Any, ...] = (
    *("1e99999999", "9" * 4000, "-1", "", "\0", "../../x", "/etc/passwd", "x" * 70_000, "1/0"),
    *(-1, 0, 10**18, 10**300, 1e308, True, None, [], {}, [[1, 10**15]], [[5, 1], [1, 9]]),
)
PATIENCE = 3.0  # seconds
# How the library that validates speaks: none of it reaches anybody.
LIBRARY = re.compile(r"\b(should|Input|[Vv]alidation|instance|Value error|ctx|pydantic)\b")


def full_job(folder: Path) -> Job:
    job = job_of(write_sequence(folder / "frames", frames=range(1, 6)))
    job = set_expected(job, source="s1", expected=(1, 5))
    job = add_sources(job, sources=[sequence("b"), sound("c")])
    job = lay_over(mark(job, first=1, last=4), source="s2", at=2)
    job = lay_sound(job, source="s3") if any(one.id == "s3" for one in job.sounds) else job
    for correction in (Fade(frames_in=2), Text(words="{frame}")):
        job = set_correction(job, of="a1", correction=correction)
    return job


def leaves(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    if isinstance(value, dict):
        for name, inner in value.items():
            yield from leaves(inner, (*path, name))
    elif isinstance(value, list) and value:
        for at, inner in enumerate(value):
            yield from leaves(inner, (*path, at))
    if path:
        yield path


def changed(document: dict[str, Any], path: tuple[Any, ...], value: Any) -> bytes:
    other = copy.deepcopy(document)
    inside: Any = other
    for name in path[:-1]:
        inside = inside[name]
    inside[path[-1]] = value
    return json.dumps(other).encode()


@pytest.mark.parametrize("value", VALUES, ids=lambda value: repr(value)[:20])
def test_any_value_anywhere_is_taken_or_refused_in_words(tmp_path: Path, value: Any) -> None:
    document = json.loads(write_job(full_job(tmp_path), HOME))
    for path in leaves(document):
        start = time.process_time()
        said = troubles(changed(document, path, value))
        assert all(said), path
        assert not any(LIBRARY.search(one) for one in said), said
        assert time.process_time() - start < PATIENCE, path


def troubles(text: bytes) -> list[str]:
    """What is said of a job, from its file to before its first frame."""
    said = []
    try:
        job = read_job(text, HOME)
    except JobError as error:
        return [str(error)]
    try:
        plan = programme(job)
        plan.recipe(1)
        plan.recipe(plan.timeline.length)
    except JobError as error:
        said.append(str(error))
    for delivery in job.deliveries:
        try:
            preflight(job, delivery)
        except DeliveryRefused as refused:
            said.append(str(refused))
    return said


def test_a_job_of_thousands_of_shots_opens_at_once(tmp_path: Path) -> None:
    job = put_on_reel(
        add_sources(Job(), sources=[sequence(f"n{at}") for at in range(2000)]),
        sources=[f"s{at + 1}" for at in range(2000)],
    )
    text = write_job(job, tmp_path).encode()
    start = time.process_time()
    assert read_job(text, tmp_path) == job
    assert time.process_time() - start < 4, "an aim of 2 s, on a busy machine"


def unbounded(schema: Any, path: str = "") -> Iterator[str]:
    """The places of a schema where a whole number may be of any size."""
    if isinstance(schema, dict):
        is_number = schema.get("type") == "integer" and "enum" not in schema
        if is_number and not {"minimum", "maximum"} <= schema.keys():
            yield path
        for name, one in schema.items():
            yield from unbounded(one, f"{path}/{name}")
    elif isinstance(schema, list):
        for one in schema:
            yield from unbounded(one, path)


def test_every_whole_number_of_a_job_has_bounds() -> None:
    assert list(unbounded(Job.model_json_schema())) == []
