"""The passes of a render: what each is, by the words that the trade gives them."""

from __future__ import annotations

import re
from enum import StrEnum

from waxseal.core.job.values import Value

__all__ = ["Pass", "PassKind", "pass_kind"]


class PassKind(StrEnum):
    BEAUTY = "beauty"
    # Light: their sum is the beauty.
    DIFFUSE = "diffuse"
    SPECULAR = "specular"
    REFLECTION = "reflection"
    REFRACTION = "refraction"
    SUBSURFACE = "subsurface"
    EMISSION = "emission"
    # Factors.
    SHADOW = "shadow"
    OCCLUSION = "occlusion"
    # No light at all.
    MATTE = "matte"
    DEPTH = "depth"
    NORMAL = "normal"
    MOTION = "motion"

    @property
    def is_data(self) -> bool:
        """Whether its values are no colours."""
        return self in (PassKind.MATTE, PassKind.DEPTH, PassKind.NORMAL, PassKind.MOTION)


class Pass(Value):
    """That a source is one of the passes of a shot."""

    kind: PassKind
    shot: str  # what its passes have in common: a name


# Common practice, no source: how renderers and people name them.
WORDS = {
    PassKind.BEAUTY: ("beauty", "rgba", "rgb", "combined", "main"),
    PassKind.DIFFUSE: ("diffuse", "diff", "dif"),
    PassKind.SPECULAR: ("specular", "spec", "highlight", "coat"),
    PassKind.REFLECTION: ("reflection", "reflect", "refl"),
    PassKind.REFRACTION: ("refraction", "refract", "refr", "transmission"),
    PassKind.SUBSURFACE: ("subsurface", "sss"),
    PassKind.EMISSION: ("emission", "emit", "emissive", "incandescence", "selfillum"),
    PassKind.SHADOW: ("shadow", "shadows", "shad"),
    PassKind.OCCLUSION: ("occlusion", "ao", "ambocc"),
    PassKind.MATTE: ("matte", "mattes", "mask", "id", "alpha"),
    PassKind.DEPTH: ("depth", "z", "zdepth"),
    PassKind.NORMAL: ("normal", "normals", "n"),
    PassKind.MOTION: ("motion", "velocity", "vector", "vectors"),
}
KINDS = {word: kind for kind, words in WORDS.items() for word in words}


def pass_kind(name: str) -> tuple[PassKind, str] | None:
    """The kind that a name says, and the name without it: `sh010_diffuse` is diffuse of sh010.

    None where it says none. A word counts as a whole: at the end, else at the
    beginning, apart from the rest by a separator, or all there is.
    """
    parts = re.split(r"[._\- ]+", name.strip("._- "))
    for at in (-1, 0):
        kind = KINDS.get(parts[at].casefold())
        if kind is not None:
            rest = parts[:-1] if at == -1 else parts[1:]
            return kind, "_".join(rest)
    return None
