"""Whether a finished file is what was ordered."""

from __future__ import annotations

from waxseal.core.seal.expected import Expected
from waxseal.core.seal.likeness import Likeness
from waxseal.core.seal.measure.file_facts import Measured
from waxseal.core.seal.rules import RULES, Evidence

__all__ = ["judge"]


def judge(
    measured: Measured,
    expected: Expected,
    likeness: Likeness,
    poorest_psnr: float,
    flashes: tuple[str, ...] = (),
    sound: tuple[str, ...] = (),
) -> tuple[str, ...]:
    """Every way in which a file is not what was ordered, in sentences; empty when it is.

    sound: in which its samples differ from the mix.
    """
    evidence = Evidence(measured, expected, likeness, poorest_psnr, flashes, sound)
    return tuple(sentence for rule in RULES for sentence in rule(evidence))
