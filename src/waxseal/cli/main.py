"""The command `waxseal`: the window, or one of the commands."""

from __future__ import annotations

import sys
from pathlib import Path

from waxseal import __version__
from waxseal.cli.terminal import WRONG, fill_standard_files, say
from waxseal.core.library_output import silence_libraries

__all__ = ["main"]

COMMANDS = ("scan", "new", "show", "deliver", "assemble", "check", "specs", "key", "demo")


def main() -> None:
    fill_standard_files()
    words = sys.argv[1:]
    if words and (words[0] in COMMANDS or words[0] == "--help"):
        silence_libraries()
        run_command()
    if words == ["--version"]:
        sys.stdout.write(f"Wax Seal {__version__}\n")
        return
    if words and words[0].startswith("-"):
        say(f"“{words[0]}” is not known here: see waxseal --help.")
        sys.exit(WRONG)
    gone = next((word for word in words if not Path(word).exists()), None)
    if gone is not None:
        say(f"“{gone}” is neither a command nor an existing file. See waxseal --help.")
        sys.exit(WRONG)
    from waxseal.app.start_window import open_window  # Qt: only where there is a window

    sys.exit(open_window([Path(word) for word in words]))


def run_command() -> None:
    """Raises SystemExit with the exit code."""
    from typer import BadParameter, TyperException

    from waxseal.cli.commands import app

    try:
        code = app(standalone_mode=False)
    except TyperException as error:
        words = error.format_message() if isinstance(error, BadParameter) else str(error)
        say(f"{words.rstrip('.')}. See waxseal {sys.argv[1]} --help.")
        code = WRONG
    sys.exit(code)


if __name__ == "__main__":
    main()
