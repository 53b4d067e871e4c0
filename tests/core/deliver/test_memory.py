"""Large pictures go back to the system at once: of jobs that have some."""

from __future__ import annotations

import subprocess
import sys

from tests.making import sequence
from waxseal.core.deliver.process.memory import has_large_pictures
from waxseal.core.job.edits import add_delivery, add_sources, change_delivery, set_reel_size
from waxseal.core.job.model import Job, Size, change

ULTRA = Size(width=3840, height=2160)

# Freed once, a block of twenty megabytes is kept by default, and the next one is put there.
TRIED = """
import ctypes, resource, sys
from waxseal.core.deliver.process.memory import give_large_pictures_back
if sys.argv[1] == "given":
    give_large_pictures_back()
library = ctypes.CDLL(None)
library.malloc.restype = ctypes.c_void_p
library.malloc.argtypes = [ctypes.c_size_t]
library.free.argtypes = [ctypes.c_void_p]
size = 20 << 20
for _ in range(2):
    blocks = [library.malloc(size) for _ in range(4)]
    for block in blocks:
        ctypes.memset(block, 1, size)
    for block in blocks[:-1]:
        library.free(block)
    library.malloc(100)
    print(int(open("/proc/self/statm").read().split()[1]) * resource.getpagesize() >> 20)
"""


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


def test_what_is_freed_is_given_back() -> None:
    held = {}
    for kind in ("given", "kept"):
        command = [sys.executable, "-c", TRIED, kind]
        done = subprocess.run(command, capture_output=True, text=True, timeout=60, check=True)
        held[kind] = int(done.stdout.split()[-1])
    assert held["given"] < held["kept"]
