"""Wax Seal: rendered frame sequences in, sealed delivery videos out."""

__version__ = "0.1.0"
