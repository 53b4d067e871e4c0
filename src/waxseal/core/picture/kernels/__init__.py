"""The innermost loops, plain and compiled: the same bits from both."""
