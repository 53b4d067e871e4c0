"""A file compared with the reel that it was made of."""
