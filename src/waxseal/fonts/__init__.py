"""The fonts that come with the application, for the window and for pictures."""
