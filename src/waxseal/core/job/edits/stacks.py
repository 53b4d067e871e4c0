"""Stacks: passes put together into one source, and what is done to each."""

from __future__ import annotations

from waxseal.core.errors import JobError
from waxseal.core.job.edits.parts import replace_part
from waxseal.core.job.model import Alpha, Job, Operation, Sequence, Stack, StackPass, change
from waxseal.core.job.passes import PassKind, pass_kind

__all__ = [
    "add_pass",
    "change_pass",
    "make_stack",
    "move_pass",
    "passes_for",
    "remove_pass",
    "set_beauty",
    "switch_stack",
    "unmake_stack",
]

FACTORS = (PassKind.SHADOW, PassKind.OCCLUSION)
LIGHT = (
    PassKind.DIFFUSE,
    PassKind.SPECULAR,
    PassKind.REFLECTION,
    PassKind.REFRACTION,
    PassKind.SUBSURFACE,
    PassKind.EMISSION,
)


def passes_for(job: Job, source: str) -> Stack | None:
    """The stack that a source could be: passes of its shot, or parts of its own files.

    Light is summed, occlusion and shadow multiply; the beauty gives its alpha where
    the passes have none. None where there are fewer than two of them.
    """
    one = job.sequence(source)
    found: list[tuple[PassKind, StackPass]] = []
    beauty = ""
    if one.belongs is not None:
        for other in job.sequences:
            if other.belongs is not None and other.belongs.shot == one.belongs.shot:
                found.append((other.belongs.kind, StackPass(source=other.id)))
                if other.belongs.kind is PassKind.BEAUTY:
                    beauty = other.id
    else:
        for part in one.found.parts:
            known = pass_kind(part.name) if part.name else None
            if known is not None:
                found.append((known[0], StackPass(source=one.id, part=part.name)))
    light = [entry for kind, entry in found if kind in LIGHT]
    factors = [
        change(entry, operation=Operation.MULTIPLY) for kind, entry in found if kind in FACTORS
    ]
    if len(light) + len(factors) < 2 or not light:
        return None
    return Stack(passes=(*light, *factors, *alpha_for(job, light, beauty)), beauty=beauty)


def alpha_for(job: Job, light: list[StackPass], beauty: str) -> tuple[StackPass, ...]:
    """The beauty as the alpha of passes that have none of their own."""
    if not beauty or not has_alpha(job.sequence(beauty)):
        return ()
    if any(has_alpha(job.sequence(one.source)) for one in light):
        return ()
    return (StackPass(source=beauty, operation=Operation.ALPHA),)


def has_alpha(sequence: Sequence) -> bool:
    return "A" in sequence.found.channels and sequence.reading.alpha.value is not Alpha.NONE


def make_stack(job: Job, *, source: str, stack: Stack | None = None) -> Job:
    """Let a source be put together from passes. Raises JobError where none are known."""
    stack = stack or passes_for(job, source)
    if stack is None:
        raise JobError(
            f"{job.sequence(source).name} has no passes: bring them in beside it, named alike."
        )
    return with_stack(job, source, stack)


def unmake_stack(job: Job, *, source: str) -> Job:
    return with_stack(job, source, None)


def with_stack(job: Job, source: str, stack: Stack | None) -> Job:
    one: Sequence = change(job.sequence(source), stack=stack)
    return change(job, sources=replace_part(job.sources, one))


def stack_of(job: Job, source: str) -> Stack:
    stack = job.sequence(source).stack
    if stack is None:
        raise JobError(f"{job.sequence(source).name} is not put together from passes.")
    return stack


def switch_stack(job: Job, *, source: str, on: bool) -> Job:
    """Show the passes put together, or the source's own frames."""
    return with_stack(job, source, change(stack_of(job, source), on=on))


def set_beauty(job: Job, *, source: str, beauty: str) -> Job:
    """Say which source the sum of the passes should equal; empty: none is known."""
    return with_stack(job, source, change(stack_of(job, source), beauty=beauty))


def change_pass(job: Job, *, source: str, number: int, **values: object) -> Job:
    """Another operation, gain, tint, … of one pass, counted from 0."""
    stack = stack_of(job, source)
    passes = list(stack.passes)
    if not 0 <= number < len(passes):
        raise JobError(f"There is no pass {number + 1}.")
    passes[number] = change(passes[number], **values)
    return with_stack(job, source, change(stack, passes=tuple(passes)))


def add_pass(job: Job, *, source: str, added: StackPass) -> Job:
    stack = stack_of(job, source)
    return with_stack(job, source, change(stack, passes=(*stack.passes, added)))


def remove_pass(job: Job, *, source: str, number: int) -> Job:
    """Take a pass out; with the last one the stack goes."""
    stack = stack_of(job, source)
    passes = tuple(one for at, one in enumerate(stack.passes) if at != number)
    return with_stack(job, source, change(stack, passes=passes) if passes else None)


def move_pass(job: Job, *, source: str, number: int, to: int) -> Job:
    """Give a pass another place in the order, both counted from 0."""
    stack = stack_of(job, source)
    passes = list(stack.passes)
    passes.insert(max(0, min(to, len(passes))), passes.pop(number))
    return with_stack(job, source, change(stack, passes=tuple(passes)))
