"""A kernel's machine code is kept, and called without the compiler; damage is compiled anew."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path
from types import FunctionType
from typing import Any

import llvmlite.binding
import numpy as np
import pytest

from waxseal.core.machine import code
from waxseal.core.machine.kernel import Kernel, inlined, into, is_at_hand

COMPILER = "waxseal.core.machine.compiler"


@inlined
def doubled(value: Any) -> Any:
    return value + value


def lift(values: Any, by: Any, made: Any) -> None:
    for row in range(values.shape[0]):
        for column in range(values.shape[1]):
            made[row, column] = doubled(values[row, column]) + by


def tell(truth: Any, long: Any, real: Any, short: Any, big: Any, told: Any) -> Any:
    told[0], told[1], told[2], told[3] = long, real, short, big
    return truth


def tell_always(told: Any) -> bool:
    told[0] = 1
    return True


def part(values: Any, by: int) -> None:
    values[0] = values[0] // by


def make_new(values: Any) -> None:
    values[0] = np.empty(3)[0]


@pytest.fixture
def kept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Where the kernels of this test are kept."""
    monkeypatch.setattr(code, "folders", lambda: [tmp_path / "kernels-now"])
    monkeypatch.setattr(code, "called", set[str]())
    return tmp_path / "kernels-now"


def is_lifted() -> bool:
    values = np.arange(6, dtype=np.uint16).reshape(2, 3)
    made = np.zeros((2, 3), np.uint16)
    Kernel(lift)(values, np.uint32(7), made)
    return bool((made == values * 2 + 7).all())


def test_what_was_compiled_once_is_called_without_the_compiler(
    kept: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert is_lifted()
    (only,) = kept.iterdir()
    assert only.name.startswith("lift-")
    monkeypatch.setitem(sys.modules, COMPILER, None)
    assert is_lifted()
    only.unlink()
    with pytest.raises(ImportError):
        is_lifted()


@pytest.mark.parametrize("damage", ["cut", "empty", "flipped"])
def test_damaged_code_is_never_called(kept: Path, damage: str) -> None:
    assert is_lifted()
    (only,) = kept.iterdir()
    whole = only.read_bytes()
    flipped = bytearray(whole)
    flipped[len(whole) // 2] ^= 1
    only.write_bytes({"cut": whole[:-9], "empty": b"", "flipped": bytes(flipped)}[damage])
    assert is_lifted()
    assert code.fetch(only.stem) is not None, "kept again"


def test_a_folder_that_cannot_be_written_is_no_trouble(kept: Path) -> None:
    kept.touch()  # a file where the folder would be
    assert is_lifted()
    code.note_kept("now")
    assert not code.are_kept("now")


@pytest.mark.usefixtures("kept")
def test_arrays_of_every_shape_arrive() -> None:
    """Turned, in parts, of one pixel, empty, at an odd address, and to be read only."""
    kernel = Kernel(lift)
    whole = np.arange(63, dtype=np.float32).reshape(7, 9)
    whole.flags.writeable = False
    odd = np.frombuffer(b"\0" + whole.tobytes(), np.uint8)[1:].view(np.float32).reshape(7, 9)
    assert not odd.flags.aligned
    parts = (whole[2:3, 4:5], whole[:0], whole[:, 3:5])
    for values in (whole, whole[::-1, ::-2], whole.T, odd, *parts):
        for made in (np.zeros(values.shape, np.float32), np.zeros(values.shape[::-1]).T):
            kernel(values, np.float32(1.5), made)
            np.testing.assert_array_equal(made, values * 2 + 1.5)


@pytest.mark.usefixtures("kept")
@pytest.mark.parametrize("truth", [True, False, np.bool_(True)])  # noqa: FBT003 - its only way
@pytest.mark.parametrize(
    ("numbers", "expected"),
    [
        ((-3, np.float32(0.25), np.uint32(1 << 31), np.uint64(1 << 40)), (-3, 0.25, 2**31, 2**40)),
        ((np.int64(-3), 0.1, np.uint8(200), np.int16(-9)), (-3, 0.1, 200, -9)),
    ],
)
def test_numbers_of_every_kind_arrive(
    truth: bool, numbers: tuple[Any, ...], expected: tuple[float, ...]
) -> None:
    told = np.zeros(4)
    assert Kernel(tell)(truth, *numbers, told) is bool(truth)
    assert tuple(told) == expected


@pytest.mark.usefixtures("kept")
def test_a_kernel_that_fails_says_so() -> None:
    kernel, values = Kernel(part), np.array([7, 8])
    with pytest.raises(ArithmeticError, match="The kernel part failed"):
        kernel(values, 0)
    kernel(values, 2)
    assert values.tolist() == [3, 8]


@pytest.mark.usefixtures("kept")
def test_a_kernel_that_makes_an_array_does_not_compile() -> None:
    """Its memory would be counted in each loop, which is ten times as slow."""
    from numba.core.errors import NumbaError

    with pytest.raises(NumbaError):
        Kernel(make_new)(np.zeros(3))


KEEP = """
import numpy as np
from pathlib import Path
from waxseal.core.picture.kernels import choice
from waxseal.core.machine import code
code.folders = lambda: [Path("kernels-now")]
light = np.zeros((2, 2, 4), np.float32)
choice.exercise = lambda kernels: (kernels.widen(light, light), kernels.multiply_alpha(light))
before = choice.are_kept()
kernels = choice.KernelChoice()
kernels.warm_for(choice.WORTH_COMPILING)
kernels.wait()
print(before, choice.are_kept(), kernels.current.__name__.rpartition(".")[2])
"""


def test_the_first_run_keeps_what_it_calls_and_what_was_removed_is_missed(tmp_path: Path) -> None:
    told = []
    for _ in range(3):
        command = [sys.executable, "-c", KEEP]
        done = subprocess.run(
            command, check=True, capture_output=True, text=True, cwd=tmp_path, timeout=300
        )
        told.append(done.stdout.split())
        kept = sorted((tmp_path / "kernels-now").glob("widen-*"))
        if len(told) == 2:
            kept[0].unlink()
    assert told == [[before, "True", "compiled"] for before in ("False", "True", "False")]


def test_another_compiler_and_another_processor_have_code_of_their_own(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(code, "HERE", tmp_path)
    stamp = code.stamp.__wrapped__
    for name in ("calling.py", "compiler.py"):
        (tmp_path / name).write_text("old")
    first = stamp()
    os.utime(tmp_path / "compiler.py", (1000, 1000))
    assert stamp() == first, "only its time is another"
    (tmp_path / "compiler.py").write_text("new")
    second = stamp()
    monkeypatch.setattr(llvmlite.binding, "get_host_cpu_name", lambda: "another")
    assert len({first, second, stamp()}) == 3


BESIDE = """
import sys
import time
import numpy as np
from pathlib import Path
from tests.core.machine.test_kernel import lift_by
from waxseal.core.machine import code, compiler
from waxseal.core.machine.kernel import Kernel
code.folders = lambda: [Path(sys.argv[1]) / "kernels-now"]
compile_kernel = compiler.compile_kernel
def slowly(*arguments):
    print("compiled", flush=True)
    time.sleep(0.5)
    return compile_kernel(*arguments)
compiler.compile_kernel = slowly
Kernel(lift_by)(np.zeros(3, np.uint32))
"""


def test_of_two_processes_one_compiles(tmp_path: Path) -> None:
    command = [sys.executable, "-c", BESIDE, str(tmp_path)]
    both = [subprocess.Popen(command, stdout=subprocess.PIPE, text=True) for _ in range(2)]
    told = [process.communicate(timeout=100)[0] for process in both]
    assert sorted(told) == ["", "compiled\n"]
    assert [process.returncode for process in both] == [0, 0]


BY = np.uint32(3)


def raised(value: Any) -> Any:
    return value + BY


def raise_twice(values: Any) -> None:
    values[0] = raised(raised(values[0]))


def lift_by(values: Any) -> None:
    values[0] = doubled(values[0]) + BY


def test_another_constant_is_another_kernel(kept: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Also one that another module says: no code of old numbers is called."""
    told = []
    for by in (BY, np.uint32(5), BY):
        monkeypatch.setitem(globals(), "BY", by)
        values = np.array([10], np.uint32)
        Kernel(lift_by)(values)
        told.append(int(values[0]))
    assert told == [23, 25, 23]
    assert len(list(kept.iterdir())) == 2


def test_a_kernel_that_gives_always_the_same(kept: Path) -> None:
    told = np.zeros(1)
    assert Kernel(tell_always)(told)
    assert told[0] == 1


def test_what_is_inlined_may_be_of_another_module(
    kept: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It reads its own module's constants, and the kernel is another where it changes."""
    told, senses = [], set()
    for by in (2, 5):
        other = FunctionType(raised.__code__, {"BY": np.uint32(by)}, "raised")
        other.__module__ = "other"
        monkeypatch.setitem(into, "other", [other])
        monkeypatch.setitem(globals(), "raised", other)
        values, kernel = np.array([10], np.uint32), Kernel(raise_twice)
        kernel(values)
        told.append(int(values[0]))
        senses.add(kernel.sense)
    assert told == [14, 20]
    assert len(senses) == 2


def test_what_is_inlined_belongs_to_the_kernel(monkeypatch: pytest.MonkeyPatch) -> None:
    before = Kernel(lift).sense

    def trebled(value: Any) -> Any:
        return value + value + value

    monkeypatch.setitem(into, __name__, [trebled])
    assert Kernel(lift).sense != before
    assert Kernel(tell).sense != Kernel(part).sense


@pytest.mark.parametrize("value", [np.zeros(3), {"by": 3}, [3]])
def test_a_kernel_reads_no_table_that_is_not_handed_to_it(
    monkeypatch: pytest.MonkeyPatch, value: object
) -> None:
    monkeypatch.setitem(globals(), "BY", value)
    with pytest.raises(TypeError, match="hand it over"):
        Kernel(lift_by)(np.zeros(3))


def test_whether_a_kernel_is_at_hand(kept: Path) -> None:
    """Called before, or kept by an earlier run; for arguments of these kinds."""
    values, kernel = np.array([10], np.uint32), Kernel(lift_by)
    assert not is_at_hand(kernel, values)
    kernel(values)
    assert is_at_hand(kernel, values)
    assert is_at_hand(Kernel(lift_by), values), "kept"
    assert not is_at_hand(kernel, values.astype(np.uint8))
    for file in kept.iterdir():
        file.unlink()
    assert is_at_hand(kernel, values)


def test_code_that_was_left_long_ago_is_removed(kept: Path) -> None:
    old, young = (kept.parent / f"kernels-{name}" for name in ("old", "young"))
    for folder in (old, young, kept):
        folder.mkdir()
    for folder in (old, kept):
        os.utime(folder, (1000, 1000))
    code.note_kept("now")
    assert sorted(kept.parent.iterdir()) == [kept, young]


WARM = """
import sys
from waxseal.core.picture.kernels.choice import KernelChoice
kernels = KernelChoice()
kernels.warm_for(1 << 40)
kernels.wait()
from waxseal.core.picture.kernels.choice import exercise
exercise(kernels.current)
print(kernels.current.__name__.rpartition(".")[2], "numba" in sys.modules)
"""


def test_what_was_kept_needs_no_compiler_in_another_process() -> None:
    command = [sys.executable, "-c", WARM]
    _, last = (  # the first may have to compile
        subprocess.run(command, check=True, capture_output=True, text=True, timeout=300)
        for _ in range(2)
    )
    assert last.stdout.split() == ["compiled", "False"]
