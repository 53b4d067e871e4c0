"""Stacks: passes put together into one source, and what is done to each."""

from __future__ import annotations

from collections.abc import Iterator

from waxseal.core.errors import JobError
from waxseal.core.job.edits.edit_tools import replace_part
from waxseal.core.job.layers import is_beauty, layer_name
from waxseal.core.job.model import Alpha, Job, Operation, Sequence, Stack, StackPass, change
from waxseal.core.job.passes import PassKind

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

Found = tuple[PassKind, str, StackPass]  # a pass, and which share of its kind it is


def passes_for(job: Job, source: str) -> Stack | None:
    """The stack that a source could be: passes of its shot, or layers of its own files.

    Light is summed, by kind or else by where it comes from, as both sum up to the beauty;
    occlusion and shadow multiply; the beauty gives its alpha where the passes have none. None
    where there are fewer than two of them.
    """
    one = job.sequence(source)
    found = list(passes_beside(job, one) if one.belongs is not None else layers_in(one))
    beauties = [entry.source for kind, _, entry in found if kind is PassKind.BEAUTY]
    beauty = beauties[0] if beauties else ""
    light = lights_in(found)
    factors = [
        change(entry, operation=Operation.MULTIPLY) for kind, _, entry in found if kind in FACTORS
    ]
    if len(light) + len(factors) < 2 or not light:
        return None
    return Stack(passes=(*light, *factors, *alpha_for(job, light, beauty)), beauty=beauty)


def passes_beside(job: Job, one: Sequence) -> Iterator[Found]:
    for other in job.sequences:
        if other.belongs is not None and one.belongs is not None:
            said = other.belongs
            if said.shot == one.belongs.shot:
                yield said.kind, said.split, StackPass(source=other.id)


def layers_in(one: Sequence) -> Iterator[Found]:
    """Those that say what they are; the picture's own, if it is the beauty, without its part."""
    said = [(part.name, layer_name(part.name) if part.name else None) for part in one.found.parts]
    surfaces = {
        name.split: part
        for part, name in said
        if name is not None and name.kind is PassKind.SURFACE and name.split
    }
    picture = one.reading.part.value
    if not picture or is_beauty(picture):
        yield PassKind.BEAUTY, "", StackPass(source=one.id)
    for part, name in said:
        if name is not None and name.kind is not PassKind.BEAUTY:
            times = surfaces.get(str(name.kind), "") if name.split else ""
            yield name.kind, name.split, StackPass(source=one.id, part=part, times=times)


def lights_in(found: list[Found]) -> list[StackPass]:
    """What sums up to the beauty: each kind whole, or what it was split into; else the groups."""
    whole = {kind for kind, split, _ in found if kind.is_light and not split}
    kinds = [
        entry for kind, split, entry in found if kind.is_light and (not split or kind not in whole)
    ]
    groups = [entry for kind, _, entry in found if kind is PassKind.LIGHT_GROUP]
    return kinds if len(kinds) > 1 or not groups else groups


def alpha_for(job: Job, light: list[StackPass], beauty: str) -> tuple[StackPass, ...]:
    """The beauty as the alpha of passes that have none of their own."""
    if not beauty or not pass_has_alpha(job, StackPass(source=beauty)):
        return ()
    if any(pass_has_alpha(job, one) for one in light):
        return ()
    return (StackPass(source=beauty, operation=Operation.ALPHA),)


def pass_has_alpha(job: Job, one: StackPass) -> bool:
    sequence = job.sequence(one.source)
    wanted = one.part or sequence.reading.part.value
    for part in sequence.found.parts:
        if part.name == wanted:
            return part.has_alpha
    return has_alpha(sequence)


def has_alpha(sequence: Sequence) -> bool:
    """Whether anything shines through it: alpha that is 1 everywhere is none."""
    if sequence.found.is_opaque:
        return False
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
