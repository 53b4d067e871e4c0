"""The picture in the middle: the viewer and its transport."""
