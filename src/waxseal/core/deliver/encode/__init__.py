"""Encodes films: in segments, which are written into a container."""
