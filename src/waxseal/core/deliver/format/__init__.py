"""What a delivery is: its path, its container, its codec, all that its file will be."""
