"""What a delivery will look like, and what its file looks like."""
