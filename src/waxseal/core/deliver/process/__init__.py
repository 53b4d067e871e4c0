"""The process that a delivery is made in: starting it, ordering from it, and what it does."""
