"""`waxseal demo`: the demo job in the window, or delivered where there is no screen."""

from __future__ import annotations

from pathlib import Path

from waxseal.cli.assemble import outcome_facts
from waxseal.cli.terminal import DONE, FINDINGS, STOPPED, answer, progress_line, say, stoppable
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.process.worker_process import EncodingProcess
from waxseal.core.errors import JobError
from waxseal.core.folders import demo_folder, has_screen
from waxseal.core.job.job_file import load
from waxseal.core.job.model import DeliveryState, Outcome
from waxseal.core.text_format import counted, plain
from waxseal.core.timing.ranges import write_frames
from waxseal.demo.making import NAME, demo_job, make_demo, with_stand_ins

__all__ = ["run_demo"]


def run_demo(*, headless: bool, as_json: bool) -> int:
    """Returns the exit code."""
    folder = demo_folder()
    folder.mkdir(parents=True, exist_ok=True)
    with stoppable() as token, progress_line() as report:
        job_file = make_demo(folder, report=report, token=token)
    if not headless and has_screen():
        from waxseal.app.start_window import open_window

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
    made: list[tuple[Path, Outcome]] = []
    with stoppable() as token, progress_line() as report:
        for delivery in job.deliveries:
            if token.is_cancelled:
                break
            outcome = EncodingProcess().deliver(
                job, delivery, report=report, token=token, overwrite=True
            )
            made.append((path_of(delivery), outcome))
            say(f"{plain(path_of(delivery).name)}: {outcome.state.value}")
            for sentence in (*outcome.notes, *outcome.reasons):
                say(f"  {sentence}")
    if as_json:
        every = [outcome_facts(path, outcome) for path, outcome in made]
        answer(every[0] | {"deliveries": every})
    say(f"{NAME}: {counted(len(made), 'delivery', 'deliveries')}")
    say(f"frames: {plain(folder / 'frames')}")
    say(f"job: {plain(job_file)}")
    for path, outcome in made:
        if outcome.state is DeliveryState.SEALED:
            say(f"file: {plain(path)}")
    states = {outcome.state for _, outcome in made}
    if DeliveryState.STOPPED in states or len(made) < len(job.deliveries):
        return STOPPED
    return DONE if states == {DeliveryState.SEALED} else FINDINGS
