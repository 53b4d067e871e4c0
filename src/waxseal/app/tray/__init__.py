"""The left lane: what has arrived."""
