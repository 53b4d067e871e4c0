"""What finished files are: opened afresh, every frame decoded, nothing judged."""
