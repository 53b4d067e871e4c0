"""What the corrections of a finish do to light."""
