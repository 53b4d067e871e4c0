"""One frame of anything: its header, whether it is whole, its pixels; and pixels to a file."""
