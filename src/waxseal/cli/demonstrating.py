"""`waxseal demo`: the demo job in the window, or delivered where there is no screen."""

from __future__ import annotations

from waxseal.cli.assembling import outcome_facts
from waxseal.cli.talking import DONE, FINDINGS, STOPPED, answer, progress_line, say, stoppable
from waxseal.core.deliver.naming import path_of
from waxseal.core.deliver.process.orders import EncodingProcess
from waxseal.core.errors import JobError
from waxseal.core.folders import demo_folder, has_screen
from waxseal.core.job.file import load
from waxseal.core.job.model import DeliveryState
from waxseal.core.timing.ranges import write_frames
from waxseal.core.words import plain
from waxseal.demo.making import NAME, demo_job, make_demo, with_stand_ins

__all__ = ["run_demo"]


def run_demo(*, headless: bool, as_json: bool) -> int:
    """Returns the exit code."""
    folder = demo_folder()
    folder.mkdir(parents=True, exist_ok=True)
    with stoppable() as token, progress_line() as report:
        job_file = make_demo(folder, report=report, token=token)
    if not headless and has_screen():
        from waxseal.app.main import open_window

        return open_window([job_file])
    try:
        job = load(job_file)
    except JobError:
        job_file.unlink()
        job = demo_job(folder)
    for source in job.sequences:
        say(
            f"{plain(source.files.pattern)}  {source.range}  {source.health.value}"
            + (f", to re-render: {write_frames(source.to_rerender)}" if source.to_rerender else "")
        )
        for finding in source.found.findings:
            say(f"  {finding.frame}: {finding.what}")
    job = with_stand_ins(job)
    with stoppable() as token, progress_line() as report:
        outcome = EncodingProcess().deliver(
            job, job.deliveries[0], report=report, token=token, overwrite=True
        )
    for sentence in (*outcome.notes, *outcome.reasons):
        say(sentence)
    path = path_of(job.deliveries[0])
    if as_json:
        answer(outcome_facts(path, outcome))
    say(f"{NAME}: {outcome.state.value}")
    say(f"frames: {plain(folder / 'frames')}")
    say(f"job: {plain(job_file)}")
    if outcome.state is DeliveryState.SEALED:
        say(f"file: {plain(path)}")
    if outcome.state is DeliveryState.STOPPED:
        return STOPPED
    return DONE if outcome.state is DeliveryState.SEALED else FINDINGS
