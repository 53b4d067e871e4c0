"""The job as a value: what it holds, the edits that give a new one, its file."""
