"""Rates, ranges, timecode and rate matching, all in exact rationals.

Nothing here knows of files, pictures or jobs.
"""
