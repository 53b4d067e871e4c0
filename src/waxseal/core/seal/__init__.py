"""Measuring a finished file, judging it, and the record that it was checked and is unchanged."""
