"""The commands: their options, the work that each begins, and their exit codes."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Annotated, NoReturn

import typer

from waxseal.cli import options
from waxseal.cli.terminal import (
    DONE,
    FINDINGS,
    STOPPED,
    WRONG,
    answer,
    say,
)
from waxseal.core.errors import Cancelled, DeliveryRefused, WaxSealError
from waxseal.core.private_folder import folder_troubles

__all__ = ["app"]

app = typer.Typer(
    name="waxseal",
    no_args_is_help=False,
    add_completion=False,
    rich_markup_mode="markdown",
    pretty_exceptions_enable=False,
)
Json = options.Json


@app.callback()
def about(
    version: Annotated[  # answered before any command is read, see `main`
        bool, typer.Option("--version", help="Show the version and exit.")
    ] = False,
) -> None:
    """Rendered frame sequences in, checked and sealed delivery videos out.

    Without a command, waxseal [PATH…] opens the window with a job, folders or frames.
    """


@app.command()
def scan(
    paths: Annotated[list[Path], typer.Argument(metavar="PATH...")],
    expect: Annotated[
        str | None, typer.Option("--expect", help="The frames that should be there: 0-200 is 201.")
    ] = None,
    deep: Annotated[
        bool, typer.Option("--deep", help="Decode every frame and compare it with the others.")
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
    """List sequences, their ranges and findings, and what has to be rendered again."""

    def work() -> int:
        from waxseal.cli.scan_command import AnswerFormat, Wishes, run_scan
        from waxseal.core.errors import WrongUse
        from waxseal.core.timing.ranges import parse_range

        expected = parse_range(expect) if expect is not None else None
        if as_csv and as_json:
            raise WrongUse("--csv and --json exclude each other: give one of them.")
        if watch and expected is None:
            raise WrongUse("--watch needs --expect: say which frames should come, as 1-96.")
        form = AnswerFormat.JSON if as_json else AnswerFormat.CSV if as_csv else AnswerFormat.TEXT
        wishes = Wishes(expected=expected, deep=deep, watch=watch, list_to=list_to, form=form)
        return run_scan(paths, wishes)

    finish(work, as_json=as_json)


@app.command()
def new(
    job: Annotated[Path, typer.Argument(metavar="JOB")],
    paths: Annotated[list[Path], typer.Argument(metavar="PATH...")],
    rate: options.Rate = None,
    size: options.Size = None,
    join: options.JoinBy = "cut",
    spec: options.Specs = None,
    passes: options.Passes = False,
    sound: options.Sounds = None,
    no_sound: options.NoSound = False,
    accept_damaged_sound: options.AcceptDamagedSound = False,
    overwrite: options.Overwrite = False,
    as_json: Json = False,
) -> None:
    """Create a job from sources, with a delivery for each --spec.

    Of several versions of a render (sh010_v002, sh010_v003) the newest goes on the reel.
    """

    def work() -> int:
        from waxseal.cli.assemble_order import parse_join
        from waxseal.cli.job_commands import NewWishes, run_new
        from waxseal.cli.sound_options import read_sound_orders
        from waxseal.core.job.sizes import parse_size
        from waxseal.core.timing.rates import parse_rate

        wishes = NewWishes(
            rate=parse_rate(rate) if rate is not None else None,
            size=parse_size(size) if size is not None else None,
            join=parse_join(join),
            specs=tuple(spec or ()),
            with_passes=passes,
            sounds=read_sound_orders(
                {
                    "sound": sound,
                    "no_sound": no_sound,
                    "accept_damaged_sound": accept_damaged_sound,
                }
            ),
            overwrite=overwrite,
        )
        return run_new(job, paths, wishes, as_json=as_json)

    finish(work, as_json=as_json)


@app.command()
def show(
    job: Annotated[Path, typer.Argument(metavar="JOB")],
    predict: Annotated[
        bool, typer.Option("--predict", help="How large each becomes, and how long it takes.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Show a job, its reel, and what each delivery changes."""

    def work() -> int:
        from waxseal.cli.job_commands import run_show

        return run_show(job, as_json=as_json, with_prediction=predict)

    finish(work, as_json=as_json)


@app.command()
def deliver(
    job: Annotated[Path, typer.Argument(metavar="JOB")],
    only: options.Only = None,
    out: Annotated[
        Path | None, typer.Option("--out", help="Another folder.", metavar="FOLDER")
    ] = None,
    range_: options.Range = None,
    each_shot: Annotated[
        bool, typer.Option("--each-shot", help="Every shot as a file of its own.")
    ] = False,
    fresh: Annotated[
        bool, typer.Option("--fresh", help="Make what is sealed already, too.")
    ] = False,
    workers: Annotated[
        int, typer.Option("--workers", min=0, max=256, help="Segments at a time; 0 for the usual.")
    ] = 0,
    cluster: Annotated[
        str, typer.Option("--cluster", metavar="ADDRESS", help="A Dask scheduler, or its file.")
    ] = "",
    when_complete: Annotated[
        bool,
        typer.Option("--when-complete", help="Wait until every frame is there; encode meanwhile."),
    ] = False,
    overwrite: options.Overwrite = False,
    as_json: Json = False,
) -> None:
    """Make the deliveries of a job, one after the other."""

    def work() -> int:
        from waxseal.cli.job_commands import DeliverWishes, run_deliver
        from waxseal.core.errors import WrongUse
        from waxseal.core.timing.ranges import parse_range

        if range_ is not None and each_shot:
            raise WrongUse("--range and --each-shot exclude each other: give one of them.")
        wishes = DeliverWishes(
            only=tuple(only or ()),
            out=out,
            range=parse_range(range_) if range_ is not None else None,
            each_shot=each_shot,
            is_fresh=fresh,
            overwrite=overwrite,
            workers=workers,
            cluster=cluster,
            when_complete=when_complete,
        )
        return run_deliver(job, wishes, as_json=as_json)

    finish(work, as_json=as_json)


@app.command()
def specs(
    name: Annotated[str | None, typer.Argument(metavar="[NAME]")] = None,
    as_json: Json = False,
) -> None:
    """List the spec book; with a name, print that spec."""
    from waxseal.cli.specs_command import run_specs

    finish(lambda: run_specs(name, as_json=as_json), as_json=as_json)


@app.command()
def assemble(
    path: options.Frames,
    out: options.Out,
    rate: options.Rate = None,
    to_rate: options.ToRate = None,
    size: options.Size = None,
    framing: options.Framing = "fit",
    range_: options.Range = None,
    frames: options.FilesFrames = None,
    expect: options.Expect = None,
    reverse: options.Reverse = False,
    quality: options.Quality = None,
    bitrate: options.Bitrate = None,
    sound: options.Sounds = None,
    no_sound: options.NoSound = False,
    reversed_sound: options.ReversedSound = None,
    accept_damaged_sound: options.AcceptDamagedSound = False,
    stand_in: options.StandIn = "stop",
    join: options.JoinBy = "cut",
    ground: options.Ground = "black",
    colour: options.Colour = None,
    config: options.Config = None,
    taken_as: options.TakenAs = None,
    view: options.View = "plain",
    graphics_white: options.GraphicsWhite = "203",
    spec: options.Spec = None,
    codec: options.Codec = None,
    container: options.Container = None,
    alpha: options.Alpha = None,
    max_size: options.MaxSize = None,
    sound_codec: options.SoundCodec = None,
    sound_channels: options.SoundChannels = None,
    sound_bitrate: options.SoundBitrate = None,
    loudness: options.Loudness = None,
    true_peak: options.TruePeak = None,
    timecode: options.Timecode = None,
    mastering: options.Mastering = None,
    pixel_shape: options.PixelShape = None,
    space: options.Space = None,
    exposure: options.Exposure = 0.0,
    gamma: options.Gamma = 1.0,
    lut: options.Lut = None,
    burn_in: options.BurnIn = None,
    drop_frame: options.DropFrame = False,
    between: options.Between = "nearest",
    part: options.Part = None,
    passes: options.Passes = False,
    accept_guesses: options.AcceptGuesses = False,
    overwrite: options.Overwrite = False,
    as_json: Json = False,
) -> None:
    """Make a sealed video file from a folder of frames, in one step."""
    said = dict(locals())

    def work() -> int:
        from waxseal.cli.assemble import run_assemble
        from waxseal.cli.assemble_order import read_orders

        return run_assemble(read_orders(said), as_json=as_json)

    finish(work, as_json=as_json)


@app.command()
def check(
    files: Annotated[list[Path], typer.Argument(metavar="FILE...")],
    signed_by: Annotated[
        str,
        typer.Option(
            "--signed-by", metavar="KEY", help="The key that each seal has to be signed with."
        ),
    ] = "",
    against: Annotated[
        Path | None,
        typer.Option("--against", metavar="JOB", help="Compare each frame with a job's reel."),
    ] = None,
    only: options.Only = None,
    spec: options.CheckSpec = None,
    as_json: Json = False,
) -> None:
    """Measure a video or a folder of frames, all of it, and compare it with the seal beside it.

    With --against it is compared with a job's reel, whatever made it: as the delivery of its
    name or kind, or of the one that --only names.
    """

    def work() -> int:
        from waxseal.cli.check_command import CheckWishes, run_check

        wishes = CheckWishes(signed_by, against, only[0] if only else "", spec or "")
        return run_check(files, wishes, as_json=as_json)

    finish(work, as_json=as_json)


@app.command()
def key(
    make: Annotated[
        bool, typer.Option("--make", help="Make one; from then on every seal is signed with it.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Show the key that signs your seals, for others to check them."""
    from waxseal.cli.key_command import run_key

    finish(lambda: run_key(make=make, as_json=as_json), as_json=as_json)


@app.command()
def demo(
    headless: Annotated[
        bool, typer.Option("--headless", help="Deliver the demo without a window.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Make and open the demo job; without a screen, deliver it."""
    from waxseal.cli.demo_command import run_demo

    finish(lambda: run_demo(headless=headless, as_json=as_json), as_json=as_json)


def finish(work: Callable[[], int], *, as_json: bool) -> NoReturn:
    """Do the work, and turn its end into an exit code and one sentence."""
    for trouble in folder_troubles():
        say(trouble)
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
        code = DONE  # the reader of our answer has seen enough
    raise typer.Exit(code)
