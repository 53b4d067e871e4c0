"""What destinations take: the spec book, its files, and deliveries that are made to a spec."""
