"""The memory of large pictures goes back to the system at once, that of others is kept."""

from __future__ import annotations

import subprocess
import sys

from tests.making import sequence
from waxseal.core.deliver.process.memory import has_large_pictures
from waxseal.core.job.edits import add_delivery, add_sources, change_delivery, set_reel_size
from waxseal.core.job.model import Job, Size, change

ULTRA = Size(width=3840, height=2160)

# Twice four pictures of twenty megabytes; what is held of three at the end, and what it cost to
# get the memory the second time, in pages.
TRIED = """
import ctypes, resource, sys
from waxseal.core.deliver.process import memory
chosen = {"given": memory.give_large_pictures_back, "kept": memory.keep_memory_of_pictures}
chosen.get(sys.argv[1], lambda: None)()
library = ctypes.CDLL(None)
library.malloc.restype = ctypes.c_void_p
library.malloc.argtypes = [ctypes.c_size_t]
library.free.argtypes = [ctypes.c_void_p]
size = 20 << 20
for _ in range(2):
    before = resource.getrusage(resource.RUSAGE_SELF).ru_minflt
    blocks = [library.malloc(size) for _ in range(4)]
    for block in blocks:
        ctypes.memset(block, 1, size)
    paid = resource.getrusage(resource.RUSAGE_SELF).ru_minflt - before
    for block in reversed(blocks):
        library.free(block)
print(int(open("/proc/self/statm").read().split()[1]) * resource.getpagesize() >> 20, paid)
"""


def tried(kind: str) -> tuple[int, int]:
    command = [sys.executable, "-c", TRIED, kind]
    done = subprocess.run(command, capture_output=True, text=True, timeout=60, check=True)
    held, paid = done.stdout.split()
    return int(held), int(paid)


def test_a_job_has_large_pictures_by_its_frames_or_by_its_delivery() -> None:
    job = add_sources(Job(), sources=[sequence()])
    job = add_delivery(job, name="film", folder="/")
    assert not has_large_pictures(job, job.deliveries[0])
    large = change_delivery(job, delivery="d1", size=ULTRA)
    assert has_large_pictures(large, large.deliveries[0])
    assert has_large_pictures(set_reel_size(job, size=ULTRA), job.deliveries[0])
    source = job.sequences[0]
    found = change(source, found=change(source.found, size=ULTRA))
    assert has_large_pictures(change(job, sources=(found,)), job.deliveries[0])


def test_what_is_freed_is_given_back_or_kept() -> None:
    held_given, paid_given = tried("given")
    held_kept, paid_kept = tried("kept")
    _, paid_as_usual = tried("as usual")
    assert held_kept - held_given > 70  # megabytes, of eighty
    assert paid_kept < 20 < min(paid_given, paid_as_usual)
