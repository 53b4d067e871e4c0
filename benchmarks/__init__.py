"""What is measured, against what: `make bench` prints ratios to bare loops of the same run."""
