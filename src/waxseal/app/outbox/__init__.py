"""The right lane: the deliveries and their seals."""
