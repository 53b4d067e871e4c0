"""What every test has: quick and full property runs, and folders of its own."""

from __future__ import annotations

import gc
import os
from itertools import count
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

import waxseal  # noqa: F401 - before NumPy: it says how many threads libraries have
from tests.zygote import Forked
from waxseal.core.picture.kernel_cache import FOLDER, kept_in

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ[FOLDER] = str(kept_in())  # no test compiles the kernels again for its own folders

slow_ok = [HealthCheck.too_slow, HealthCheck.function_scoped_fixture]
settings.register_profile(
    "quick",
    max_examples=60,
    deadline=None,
    derandomize=True,  # the gate sees the same examples each time; the full run new ones
    suppress_health_check=slow_ok,
)
settings.register_profile("full", max_examples=1000, deadline=None, suppress_health_check=slow_ok)
settings.load_profile(os.environ.get("WAXSEAL_TESTS", "quick"))


ALL_EVERY = 25  # tests after which all circles are collected, not only young ones
ended = count()
LONGEST = "test_window.py"  # begun first, so that nothing waits for it at the end


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    items.sort(key=lambda item: item.path.name != LONGEST)


@pytest.hookimpl(trylast=True)
def pytest_runtest_logfinish() -> None:
    """Once there is a window's thread, circles are collected on it and by request only."""
    if not gc.isenabled():
        gc.collect(0 if next(ended) % ALL_EVERY else 2)


def pytest_sessionfinish() -> None:
    gc.unfreeze()  # a library complains of objects of its own that are left at the end


@pytest.fixture(autouse=True)
def own_folders(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """No test touches the user's own data, settings or autosaves."""
    for name in ("DATA", "STATE", "CONFIG", "CACHE"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(tmp_path / "home" / name.lower()))


@pytest.fixture(autouse=True)
def forked_workers(monkeypatch: pytest.MonkeyPatch) -> None:
    """See `zygote`."""
    monkeypatch.setattr("waxseal.core.deliver.process.worker_process.start_process", Forked)
