"""The layers of one file, or its parts: what each is, and which of them is the picture."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from waxseal.core.job.passes import PassKind, PassName, pass_name, words_of
from waxseal.core.job.sources import Part

__all__ = ["Chosen", "chosen_picture", "is_beauty", "is_picture", "layer_name", "short_name"]

PICTURE = ({"r", "g", "b"}, {"red", "green", "blue"}, {"y"})
AXES = {"x", "z"}  # beside which y is none of brightness
# Of the picture itself, where a layer has no other name. Common practice, no source.
WHOLE, FINISHED = ("colour", "color"), ("final", "composite")


@dataclass(frozen=True, slots=True)
class Chosen:
    """part: what is taken for the picture. why: in a few words. is_guess: to be confirmed."""

    part: Part
    why: str
    is_guess: bool = False


def chosen_picture(parts: Sequence[Part]) -> Chosen:
    """Which of the parts of a file, one at least, is its picture.

    The plain one; else the one that says so; else the only one that can be; else it is a guess.
    Data (depth, normals, ids, …) is taken only where there is nothing else, and asked for.
    """
    pictures = [one for one in parts if is_picture(one)]
    plain = [one for one in pictures if not one.name]
    if plain:
        return Chosen(plain[0], "the picture without a name")
    beauties = [one for one in pictures if is_beauty(one.name)]
    finished = [one for one in beauties if has_word_of(one.name, FINISHED)]
    for said in (finished, beauties):
        if len(said) == 1:
            return Chosen(said[0], "its name says that it is the picture")
    if len(pictures) == 1:
        return Chosen(pictures[0], "the only picture in the file")
    why = "several can be the picture" if pictures else "none of them is a picture"
    return Chosen((beauties or pictures or list(parts))[0], why, is_guess=True)


def has_word_of(name: str, words: tuple[str, ...]) -> bool:
    return any(one.casefold() in words for one in words_of(name))


def is_beauty(name: str) -> bool:
    said = layer_name(name)
    return said is not None and said.kind is PassKind.BEAUTY


def is_picture(part: Part) -> bool:
    """Whether it has colours, by its channels, and is no data by its name or its numbers."""
    short = {short_name(channel) for channel in part.channels}
    said = layer_name(part.name) if part.name else None
    is_data = said is not None and said.kind.is_data
    is_data = is_data or part.is_whole_numbers
    return not is_data and not short & AXES and any(colours <= short for colours in PICTURE)


def layer_name(name: str) -> PassName | None:
    """What a layer's name says, behind the name of a view or a file: `View.Combined`.

    `Combined_key` is the light of key alone, where a file's name would be the beauty of key.
    """
    last = name.rpartition(".")[2]
    words = words_of(last)
    said = pass_name(last) or pass_name(name)
    if said is None and (last.casefold() in WHOLE or has_word_of(name, FINISHED)):
        return PassName(PassKind.BEAUTY, "")
    if said is not None and said.kind is PassKind.BEAUTY and len(words) > 1:
        ends = pass_name(words[-1])
        if ends is None:
            return PassName(PassKind.LIGHT_GROUP, "", said.rest)
    return said


def short_name(channel: str) -> str:
    return channel.rpartition(".")[2].casefold()
