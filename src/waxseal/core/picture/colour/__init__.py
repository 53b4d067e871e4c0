"""Curves, primaries, spaces and views."""
