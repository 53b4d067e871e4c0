"""What the documents say of specs is what the specs are."""

from __future__ import annotations

import importlib.util
import re
from pathlib import Path

from tests.making import job_of, write_sequence, write_tone
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.specs.spec import Spec
from waxseal.core.deliver.specs.spec_book import spec_in
from waxseal.core.job.model import DeliveryState
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.record import read_seal

ROOT = Path(__file__).parent.parent


def test_the_guides_table_is_as_the_shipped_specs_are() -> None:
    found = importlib.util.spec_from_file_location("spec_table", ROOT / "scripts/spec_table.py")
    assert found is not None
    assert found.loader is not None
    module = importlib.util.module_from_spec(found)
    found.loader.exec_module(module)
    text = (ROOT / "docs/guide.md").read_text(encoding="utf-8")
    assert module.with_table(text) == text, "make specs-table"


def test_the_example_of_a_spec_is_one_and_every_key_is_described() -> None:
    text = (ROOT / "docs/specs.md").read_text(encoding="utf-8")
    (example,) = re.findall(r"```toml\n(.*?)```", text, re.DOTALL)
    assert spec_in(example, "specs.md").name == "our wall"
    described = set(re.findall(r"`(\w+)`", " ".join(re.findall(r"^\| (`[^|]*) \|", text, re.M))))
    assert set(Spec.model_fields) <= described


def test_every_key_of_a_seal_is_described(tmp_path: Path) -> None:
    write_tone(tmp_path / "a" / "tone.wav", seconds=0.5)
    job = job_of(write_sequence(tmp_path / "a", frames=range(1, 13)))
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED
    text = (ROOT / "docs/seal.md").read_text(encoding="utf-8")
    described = set(re.findall(r"`(\w+)`", " ".join(re.findall(r"^\| (.*) \|$", text, re.M))))
    record = read_seal(path_of(job.deliveries[0])) or {}
    assert record
    keys = set(record) | set(record["likeness"]) | set(record["colour"]) | set(record["sound"])
    assert keys <= described
