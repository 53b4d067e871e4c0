"""The encoding process: `python -m waxseal.core.deliver.process.worker`.

One line of JSON comes in: the job and which delivery. Lines of JSON go out:
progress, and at last the outcome. A line may say that the work is held for a while,
or goes on. When the input closes (Stop, or the parent is gone, however it went) the
work is cancelled and its partial file removed.
"""

from __future__ import annotations

import json
import os
import signal
import threading
import time
from collections.abc import Callable
from dataclasses import asdict
from functools import partial
from pathlib import Path
from typing import Any

from waxseal.core.deliver.compare.compare_file import compared
from waxseal.core.deliver.encode.encode_state import EncodeOptions
from waxseal.core.deliver.process.worker_messages import GO_ON, HOLD, Before
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.run.encode_available import encode_ahead
from waxseal.core.deliver.run.prediction import predicted
from waxseal.core.helpers import use_helpers
from waxseal.core.job.job_file import read_job
from waxseal.core.job.model import Outcome
from waxseal.core.library_output import silence_libraries
from waxseal.core.picture.compile_kernels import ready_kernels
from waxseal.core.progress import CancelToken, Progress

__all__ = ["main"]

ORDERS = 0  # standard input
DEADLINE = 20.0  # seconds for a cancelled delivery to clean up and end by itself
ENDED_HARD = 70


def main() -> None:
    # They reach the whole group of processes: the parent decides what they mean.
    for number in (signal.SIGINT, signal.SIGHUP, signal.SIGQUIT):
        signal.signal(number, signal.SIG_IGN)
    silence_libraries()
    answers = claim_output()
    line = read_line(ORDERS)
    if not line:
        return
    order = json.loads(line)
    os.nice(order.get("nice", 0))
    job = read_job(json.dumps(order["job"]).encode(), Path("/"))
    if order.get("carefully"):
        use_helpers(2)
    token = CancelToken()
    threading.Thread(target=wait_for_end, args=(token,), daemon=True).start()

    def say(**message: object) -> None:
        """Where nobody listens any more there is nothing to do, and nobody to tell."""
        left = json.dumps(message).encode() + b"\n"
        try:
            while left:
                left = left[os.write(answers, left) :]
        except OSError:
            token.cancel()

    def report(progress: Progress) -> None:
        say(progress=asdict(progress))

    delivery = job.delivery(order["delivery"])
    ready_kernels(report)
    before = act_before(order)
    if before is not None:
        outcome = before(job, delivery, report, token)
        say(outcome=outcome.model_dump(mode="json"))
        return
    who = EncodeOptions(**order.get("who", {}))
    beside = [job.delivery(one) for one in order.get("beside", ())]
    outcome = make_delivery(
        *(job, delivery, report, token),
        overwrite=order["overwrite"],
        who=who,
        beside=beside,
        origin=order["origin"],
    )
    say(outcome=outcome.model_dump(mode="json"))


def act_before(order: dict[str, Any]) -> Callable[..., Outcome] | None:
    """What is done before a delivery, or beside one; None for the delivery itself."""
    match order.get("before", ""):
        case Before.PREDICT:
            return predicted
        case Before.AHEAD:
            return encode_ahead
        case Before.AGAINST:
            return partial(compared, file=order.get("file", ""))
    return None


def claim_output() -> int:
    """The output for answers alone: what a library prints goes with the errors.

    A file descriptor, without a buffer that would be written when all is over.
    """
    answers = os.dup(1)
    os.dup2(2, 1)
    return answers


def read_line(source: int) -> bytes:
    """Up to the first newline; nothing is read ahead that a buffer would hold."""
    line = b""
    while not line.endswith(b"\n"):
        part = os.read(source, 1 << 16)
        if not part:
            return b""
        line += part
    return line


def wait_for_end(token: CancelToken) -> None:
    # Not through a buffered reader: its lock would be held when the process ends.
    rest = b""
    while part := os.read(ORDERS, 1024):
        *lines, rest = (rest + part).split(b"\n")
        for line in lines:
            if line == HOLD:
                token.hold()
            elif line == GO_ON:
                token.go_on()
    token.cancel()
    # Whoever ordered it is gone, or wants it to stop. What does not hear that is ended.
    time.sleep(DEADLINE)
    os._exit(ENDED_HARD)


if __name__ == "__main__":
    main()
