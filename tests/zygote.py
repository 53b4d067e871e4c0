"""Encoding processes for the tests, forked from one that has imported what they need.

To import it takes half a second, longer than a test's film takes to encode, and the tests start
hundreds. What is forked is a process like any other, with its own pipes, folder and environment.
How the real one starts is tried by the tests of the commands that run as processes.
"""

from __future__ import annotations

import gc
import json
import os
import socket
import subprocess
import sys
import traceback
from functools import cache
from pathlib import Path
from typing import Any

from typing_extensions import override

__all__ = ["Forked"]

MOST_BYTES = 1 << 20  # of an order: its environment


class Forked(subprocess.Popen[bytes]):
    """In place of what `start_process` starts."""

    def __init__(self) -> None:
        theirs_in, ours_in = os.pipe()
        ours_out, theirs_out = os.pipe()
        self._status, theirs = socket.socketpair()
        order = json.dumps(
            {"folder": os.fspath(Path.cwd()), "environment": dict(os.environ)}
        ).encode()
        socket.send_fds(zygote()[0], [order], [theirs_in, theirs_out, 2, theirs.fileno()])
        for end in (theirs_in, theirs_out):
            os.close(end)
        theirs.close()
        self.args = ["forked worker"]
        self.returncode: Any = None
        self.stdin, self.stdout = os.fdopen(ours_in, "wb"), os.fdopen(ours_out, "rb")
        self.stderr = None
        self.pid = int(self._status.recv(32))

    @override
    def poll(self) -> int | None:
        try:
            return self.wait(0)
        except subprocess.TimeoutExpired:
            return None

    @override
    def wait(self, timeout: float | None = None) -> int:
        if self.returncode is None:
            self._status.settimeout(timeout)
            try:
                self.returncode = int(self._status.recv(32))
            except (BlockingIOError, TimeoutError):
                raise subprocess.TimeoutExpired(self.args, timeout or 0) from None
            self._status.close()
        return int(self.returncode)

    @override
    def __del__(self, *_: object) -> None:
        self._status.close()


@cache
def zygote() -> tuple[socket.socket, subprocess.Popen[bytes]]:
    """The line to the process that forks, and the process; it ends when the line does."""
    ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
    with theirs:
        process = subprocess.Popen(
            [sys.executable, "-P", os.fspath(Path(__file__)), str(theirs.fileno())],
            stdin=subprocess.DEVNULL,
            pass_fds=(theirs.fileno(),),
        )
    return ours, process


def serve(line: socket.socket) -> None:
    from waxseal.core.deliver.process import worker  # noqa: F401 - with all that it imports

    gc.freeze()
    while True:
        order, ends, _, _ = socket.recv_fds(line, MOST_BYTES, 4)
        if not order:
            return
        if os.fork() == 0:
            line.close()
            keep(json.loads(order), ends)
        for end in ends:
            os.close(end)
        while reaped():
            pass


def reaped() -> bool:
    """Whether there was one to reap."""
    try:
        return os.waitpid(-1, os.WNOHANG)[0] != 0
    except ChildProcessError:
        return False


def keep(order: dict[str, Any], ends: list[int]) -> None:
    """Fork the worker, and tell how it ends, as only its parent is told."""
    *streams, status = ends
    pid = os.fork()
    if pid == 0:
        os.close(status)
        become_worker(order, streams)
    for end in streams:
        os.close(end)
    os.write(status, str(pid).encode())
    code = os.waitstatus_to_exitcode(os.waitpid(pid, 0)[1])
    try:
        os.write(status, str(code).encode())
    finally:
        os._exit(0)


def become_worker(order: dict[str, Any], streams: list[int]) -> None:
    from waxseal.core.deliver.process.worker import main

    code = 1
    try:
        for number, stream in enumerate(streams):
            os.dup2(stream, number)
            os.close(stream)
        os.environ.clear()
        os.environ.update(order["environment"])
        os.chdir(order["folder"])
        main()
        code = 0
    except Exception:  # noqa: BLE001 - as Python ends a process
        traceback.print_exc()
    finally:
        os._exit(code)


if __name__ == "__main__":
    serve(socket.socket(fileno=int(sys.argv[1])))
