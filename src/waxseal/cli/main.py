"""The command `waxseal`: which command is meant, its words, its exit code."""

from __future__ import annotations

import sys
from collections.abc import Callable
from enum import StrEnum
from pathlib import Path
from subprocess import Popen
from typing import Annotated, NoReturn

import typer

from waxseal import __version__
from waxseal.cli.talking import DONE, FINDINGS, STOPPED, WRONG, answer, say
from waxseal.core.deliver.process import start_process
from waxseal.core.errors import Cancelled, DeliveryRefused, WaxSealError

__all__ = ["app", "main"]

app = typer.Typer(
    name="waxseal",
    help="Rendered frame sequences in, checked and sealed delivery videos out.\n\n"
    "Without a command, waxseal [PATH…] opens the window with a job, folders or frames.",
    no_args_is_help=False,
    add_completion=False,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
)
COMMANDS = ("scan", "assemble", "check", "demo")

Json = Annotated[bool, typer.Option("--json", help="One machine-readable answer on stdout.")]


@app.command()
def scan(
    paths: Annotated[list[Path], typer.Argument(metavar="PATH...")],
    expect: Annotated[
        str | None, typer.Option("--expect", help="The frames that should be there: 0-200 is 201.")
    ] = None,
    deep: Annotated[
        bool, typer.Option("--deep", help="Decode every frame, and hold it against the others.")
    ] = False,
    watch: Annotated[
        bool, typer.Option("--watch", help="Wait until all frames of --expect are there.")
    ] = False,
    list_to: Annotated[
        Path | None, typer.Option("--list", help="Write the re-render lists into this file.")
    ] = None,
    as_csv: Annotated[
        bool, typer.Option("--csv", help="A row for each source, for a spreadsheet.")
    ] = False,
    as_json: Json = False,
) -> None:
    """What is there: sequences, ranges, health, and what has to be rendered again."""

    def work() -> int:
        from waxseal.cli.scanning import Form, Wishes, run_scan
        from waxseal.core.errors import WrongUse
        from waxseal.core.timing.ranges import parse_range

        expected = parse_range(expect) if expect is not None else None
        if as_csv and as_json:
            raise WrongUse("--csv and --json exclude each other: give one of them.")
        if watch and expected is None:
            raise WrongUse("--watch needs --expect: say which frames should come, as 1-96.")
        form = Form.JSON if as_json else Form.CSV if as_csv else Form.TEXT
        wishes = Wishes(expected=expected, deep=deep, watch=watch, list_to=list_to, form=form)
        return run_scan(paths, wishes)

    finish(work, as_json=as_json)


@app.command()
def assemble(
    context: typer.Context,
    path: Annotated[Path, typer.Argument(metavar="PATH", help="A folder, or a frame.")],
    out: Annotated[Path, typer.Option("--out", help="The file to make.", metavar="FILE")],
    rate: Annotated[
        str | None, typer.Option("--rate", help="The rate the frames are read at: 24, 24000/1001.")
    ] = None,
    to_rate: Annotated[
        str | None, typer.Option("--to-rate", help="The file's rate; frames repeat or drop.")
    ] = None,
    size: Annotated[str | None, typer.Option("--size", help="The file's size: 1920x1080.")] = None,
    framing: Annotated[
        str, typer.Option("--framing", help="fit, fill, stretch or actual, in another size.")
    ] = "fit",
    range_: Annotated[
        str | None, typer.Option("--range", help="Frames of the result, from 1, as 1-48.")
    ] = None,
    reverse: Annotated[bool, typer.Option("--reverse", help="Last frame first.")] = False,
    quality: Annotated[
        str | None,
        typer.Option(
            "--quality", help="draft, good, high, master, or 0 (best) to 51; 18 if left out."
        ),
    ] = None,
    bitrate: Annotated[
        str | None, typer.Option("--bitrate", help="Instead of a quality: 5M, 800k.")
    ] = None,
    sound: Annotated[
        Path | None, typer.Option("--sound", help="A sound, laid from the start.")
    ] = None,
    no_sound: Annotated[
        bool, typer.Option("--no-sound", help="Leave out the sound beside the frames.")
    ] = False,
    stand_in: Annotated[
        str, typer.Option("--stand-in", help="For frames not there: stop, hold, nearest, black.")
    ] = "stop",
    ground: Annotated[
        str, typer.Option("--ground", help="Behind the picture: #rrggbb, black, white, grey.")
    ] = "black",
    colour: Annotated[
        str | None,
        typer.Option(
            "--colour", help="How frames are read: linear, sRGB, ACEScg, … or an OCIO space"
        ),
    ] = None,
    config: Annotated[
        Path | None, typer.Option("--config", help="An OCIO config; else that of OCIO, else ours.")
    ] = None,
    view: Annotated[
        str, typer.Option("--view", help="plain, ACES SDR or ACES HDR: how light is shown.")
    ] = "plain",
    codec: Annotated[
        str,
        typer.Option(
            "--codec", help="H.264 (8 bits), H.265 (10 bits), or EXR: a folder of frames."
        ),
    ] = "H.264",
    space: Annotated[
        str | None,
        typer.Option(
            "--space",
            help="What the codes mean: sRGB (if left out), BT.709, Display P3; "
            "with H.265 BT.2020 PQ or HLG.",
        ),
    ] = None,
    exposure: Annotated[
        float, typer.Option("--exposure", help="Stops, in scene-linear light.")
    ] = 0.0,
    gamma: Annotated[float, typer.Option("--gamma", help="Above 1 is lighter.")] = 1.0,
    lut: Annotated[
        Path | None, typer.Option("--lut", help="A look: a LUT on display-encoded values.")
    ] = None,
    burn_in: Annotated[
        str | None, typer.Option("--burn-in", help="Text: {name} {frame} {timecode} …")
    ] = None,
    between: Annotated[
        str, typer.Option("--between", help="At another rate: nearest, blend or motion.")
    ] = "nearest",
    passes: Annotated[
        bool, typer.Option("--passes", help="Put the passes of shots together.")
    ] = False,
    overwrite: Annotated[
        bool, typer.Option("--overwrite", help="Replace a file of that name.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Make a sealed video file from a folder of frames, in one step."""

    def work() -> int:
        from waxseal.cli.assembling import (
            Orders,
            looks_of,
            parse_colour,
            parse_ground,
            run_assemble,
        )
        from waxseal.core.deliver.settings import parse_bitrate, parse_quality
        from waxseal.core.errors import WrongUse
        from waxseal.core.job.model import (
            Codec,
            ConstantQuality,
            Conversion,
            Framing,
            Space,
            StandIn,
            View,
        )
        from waxseal.core.job.sizes import parse_size
        from waxseal.core.timing.ranges import parse_range
        from waxseal.core.timing.rates import parse_rate

        def one_of(text: str, option: str, kind: type[StrEnum]) -> str:
            names = {one.value.casefold(): one.value for one in kind}
            if text.casefold() not in names:
                raise WrongUse(f"--{option} {text}: choose one of {', '.join(names.values())}.")
            return names[text.casefold()]

        if quality is not None and bitrate is not None:
            raise WrongUse("A quality and a bitrate exclude each other: give one of them.")
        form = Codec(one_of(codec, "codec", Codec))
        if form is Codec.EXR and (quality is not None or bitrate is not None):
            raise WrongUse("EXR frames keep their light: leave out --quality and --bitrate.")
        if form is Codec.EXR and out.suffix.lower() in (".mp4", ".exr"):
            raise WrongUse(f"{out.name}: EXR frames go into a folder, name it {out.stem}.")
        usual = Space.LINEAR if form is Codec.EXR else Space.SRGB
        if out.suffix.lower() not in ("", ".mp4") and form is not Codec.EXR:
            raise WrongUse(f"{out.name}: this version writes MP4, name the file {out.stem}.mp4.")
        chosen = parse_bitrate(bitrate) if bitrate is not None else ConstantQuality()
        if quality is not None:
            chosen = parse_quality(quality)
        orders = Orders(
            path=path,
            out=out,
            rate=parse_rate(rate) if rate is not None else None,
            reel_rate=parse_rate(to_rate) if to_rate is not None else None,
            size=parse_size(size) if size is not None else None,
            framing=Framing(one_of(framing, "framing", Framing)),
            frames=parse_range(range_) if range_ is not None else None,
            is_reversed=reverse,
            quality=chosen,
            sound=sound,
            without_sound=no_sound,
            stand_in=StandIn(one_of(stand_in, "stand-in", StandIn)),
            ground=parse_ground(ground),
            colour=parse_colour(colour, config) if colour is not None else None,
            config=str(config.absolute()) if config is not None else "",
            view=View(one_of(view, "view", View)),
            codec=form,
            space=Space(one_of(space, "space", Space)) if space is not None else usual,
            looks=looks_of(exposure, gamma, lut, burn_in),
            between=Conversion(one_of(between, "between", Conversion)),
            with_passes=passes,
            overwrite=overwrite,
        )
        return run_assemble(orders, context.obj, as_json=as_json)

    finish(work, as_json=as_json)


@app.command()
def check(
    files: Annotated[list[Path], typer.Argument(metavar="FILE...")], as_json: Json = False
) -> None:
    """Measure a video or a folder of frames, all of it, and compare it with the seal beside it."""
    from waxseal.cli.checking import run_check

    finish(lambda: run_check(files, as_json=as_json), as_json=as_json)


@app.command()
def demo(
    headless: Annotated[
        bool, typer.Option("--headless", help="Deliver the demo without a window.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Make and open the demo job; without a screen, deliver it and say where the files are."""
    from waxseal.cli.demonstrating import run_demo

    finish(lambda: run_demo(headless=headless, as_json=as_json), as_json=as_json)


def finish(work: Callable[[], int], *, as_json: bool) -> NoReturn:
    """Do the work, and turn its end into an exit code and one sentence."""
    try:
        code = work()
    except Cancelled:
        say("stopped")
        code = STOPPED
    except WaxSealError as error:
        say(str(error))
        code = FINDINGS if isinstance(error, DeliveryRefused) else WRONG
        if as_json:
            answer({"state": "refused", "reasons": [str(error)]})
    except BrokenPipeError:
        code = DONE  # whoever read our answer has seen enough
    raise typer.Exit(code)


def end(process: Popen[bytes]) -> None:
    """Let go of a process that may have nothing to do: it ends when its input does."""
    if process.stdin is not None and not process.stdin.closed:
        process.stdin.close()


def main() -> None:
    words = sys.argv[1:]
    if words[:1] == ["assemble"] and "--help" not in words:
        with start_process() as process:  # it imports while we read the options and look
            try:
                app(obj=process)
            finally:
                end(process)
    if words and (words[0] in COMMANDS or words[0] == "--help"):
        app()
    if words == ["--version"]:
        sys.stdout.write(f"Wax Seal {__version__}\n")
        return
    if words and words[0].startswith("-"):
        say(f"“{words[0]}” is not known here: see waxseal --help.")
        sys.exit(WRONG)
    from waxseal.app.main import open_window

    sys.exit(open_window([Path(word) for word in words]))


if __name__ == "__main__":
    main()
