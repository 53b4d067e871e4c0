"""Kept machine code is never that of other sources, of another compiler, or of a stranger."""

from __future__ import annotations

import ast
import subprocess
import sys
from pathlib import Path

import pytest

from waxseal.core.picture import kernel_cache
from waxseal.core.picture.kernel_cache import FOLDER, are_compiled, kept_in, sources

ROOT = Path(kernel_cache.__file__).parents[3]


def numbers_read(path: Path) -> set[str]:
    """The modules of ours from which a kernel's file takes constants."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and any(name.name.isupper() for name in node.names):
            found.add(str(node.module))
    return {module for module in found if module.startswith("waxseal.")}


def test_all_constants_that_are_compiled_in_belong_to_the_digest() -> None:
    """Numba builds them into the code, and does not notice when they change elsewhere."""
    digested = set(sources())
    assert digested
    for path in (one for one in digested if one.parent.name == "kernels"):
        for module in numbers_read(path) - {"waxseal.core.picture.kernel_cache"}:
            assert (ROOT / f"{module.replace('.', '/')}.py") in digested, (path.name, module)


def test_another_compiler_has_a_folder_of_its_own(monkeypatch: pytest.MonkeyPatch) -> None:
    before = kept_in().name
    kernel_cache.stamp.cache_clear()
    monkeypatch.setattr(kernel_cache, "version", lambda _name: "another")
    try:
        assert kept_in().name != before
        monkeypatch.undo()
        kernel_cache.stamp.cache_clear()
        assert kept_in().name == before
    finally:
        kernel_cache.stamp.cache_clear()


def test_a_folder_that_others_may_write_to_is_not_used(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv(FOLDER, str(tmp_path / "shared"))
    folder = kept_in()
    folder.mkdir(parents=True)
    folder.chmod(0o777)
    assert not are_compiled()
    script = f"import os, waxseal.core.picture.kernels.compiling; print(os.environ[{FOLDER!r}])"
    done = subprocess.run(
        [sys.executable, "-c", script], capture_output=True, text=True, check=True, timeout=60
    )
    assert done.stdout.strip() != str(folder)
    assert not list(folder.iterdir())
