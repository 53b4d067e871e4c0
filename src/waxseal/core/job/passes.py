"""The passes of a render: what each is, by the words that the trade gives them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum

from waxseal.core.job.values import Value

__all__ = ["Pass", "PassKind", "PassName", "is_version", "pass_name", "words_of"]


class PassKind(StrEnum):
    BEAUTY = "beauty"
    # Light: their sum is the beauty.
    DIFFUSE = "diffuse"
    SPECULAR = "specular"
    REFLECTION = "reflection"
    REFRACTION = "refraction"
    SUBSURFACE = "subsurface"
    VOLUME = "volume"
    EMISSION = "emission"
    ENVIRONMENT = "environment"
    # Light too, cut another way: by where it comes from. The sum of these is the beauty as well.
    LIGHT_GROUP = "light group"
    # Factors.
    SHADOW = "shadow"
    OCCLUSION = "occlusion"
    # No light at all.
    SURFACE = "surface colour"
    MATTE = "matte"
    ID = "id"
    DEPTH = "depth"
    NORMAL = "normal"
    POSITION = "position"
    MOTION = "motion"
    UV = "uv"

    @property
    def is_light(self) -> bool:
        """Whether it is light of one kind, which sums up to the beauty with the other kinds."""
        return self in LIGHT

    @property
    def is_data(self) -> bool:
        """Whether its values are no colours."""
        return self in DATA


LIGHT = (
    *(PassKind.DIFFUSE, PassKind.SPECULAR, PassKind.REFLECTION, PassKind.REFRACTION),
    *(PassKind.SUBSURFACE, PassKind.VOLUME, PassKind.EMISSION, PassKind.ENVIRONMENT),
)
DATA = (
    *(PassKind.MATTE, PassKind.ID, PassKind.DEPTH, PassKind.NORMAL),
    *(PassKind.POSITION, PassKind.MOTION, PassKind.UV),
)


class Pass(Value):
    """That a source is one of the passes of a shot.

    shot: what its passes have in common: a name. split: which share of its kind's light it is.
    """

    kind: PassKind
    shot: str
    split: str = ""


@dataclass(frozen=True, slots=True)
class PassName:
    """What a name says of a pass. rest: the name without it.

    split: `direct` or `indirect`, or the light that it is of; empty for all of its kind.
    """

    kind: PassKind
    rest: str
    split: str = ""


# Common practice, no source: how renderers and people name them.
WORDS = {
    PassKind.BEAUTY: ("beauty", "rgba", "rgb", "combined", "main"),
    PassKind.DIFFUSE: ("diffuse", "diff", "dif"),
    PassKind.SPECULAR: ("specular", "spec", "highlight", "coat", "glossy", "gloss"),
    PassKind.REFLECTION: ("reflection", "reflect", "refl"),
    PassKind.REFRACTION: ("refraction", "refract", "refr", "transmission", "transm", "trans"),
    PassKind.SUBSURFACE: ("subsurface", "sss"),
    PassKind.VOLUME: ("volume", "volumetric", "vol"),
    PassKind.EMISSION: ("emission", "emit", "emissive", "incandescence", "selfillum"),
    PassKind.ENVIRONMENT: ("environment", "env"),
    PassKind.LIGHT_GROUP: ("lightgroup", "lg"),
    PassKind.SHADOW: ("shadow", "shadows", "shad"),
    PassKind.OCCLUSION: ("occlusion", "ao", "ambocc"),
    PassKind.SURFACE: ("albedo",),
    PassKind.MATTE: ("matte", "mattes", "mask", "alpha"),
    PassKind.ID: ("id", "ids", "cryptomatte", "objectid", "materialid"),
    PassKind.DEPTH: ("depth", "z", "zdepth", "mist"),
    PassKind.NORMAL: ("normal", "normals", "n"),
    PassKind.POSITION: ("position", "pos", "pworld", "p"),
    PassKind.MOTION: ("motion", "velocity", "vector", "vectors"),
    PassKind.UV: ("uv", "uvs", "st"),
}
KINDS = {word: kind for kind, words in WORDS.items() for word in words}
SPLITS = {
    **dict.fromkeys(("direct", "dir"), "direct"),
    **dict.fromkeys(("indirect", "indir", "ind"), "indirect"),
}
OF_SURFACE = ("col", "color", "colour")  # behind a kind of light: what it falls on
VERSION = re.compile(r"[vV]\d+")
WORD = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+|\d+")  # `DiffDir` is two, `AO` is one


def pass_name(name: str) -> PassName | None:
    """What a name says: `sh010_diffuse` is diffuse of sh010, `DiffDir` the direct part of it.

    None where it says nothing. A word counts as a whole: at the end, else at the
    beginning, apart from the rest by a separator, or all there is. A version (`v003`) may stand
    anywhere: it stays with the rest.
    """
    every = words_of(name)
    versions = [one for one in every if is_version(one)]
    parts = [one for one in every if not is_version(one)]
    splits = [SPLITS[one.casefold()] for one in parts if one.casefold() in SPLITS]
    left = [one for one in parts if one.casefold() not in SPLITS]
    split = splits[0] if splits else ""
    for at in (-1, 0):
        if not left:
            return None
        rest = left[:-1] if at == -1 else left[1:]
        found = pass_kind_of(left[at])
        if found is None:
            continue
        kind, own = found
        if kind is PassKind.LIGHT_GROUP:  # what is beside it is the light's name
            return PassName(kind, "", "_".join(rest)) if at == 0 else None
        return PassName(kind, "_".join((*rest, *versions)), own or split)
    return None


def is_version(word: str) -> bool:
    return VERSION.fullmatch(word) is not None


def words_of(name: str) -> list[str]:
    return [one for one in re.split(r"[._\- ]+", name) if one]


def pass_kind_of(word: str) -> tuple[PassKind, str] | None:
    """The kind that one word says, and its split: `DiffDir`, `GlossCol`, `CryptoObject00`."""
    known = KINDS.get(word.casefold())
    if known is not None:
        return known, ""
    if word.casefold().startswith(("crypto", "index")):
        return PassKind.ID, ""
    parts = [one.casefold() for one in WORD.findall(word) if not one.isdigit()]
    if len(parts) != 2:
        return None
    kind, of_it = KINDS.get(parts[0]), parts[1]
    if kind is None or not kind.is_light:
        return None
    if of_it in OF_SURFACE:
        return PassKind.SURFACE, str(kind)
    return (kind, SPLITS[of_it]) if of_it in SPLITS else None
