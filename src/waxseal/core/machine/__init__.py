"""Loops over arrays as machine code: compiled once on a machine, and called without a compiler."""
