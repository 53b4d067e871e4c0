"""The best quality that a limit of bytes leaves room for, and what to do if none does."""
