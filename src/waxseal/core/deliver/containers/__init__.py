"""The containers that a delivery can have: a file each, and a line in the table here."""

from __future__ import annotations

from waxseal.core.deliver.codecs import Codec
from waxseal.core.deliver.containers.container import Container, Writer
from waxseal.core.deliver.containers.frames import FRAMES
from waxseal.core.deliver.containers.mp4 import MP4

__all__ = ["CONTAINERS", "Container", "Writer", "container_for"]

CONTAINERS: dict[str, Container] = {one.name: one for one in (MP4, FRAMES)}


def container_for(codec: Codec) -> Container:
    """The usual container of a codec."""
    return CONTAINERS[codec.containers[0]]
