"""A stack lacks nothing in silence: every pass is there, fits, or is said."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.run.preflight import preflight
from waxseal.core.errors import DeliveryRefused
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import (
    add_delivery,
    add_sources,
    change_pass,
    change_reading,
    make_stack,
    put_on_reel,
    take_in,
)
from waxseal.core.job.model import (
    BT709,
    Alpha,
    Colour,
    DeliveryState,
    Job,
    Operation,
    Stack,
    StackPass,
    StandIn,
)
from waxseal.core.job.pass_mismatches import misfits
from waxseal.core.job.rerender_list import rerender_text
from waxseal.core.picture.light.pass_stacking import PassLight, multiply
from waxseal.core.plan.filestates import state_of
from waxseal.core.plan.programme import programme
from waxseal.core.plan.recipe import PassPick, Pick, Read
from waxseal.core.plan.recipe_differences import reel_differences
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.record import read_seal
from waxseal.core.timing.ranges import FrameRange

Size = tuple[int, int]
USUAL: Size = (32, 18)


def write(folder: Path, name: str, sizes: dict[int, Size]) -> None:
    (folder / name).mkdir(parents=True)
    for frame, (width, height) in sizes.items():
        values = np.full((height, width, 3), 0.2, np.float16)
        write_pixels(folder / name / f"{name}.{frame:04d}.exr", values)


def stack_of(folder: Path, second: dict[int, Size]) -> Job:
    """Two passes on the reel as one stack, and a delivery; `second`: sizes by frame."""
    write(folder, "one", dict.fromkeys(range(1, 9), USUAL))
    write(folder, "two", second)
    found = {source.name: source for source in scan([folder]).sources}
    job = add_sources(Job(), sources=[found["one"], found["two"]])
    stack = Stack(passes=(StackPass(source="s1"), StackPass(source="s2")))
    job = make_stack(put_on_reel(job, sources=["s1"]), source="s1", stack=stack)
    return add_delivery(job, name="film", folder=str(folder))


def reasons(job: Job) -> str:
    with pytest.raises(DeliveryRefused) as refused:
        preflight(job, job.deliveries[0])
    return str(refused.value)


WHOLE = dict.fromkeys(range(1, 9), USUAL)
CASES = {
    "a whole pass of another size": (dict.fromkeys(WHOLE, (16, 9)), "1-8", "16 × 9, not 32"),
    "one frame of another size": ({**WHOLE, 5: (16, 9)}, "5", "is not 32 × 18"),
    "one frame missing": ({k: v for k, v in WHOLE.items() if k != 5}, "5", "missing"),
}


@pytest.mark.parametrize("case", CASES)
def test_a_pass_that_does_not_fit_refuses_the_delivery(tmp_path: Path, case: str) -> None:
    sizes, frames, why = CASES[case]
    job = stack_of(tmp_path, sizes)
    said = reasons(job)
    assert "two" in said
    assert why in said
    text = rerender_text(job.sequences, misfits(job))
    assert f"re-render: {frames}\n" in text


def test_a_pass_that_does_not_fit_is_said_in_both_dockets(tmp_path: Path) -> None:
    job = stack_of(tmp_path, {**WHOLE, 5: (16, 9)})
    for source in job.sequences:
        (said,) = [words for words in reel_differences(job, source) if "stack" in words]
        assert said.startswith("two 5 is not 32 × 18")


def test_a_pass_that_is_left_out_is_no_trouble(tmp_path: Path) -> None:
    job = stack_of(tmp_path, dict.fromkeys(WHOLE, (16, 9)))
    job = change_pass(job, source="s1", number=1, on=False)
    assert preflight(job, job.deliveries[0])


@pytest.mark.parametrize("case", ["one frame of another size", "one frame missing"])
def test_a_stand_in_for_a_pass_is_named_by_the_seal(tmp_path: Path, case: str) -> None:
    job = stack_of(tmp_path, CASES[case][0])
    job = change_reading(job, source="s2", stand_in=StandIn.HOLD)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    record = read_seal(path_of(job.deliveries[0]))
    assert record is not None
    notes = " ".join(record["notes"])
    assert "two" in notes
    assert "5" in notes
    assert "the frame before stands in" in notes


def test_a_frame_that_turns_out_to_be_of_another_size_is_refused_by_name(tmp_path: Path) -> None:
    """Its header was right when it was looked at."""
    job = stack_of(tmp_path, WHOLE)
    write_pixels(tmp_path / "two" / "two.0005.exr", np.zeros((9, 16, 3), np.float16))
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.REFUSED
    assert "two: frame 5 could not be read (This pass is 16 × 9" in " ".join(outcome.reasons)


@pytest.mark.parametrize("seed", range(12))
def test_no_picture_of_a_stack_with_holes_is_without_a_note(tmp_path: Path, seed: int) -> None:
    """Whatever is not the frame itself is a frame that is missing, and said to be."""
    chance = np.random.default_rng(seed)
    names = ("beauty", "diffuse", "specular", "occlusion")
    for name in names:
        there = [frame for frame in range(1, 9) if chance.random() > 0.2] or [1]
        write(tmp_path, f"sh_{name}", dict.fromkeys({1, 8, *there}, USUAL))
        for end in {1, 8} - set(there):
            (tmp_path / f"sh_{name}" / f"sh_{name}.{end:04d}.exr").write_bytes(b"cut")
    job = take_in(Job(), sources=scan([tmp_path]).sources, folder=str(tmp_path))
    lead = job.reel.shots[0].source
    job = make_stack(job, source=lead)
    for source in job.sequences:
        stand_in = list(StandIn)[int(chance.integers(0, 4))]
        job = change_reading(job, source=source.id, stand_in=stand_in)
    planned = programme(job)
    stack = job.sequence(lead).stack
    assert stack is not None
    for frame in planned.timeline.frames:
        asked = planned.timeline.shot_at(frame).ask(frame).frame
        missing = {one.sequence.id for one in planned.missing(FrameRange(frame, frame))}
        shot = planned.recipe(frame).shot
        passes = () if shot is None else shot.shown
        shown = {one.pick.source for one in passes if one.pick.frame == asked}  # type: ignore[union-attr]
        for one in stack.passes:
            assert one.source in shown or one.source in missing, (frame, one)
        if passes:
            light = [one for one in passes if one.operation is Operation.SUM]  # type: ignore[union-attr]
            assert light, "a factor alone would be full light"


def test_a_refusal_names_the_pass(tmp_path: Path) -> None:
    """In folders `diffuse/sh.####` all passes have the name of the shot."""
    for kind in ("beauty", "diffuse", "specular"):
        write(tmp_path, kind, WHOLE)
        for path in (tmp_path / kind).iterdir():
            path.rename(path.with_name(path.name.replace(kind, "sh")))
    (tmp_path / "specular" / "sh.0005.exr").unlink()
    job = take_in(Job(), sources=scan([tmp_path]).sources, folder=str(tmp_path))
    job = make_stack(job, source=job.reel.shots[0].source)
    assert "1 frame of sh (specular) cannot be used (5 is missing)" in reasons(job)


def test_a_factor_with_alpha_is_what_it_covers() -> None:
    """Premultiplied, as a render is: 0.5 of occlusion at half alpha dims by 0.5."""
    read = Read(Alpha.PREMULTIPLIED, Colour.LINEAR, BT709)
    nothing = Pick(state_of(""), 1, read)
    whole = np.full((1, 3, 4), 0.8, np.float32)
    factor = np.array([[[0.25] * 3 + [0.5], [0.5] * 3 + [1], [0] * 4]], np.float32)
    for is_inverted, dims in ((False, (0.5, 0.5, 1)), (True, (0.5, 0.5, 1))):
        one = PassPick(nothing, Operation.MULTIPLY, inverted=is_inverted)
        made = multiply(whole, factor, PassLight(one, factor, np.ones(3, np.float32)))
        np.testing.assert_allclose(made[0, :, 0] / 0.8, dims)
