"""The core without a window: one command an act, exit codes and `--json` for scripts."""
