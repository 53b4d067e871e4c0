"""From the reel to a file: what is checked before, the encode, the process it runs in."""
