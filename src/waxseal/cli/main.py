"""The command `waxseal`: the window, or one of the commands.

Imports next to nothing: an encoding process begins before the commands are read in, and the
window does not need them.
"""

from __future__ import annotations

import gc
import sys
from pathlib import Path
from subprocess import Popen

from waxseal import __version__
from waxseal.cli.talking import WRONG, fill_standard_files, say
from waxseal.core.deliver.process.start import start_process
from waxseal.core.ending import end_quickly

__all__ = ["main"]

RARELY = 10_000  # objects: what modules bring along is never waste
COMMANDS = ("scan", "new", "show", "deliver", "assemble", "check", "specs", "key", "demo")


def main() -> None:
    fill_standard_files()
    gc.set_threshold(RARELY)
    end_quickly()
    words = sys.argv[1:]
    if words[:1] == ["assemble"] and "--help" not in words:
        with start_process() as process:  # it imports while we read the options and look
            try:
                run_command(process)
            finally:
                end(process)
    if words and (words[0] in COMMANDS or words[0] == "--help"):
        run_command(None)
    if words == ["--version"]:
        sys.stdout.write(f"Wax Seal {__version__}\n")
        return
    if words and words[0].startswith("-"):
        say(f"“{words[0]}” is not known here: see waxseal --help.")
        sys.exit(WRONG)
    gc.disable()  # what the window needs of it is done in app.tidying
    from waxseal.app.main import open_window

    sys.exit(open_window([Path(word) for word in words]))


def run_command(process: Popen[bytes] | None) -> None:
    """Raises SystemExit with the exit code. process: for encoding, where it is there already."""
    from typer import BadParameter, TyperException

    from waxseal.cli.commands import app

    try:
        code = app(obj=process, standalone_mode=False)
    except TyperException as error:
        words = error.format_message() if isinstance(error, BadParameter) else str(error)
        say(f"{words.rstrip('.')}. See waxseal {sys.argv[1]} --help.")
        code = WRONG
    sys.exit(code)


def end(process: Popen[bytes]) -> None:
    """Let go of a process that may have nothing to do: it ends when its input does."""
    if process.stdin is not None and not process.stdin.closed:
        process.stdin.close()


if __name__ == "__main__":
    main()
