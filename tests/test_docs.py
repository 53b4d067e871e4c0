"""What the documents say of specs is what the specs are."""

from __future__ import annotations

import importlib.util
import re
from pathlib import Path

from waxseal.core.deliver.specs.book import spec_in
from waxseal.core.deliver.specs.spec import Spec

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
