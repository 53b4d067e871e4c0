"""A movie in segments: each encoded by itself, kept by its key, and joined.

A segment depends on its own frames and settings alone. So it is the same bytes whoever
encodes it and when, and one that was encoded before is never encoded again.
"""
