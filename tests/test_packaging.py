"""What the package says that it depends on is what its code imports."""

from __future__ import annotations

import ast
import re
import subprocess
import sys
import tomllib
from importlib.metadata import packages_distributions
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent


def normal(name: str) -> str:
    """A distribution's name as PEP 503 compares it."""
    return re.sub(r"[-_.]+", "-", name).lower()


def imported() -> set[str]:
    """The top-level modules that the package imports anywhere."""
    names = set()
    for path in (ROOT / "src").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Import):
                names |= {one.name.split(".")[0] for one in node.names}
            elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
                names.add(node.module.split(".")[0])
    return names - set(sys.stdlib_module_names) - {"waxseal"}


def test_every_library_that_is_imported_is_declared() -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    wanted = [*project["dependencies"], *project["optional-dependencies"]["cluster"]]
    declared = {normal(re.split(r"[<>=!~ ;\[]", one)[0]) for one in wanted}
    brought = {"shiboken6": "pyside6-essentials", "pydantic_core": "pydantic"}  # with another
    distributions = packages_distributions()
    for module in sorted(imported()):
        names = {normal(one) for one in distributions.get(module, [module])}
        names.add(normal(brought.get(module, module)))
        assert names & declared, f"{module} is imported, and none of {names} is declared"


CODECS = {"av", "cv2", "numba", "scipy", "OpenImageIO", "OpenEXR", "PyOpenColorIO", "soundfile"}
NOT_AT_THE_START = {
    "waxseal.app.start_window": CODECS,
    "waxseal.cli.main": {"PySide6", *CODECS},
    "waxseal.cli.commands": {"PySide6", *CODECS},
    "waxseal.core.deliver.process.worker": {"PySide6", "distributed"},
}


@pytest.mark.parametrize("start", NOT_AT_THE_START)
def test_what_begins_does_so_without_what_it_does_not_need(start: str) -> None:
    """A window opens without a codec, and a command without a window."""
    unwanted = NOT_AT_THE_START[start]
    script = f"import sys, {start}; print(sorted({unwanted} & set(sys.modules)))"
    command = [sys.executable, "-c", script]
    done = subprocess.run(command, capture_output=True, text=True, timeout=60, check=True)
    assert done.stdout.strip() == "[]"


def test_no_library_has_threads_of_its_own_that_wait_by_spinning() -> None:
    """Where all cores are busy they took a fifth of them; what we start inherits it."""
    code = "import os, waxseal, numpy, scipy.linalg; print(len(os.listdir('/proc/self/task')))"
    environment = {"PATH": "", "OPENBLAS_NUM_THREADS": "4", "OMP_NUM_THREADS": "4"}
    done = subprocess.run(
        [sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=True
    )
    assert done.stdout.strip() == "1"
