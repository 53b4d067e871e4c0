"""A source's frame as light, and several frames put together."""
