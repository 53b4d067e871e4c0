"""One delivery from its checks to its seal, and what can be said before."""
