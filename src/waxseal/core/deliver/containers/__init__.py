"""The containers that a delivery can have."""

from __future__ import annotations

from waxseal.core.deliver.codecs import Codec
from waxseal.core.deliver.containers.container import Container
from waxseal.core.deliver.containers.container_table import TABLE as CONTAINERS
from waxseal.core.errors import JobError

__all__ = ["CONTAINERS", "Container", "container_for"]


def container_for(codec: Codec, name: str = "") -> Container:
    """A codec's container of that name, in whatever case, or its usual one. Raises JobError."""
    wanted = name or codec.containers[0]
    for known in codec.containers:
        if known.casefold() == wanted.casefold():
            return CONTAINERS[known]
    names = " or ".join(codec.containers)
    raise JobError(f"{codec.name} does not go into {wanted}: choose {names}.")
