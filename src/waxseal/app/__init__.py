"""The window: Qt Widgets only. It draws the job and sends edits; it keeps no second truth."""

from waxseal.app.importing import spare_the_sources

spare_the_sources()
