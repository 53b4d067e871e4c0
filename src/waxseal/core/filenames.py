"""File names: which are looked at and as what, and how libraries are given them.

What a file really is, its content says.
"""

from __future__ import annotations

__all__ = ["FRAME_SUFFIXES", "MOVIE_SUFFIXES", "SOUND_SUFFIXES"]

FRAME_SUFFIXES = frozenset(
    {".exr", ".png", ".tif", ".tiff", ".jpg", ".jpeg"}
    | {".dpx", ".tga", ".iff", ".bmp", ".webp", ".psd"}
)
MOVIE_SUFFIXES = frozenset(
    {".mp4", ".m4v", ".mov", ".mkv", ".webm", ".avi", ".mxf"}
    | {".mpg", ".mpeg", ".ts", ".m2ts", ".mts", ".wmv", ".ogv", ".gif", ".apng"}
)
SOUND_SUFFIXES = frozenset(
    {".wav", ".flac", ".aif", ".aiff", ".mp3", ".ogg", ".opus", ".m4a", ".aac", ".w64"}
)
