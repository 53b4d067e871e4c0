"""Folders to sources: which sequences and sounds there are, and whether they are whole."""
