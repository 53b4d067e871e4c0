"""Deliveries from outside: starts the encoding process, listens to it, stops it."""

from __future__ import annotations

import json
import os
import selectors
import signal
import subprocess
import time
from collections.abc import Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import IO, Any, Self, cast

from waxseal.core.atomic_write import partial_name, remove_partial
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.process.worker_messages import GO_ON, HOLD, Before
from waxseal.core.deliver.process.worker_start import start_process
from waxseal.core.deliver.publish.publish_file import finish_publishing
from waxseal.core.deliver.publish.target_record import TargetRecord
from waxseal.core.errors import DeliveryRefused, WorkerLost
from waxseal.core.job.job_file import write_job
from waxseal.core.job.model import Delivery, DeliveryState, Job, Outcome
from waxseal.core.process_identity import process_name
from waxseal.core.progress import CancelToken, Progress, Report

__all__ = ["EncodingProcess"]

DEADLINE = 20.0  # seconds from a stop to the end of a process that does not hear it
PATIENCE = 10.0  # seconds for a stopped process to clean up
TICK = 0.1
BACKGROUND = 15  # of 19


# What a process does not survive that a native decoder brings down.
FALLS = (signal.SIGSEGV, signal.SIGABRT, signal.SIGBUS, signal.SIGFPE, signal.SIGILL)


class EncodingProcess:
    """One process for one delivery.

    is_careful: whether it decodes in helpers, so that a frame that its decoder
        falls on has a name; a little slower.
    nice: how far it steps back where others want the same cores, 0..19.
    """

    def __init__(
        self,
        *,
        is_careful: bool = False,
        nice: int = 0,
    ) -> None:
        self._process = start_process()
        self._name = process_name(self._process.pid)  # while it is there
        self._is_careful, self._nice = is_careful, nice

    @classmethod
    def in_background(cls) -> Self:
        """One that leaves the cores to whoever looks at pictures meanwhile."""
        return cls(nice=BACKGROUND)

    def close(self) -> None:
        """End the process, if it is still there; it removes what it had begun."""
        for pipe in (self._process.stdin, self._process.stdout):
            if pipe is not None:
                try:
                    pipe.close()
                except OSError:
                    continue
        try:
            self._process.wait(PATIENCE)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()

    def deliver(
        self,
        job: Job,
        delivery: Delivery,
        *,
        report: Report,
        token: CancelToken,
        overwrite: bool = False,
        who: Mapping[str, Any] | None = None,
        before: Before | None = None,
        file: str = "",
        beside: Sequence[str] = (),
        origin: str = "",
    ) -> Outcome:
        """Make one delivery; the outcome says how it ended. Raises WorkerLost.

        overwrite: whether another file that has its name may go. who: encodes it, see Who.
        before: what it does in place of the delivery. file: that is compared.
        beside: ids of deliveries that are made after it: their pictures are made with its own.
        origin: of the job, see `overwrite_check`.
        A process that fell over something is tried once more, carefully.
        """
        stdin, stdout = (
            cast(IO[bytes], pipe) for pipe in (self._process.stdin, self._process.stdout)
        )
        order = {
            "job": json.loads(write_job(job, Path("/"))),
            "delivery": delivery.id,
            "overwrite": overwrite,
            "carefully": self._is_careful,
            "nice": self._nice,
            "who": dict(who or {}),
            "before": before or "",
            "file": file,
            "beside": list(beside),
            "origin": origin,
        }
        try:
            try:
                stdin.write(json.dumps(order).encode() + b"\n")
                stdin.flush()
            except BrokenPipeError:
                raise self._lost(delivery) from None
            outcome = self._listen(stdout, report, token)
        finally:
            self.close()
        if outcome is not None:
            return outcome
        self._remove_partial(delivery)
        if token.is_cancelled:
            return Outcome(state=DeliveryState.STOPPED)
        has_fallen = -self._process.returncode in FALLS
        if has_fallen and not self._is_careful:
            again = EncodingProcess(is_careful=True, nice=self._nice)
            return again.deliver(
                job,
                delivery,
                report=report,
                token=token,
                overwrite=overwrite,
                who=who,
                before=before,
                file=file,
                beside=beside,
                origin=origin,
            )
        raise self._lost(delivery)

    def _listen(self, stdout: IO[bytes], report: Report, token: CancelToken) -> Outcome | None:
        """Pass progress on until the outcome comes; None when the process ends without one."""
        held = False
        stopped_at: float | None = None
        rest = b""
        Outcome.model_rebuild()  # while the worker begins, not when it is done
        with selectors.DefaultSelector() as selector:
            selector.register(stdout, selectors.EVENT_READ)
            while True:
                if token.is_cancelled and stopped_at is None:
                    stopped_at = time.monotonic()
                    cast(IO[bytes], self._process.stdin).close()
                elif stopped_at is not None and time.monotonic() > stopped_at + DEADLINE:
                    self._process.kill()
                    return None
                elif token.is_held != held:
                    held = not held
                    self._say(HOLD if held else GO_ON)
                if not selector.select(TICK):
                    continue
                chunk = os.read(stdout.fileno(), 1 << 16)
                if not chunk:
                    return None
                *lines, rest = (rest + chunk).split(b"\n")
                for line in lines:
                    message: dict[str, Any] = json.loads(line)
                    if "outcome" in message:
                        return Outcome.model_validate(message["outcome"])
                    report(Progress(**message["progress"]))

    def _say(self, word: bytes) -> None:
        stdin = cast(IO[bytes], self._process.stdin)
        with suppress(OSError, ValueError):
            stdin.write(word + b"\n")
            stdin.flush()

    def _lost(self, delivery: Delivery) -> WorkerLost:
        self._remove_partial(delivery)
        return WorkerLost(
            "The encoding process ended without a message, as it does when memory runs out. "
            "Nothing was left behind: try again.",
            path=path_of(delivery),
        )

    def _remove_partial(self, delivery: Delivery) -> None:
        """What a killed process left beside its target; what it began to place is placed."""
        path = path_of(delivery)
        with suppress(OSError, DeliveryRefused), TargetRecord(path).locked():
            finish_publishing(path)
        remove_partial(partial_name(path, self._name))
