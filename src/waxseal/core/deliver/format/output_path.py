"""Where a delivery goes: its path by its name, its folder and its container."""

from __future__ import annotations

from pathlib import Path

from waxseal.core.deliver.codecs import Codec, codec_named
from waxseal.core.deliver.containers import CONTAINERS, Container, container_for
from waxseal.core.errors import JobError, WrongUse
from waxseal.core.job.model import Delivery

__all__ = [
    "aside_of",
    "container_of",
    "file_made",
    "file_name",
    "keys_of",
    "named_container",
    "path_of",
    "stem_of",
]

SUFFIXES = tuple(one.suffix for one in CONTAINERS.values() if one.suffix)


def keys_of(delivery: Delivery) -> set[str]:
    """What a delivery is called on the command line: its name, its file's, its spec's."""
    names = (delivery.name, path_of(delivery).name, delivery.spec)
    return {name.casefold() for name in names if name}


def stem_of(name: str) -> str:
    """A delivery's name without the suffix of a container."""
    for suffix in SUFFIXES:
        if name.lower().endswith(suffix) and len(name) > len(suffix):
            return name[: -len(suffix)]
    return name


def container_of(delivery: Delivery) -> Container:
    """Raises JobError for a codec that is not known."""
    return container_for(codec_named(delivery.codec), delivery.container)


def path_of(delivery: Delivery) -> Path:
    """Its file, or the folder of its frames; by its bare name where its codec is not known."""
    suffix = suffix_of(delivery)
    has_it = bool(suffix) and delivery.name.lower().endswith(suffix)
    name = delivery.name if has_it else f"{stem_of(delivery.name)}{suffix}"
    return Path(delivery.folder) / name


def named_container(name: str, codec: Codec) -> str:
    """The container, of those that carry a codec, that a file's name asks for; empty for none."""
    suffix = Path(name).suffix.lower()
    asked = (one for one in codec.containers if suffix and CONTAINERS[one].suffix == suffix)
    return next(asked, "")


def suffix_of(delivery: Delivery) -> str:
    try:
        return container_of(delivery).suffix
    except JobError:
        return ""


def aside_of(delivery: Delivery) -> Path:
    """Where what was made and is not good enough goes: never under the asked-for name."""
    path = path_of(delivery)
    if not suffix_of(delivery):
        return path.with_name(f"{path.name}.refused")
    return path.with_name(f"{path.stem}.refused{path.suffix}")


def file_made(delivery: Delivery) -> Path | None:
    """What has been made of a delivery: its file, else what was refused; None for nothing."""
    return next((one for one in (path_of(delivery), aside_of(delivery)) if one.exists()), None)


def file_name(text: str) -> str:
    """A delivery's name as it was typed. Raises WrongUse."""
    name = text.strip()
    if not name:
        raise WrongUse("The file has no name: give it one.")
    if "/" in name or "\0" in name or name in (".", ".."):
        raise WrongUse(f"“{text}” cannot be a file name: leave out slashes.")
    return name
