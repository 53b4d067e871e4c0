"""Gives a finished file its name, and never takes another's."""
