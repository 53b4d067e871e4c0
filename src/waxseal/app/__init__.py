"""The window: Qt Widgets only. It draws the job and sends edits; it keeps no second truth."""
