"""Recipe to pixels for a target. Nothing else in Wax Seal makes a pixel."""
