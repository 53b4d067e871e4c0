"""Colour spaces, views and displays, through OpenColorIO and its configs.

The built-in config is the newest studio config that the library carries; the
user's own is a file that the job or the environment (OCIO) names. What
the two have in common is ACES2065-1, through which one reaches the other.
"""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
import PyOpenColorIO as ocio

from waxseal.core.errors import JobError
from waxseal.core.folders import config_around
from waxseal.core.job.model import BT709, Colourway, Space, View, Working
from waxseal.core.job.primaries import PRIMARIES
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.colour.colour_file_states import config_states
from waxseal.core.picture.colour.colour_processes import Process
from waxseal.core.picture.colour.lut_files import FAILURES, first_line, large_config_in, read_config
from waxseal.core.picture.colour.view_table import POINTS, ViewTable, axis_light, rough_cells
from waxseal.core.picture.transfer_tables import to_xyz

if TYPE_CHECKING:
    from waxseal.core.picture.alpha_transforms import Transform

__all__ = [
    "Process",
    "Shows",
    "built_in",
    "curve",
    "display_of",
    "display_to_graphics",
    "display_to_working",
    "forgetful",
    "graphics_to_display",
    "high_range_to_light",
    "make_process",
    "own_config",
    "own_views",
    "scene_to_graphics",
    "source_spaces",
    "source_to_working",
    "view_words",
]

BUILT_IN = "studio-config-latest"
BUILT_IN_PATH = f"ocio://{BUILT_IN}"
LINEAR = {Working.BT709: "Linear Rec.709 (sRGB)", Working.ACESCG: "ACEScg"}
DISPLAYS = {
    Space.SRGB: "sRGB - Display",
    Space.BT709: "Rec.1886 Rec.709 - Display",
    Space.P3: "Display P3 - Display",
    Space.PQ: "Rec.2100-PQ - Display",
    Space.HLG: "Rec.2100-HLG - Display",
}
NOT_TONE_MAPPED = "Un-tone-mapped"

States = tuple[object, ...]  # see `config_states`
Shows = Process | ViewTable  # what makes the numbers of a display


@lru_cache(maxsize=1)
def built_in() -> Any:
    return ocio.Config.CreateFromBuiltinConfig(BUILT_IN)


def own_config(path: str, space: str = "") -> Any:
    """The user's config: that of the job, or of the environment, or the built-in one.

    space: that it is asked for, of a config that has thousands. Raises JobError for a file that is
    not one.
    """
    path = path or config_around()
    if not path:
        return built_in()
    asked = (space,) if space and large_config_in(path) is not None else ()
    return config_from(path, config_states(path), asked)


_last_states: dict[str, States] = {}


@lru_cache(maxsize=8)
def config_from(path: str, states: States, spaces: tuple[str, ...]) -> Any:
    """The library keeps what it read by name alone: that is forgotten where a file is another."""
    if _last_states.setdefault(path, states) != states:
        _last_states[path] = states
        ocio.ClearAllCaches()
    try:
        return read_config(path, spaces)
    except FAILURES as error:
        why = first_line(error)
        raise JobError(f"{Path(path).name} cannot be used as an OCIO config: {why}") from None


def make_process(transform: Any, config: Any = None) -> Process:
    """A transform by itself, ready to work. Raises JobError where it cannot."""
    try:
        ready = (config or built_in()).getProcessor(transform)
        return Process(ready.getDefaultCPUProcessor())
    except FAILURES as error:
        raise JobError(f"The colour cannot be worked out: {first_line(error)}") from None


def curve(*, encode: bool) -> Any:
    """The sRGB curve as a transform, mirrored below zero and going on above one."""
    transform = ocio.ExponentWithLinearTransform()
    transform.setGamma([2.4, 2.4, 2.4, 1.0])
    transform.setOffset([0.055, 0.055, 0.055, 0.0])
    transform.setNegativeStyle(ocio.NEGATIVE_MIRROR)
    direction = ocio.TRANSFORM_DIR_INVERSE if encode else ocio.TRANSFORM_DIR_FORWARD
    transform.setDirection(direction)
    return transform


# ---- sources ---------------------------------------------------------------------------------


def source_spaces(config: str) -> tuple[str, ...]:
    """The names of the spaces that a source can be read as."""
    large = large_config_in(config or config_around() or BUILT_IN_PATH)
    return large.names if large is not None else tuple(own_config(config).getColorSpaceNames())


def source_to_working(space: str, colourway: Colourway) -> Process:
    """From a space of the config to working light. Raises JobError."""
    config = colourway.config
    return ready_source(space, config, colourway.working, config_states(config))


@lru_cache(maxsize=32)
def ready_source(space: str, config: str, working: Working, _states: States) -> Process:
    own = own_config(config, space)
    if own.getColorSpace(space) is None:
        own = built_in()  # what files state is named as it names it
    if own.getColorSpace(space) is None:
        raise JobError(f"The OCIO config has no space “{space}”: choose another in the docket.")
    try:
        if own is built_in():
            ready = own.getProcessor(space, LINEAR[working])
        else:
            ready = ocio.Config.GetProcessorFromConfigs(own, space, built_in(), LINEAR[working])
        return Process(ready.getDefaultCPUProcessor())
    except FAILURES as error:
        raise JobError(f"“{space}” cannot be read: {first_line(error)}") from None


# ---- displays --------------------------------------------------------------------------------


def own_views(config: str) -> tuple[tuple[str, str], ...]:
    """Displays and views of the config, as pairs."""
    own = own_config(config)
    return tuple((one, view) for one in own.getDisplays() for view in own.getViews(one))


def display_of(colourway: Colourway, space: Space, *, exact: bool = False) -> Shows | None:
    """From working light to the numbers of a display; None where the sRGB table does it.

    A view of ACES or of a config goes through a table, see `view_table`; `exact` leaves
    it out, at eight times the cost. Raises JobError.
    """
    if space is Space.LINEAR:
        return None
    is_plain = colourway.view is View.PLAIN
    if is_plain and space is Space.SRGB:
        return None if colourway.working is Working.BT709 else working_to_srgb(colourway.working)
    states = states_of_view(colourway)
    return ready_display(colourway, space, states, exact=exact or is_plain)


def states_of_view(colourway: Colourway) -> States:
    """What a view depends on besides its name: of ACES and of plain ones nothing."""
    return config_states(colourway.config) if colourway.view is View.OWN else ()


@lru_cache(maxsize=2)
def working_to_srgb(working: Working) -> Process:
    group = ocio.GroupTransform()
    group.appendTransform(ocio.ColorSpaceTransform(LINEAR[working], LINEAR[Working.BT709]))
    group.appendTransform(curve(encode=True))
    return make_process(group)


@lru_cache(maxsize=16)
def ready_display(colourway: Colourway, space: Space, _states: States, *, exact: bool) -> Shows:
    whole = exact_display(colourway, space)
    if exact:
        return whole
    return bake(whole, colourway.working, is_high_range=space.is_high_range)


# ---- graphics --------------------------------------------------------------------------------

# What a display does with the light that it shows, by the library's own transforms.
SHOWN_BY = {
    Space.SRGB: "sRGB",
    Space.BT709: "REC.1886-REC.709",
    Space.P3: "DisplayP3",
    Space.PQ: "REC.2100-PQ",
    Space.HLG: "REC.2100-HLG-1000nit",
}
STANDARD_WHITE = 100.0  # cd/m²: what 1 is in the library's light of a high-range display


@lru_cache(maxsize=16)
def graphics_to_display(space: Space, white: int) -> Process:
    """From the light of graphics (BT.709 primaries, 1 is white) to the numbers of a display.

    white: in cd/m², in high range. Source: ITU-R BT.2408-7: 203 cd/m², which is 58 % in
    PQ and 75 % in HLG.
    """
    return make_process(shown_by(space, white))


@lru_cache(maxsize=8)
def display_to_graphics(space: Space, white: int) -> Process:
    """The other way round."""
    return make_process(shown_by(space, white, inverse=True))


@lru_cache(maxsize=8)
def high_range_to_light(space: Space, white: int) -> Process:
    """From the numbers of a high-range display to light in BT.2020 primaries.

    white: the cd/m² that are 1 in it. Source: ITU-R BT.2100-2, as the library has it; HLG as a
    display of 1000 cd/m² shows it.
    """
    turn = np.eye(4)
    turn[:3, :3] = np.linalg.inv(to_xyz(PRIMARIES["BT.2020"])) * (STANDARD_WHITE / white)
    shown = ocio.BuiltinTransform(f"DISPLAY - CIE-XYZ-D65_to_{SHOWN_BY[space]}")
    shown.setDirection(ocio.TRANSFORM_DIR_INVERSE)
    matrix = ocio.MatrixTransform(turn.reshape(-1).tolist())
    return make_process(ocio.GroupTransform([shown, matrix]))


def shown_by(space: Space, white: int, *, inverse: bool = False) -> Any:
    gain = white / STANDARD_WHITE if space.is_high_range else 1.0
    matrix = np.eye(4)
    matrix[:3, :3] = to_xyz(tuple(BT709)) * gain
    direction = ocio.TRANSFORM_DIR_INVERSE if inverse else ocio.TRANSFORM_DIR_FORWARD
    group = ocio.GroupTransform(
        [
            ocio.MatrixTransform(matrix.reshape(-1).tolist()),
            ocio.BuiltinTransform(f"DISPLAY - CIE-XYZ-D65_to_{SHOWN_BY[space]}"),
        ]
    )
    group.setDirection(direction)
    return group


def scene_to_graphics(colourway: Colourway, space: Space, *, exact: bool) -> Transform:
    """From working light, through the view, to the light of graphics, in place. Raises JobError.

    So that graphics can be laid over what a display shows of a scene.
    """
    shown = display_of(colourway, space, exact=exact)
    back = display_to_graphics(space, colourway.white)

    def transform(light: Light) -> None:
        if shown is not None:
            shown.apply(light)
        back.apply(light)

    return transform


# ---- views -----------------------------------------------------------------------------------


def exact_display(colourway: Colourway, space: Space, *, inverse: bool = False) -> Process:
    direction = ocio.TRANSFORM_DIR_INVERSE if inverse else ocio.TRANSFORM_DIR_FORWARD
    source = LINEAR[colourway.working]
    try:
        if colourway.view is View.OWN:
            own = own_config(colourway.config)
            if own is built_in():
                chosen = ocio.DisplayViewTransform(
                    src=source,
                    display=colourway.display,
                    view=colourway.shown,
                    direction=direction,
                )
                return make_process(chosen)
            ready = ocio.Config.GetProcessorFromConfigs(
                built_in(),
                source,
                own,
                colourway.display,
                colourway.shown,
                direction,
            )
            return Process(ready.getDefaultCPUProcessor())
        display = DISPLAYS[space]
        view = view_for(colourway.view, space)
        chosen = ocio.DisplayViewTransform(
            src=source, display=display, view=view, direction=direction
        )
        return make_process(chosen)
    except FAILURES as error:
        raise JobError(f"The view cannot be used: {first_line(error)}") from None


def view_for(view: View, space: Space) -> str:
    """The view's name on a display of the built-in config.

    What a display has no high-range view for is shown in standard range, and
    the other way round.
    """
    names = list(built_in().getViews(DISPLAYS[space]))
    if view is View.PLAIN:
        return NOT_TONE_MAPPED
    high = [name for name in names if name.startswith("ACES") and "HDR 1000" in name]
    standard = [name for name in names if name.startswith("ACES") and "SDR" in name]
    wide = [name for name in high if "2020" in name] or high
    wanted = wide if view is View.ACES_HDR else standard
    return str((wanted or standard or wide)[0])


def view_words(colourway: Colourway, space: Space) -> str:
    """What the view is, as the config names it."""
    if colourway.view is View.OWN:
        return f"{colourway.display}, {colourway.shown}"
    return str(colourway.view) if colourway.view is View.PLAIN else view_for(colourway.view, space)


def bake(whole: Process, working: Working, *, is_high_range: bool) -> ViewTable:
    """A view as a table; light is clipped to 0..256 in ACEScg, where no colour is negative."""
    grid = every_colour_of(axis_light())
    make_process(ocio.ColorSpaceTransform(LINEAR[Working.ACESCG], LINEAR[working])).apply(grid)
    whole.apply(grid)
    grid = grid.reshape(POINTS, POINTS, POINTS, 3)
    unit = np.eye(3, dtype=np.float32)[None].copy()
    make_process(ocio.ColorSpaceTransform(LINEAR[working], LINEAR[Working.ACESCG])).apply(unit)
    to_axes = np.ascontiguousarray(unit[0].T)
    return ViewTable(to_axes, grid, rough_cells(grid, is_high_range=is_high_range), whole)


def every_colour_of(axis: Light) -> Light:
    """Every colour of a table, (1, n³, 3); blue runs fastest."""
    red, green, blue = np.meshgrid(axis, axis, axis, indexing="ij")
    return np.ascontiguousarray(np.stack([red, green, blue], axis=-1).reshape(1, -1, 3))


def display_to_working(colourway: Colourway, space: Space) -> Process:
    """From the numbers of a display to the working light that the view shows as them."""
    shown = Space.SRGB if space is Space.LINEAR else space
    return ready_inverse(colourway, shown, states_of_view(colourway))


@lru_cache(maxsize=8)
def ready_inverse(colourway: Colourway, space: Space, _states: States) -> Process:
    """Exactly: display codes are few enough, and seldom taken as light."""
    return exact_display(colourway, space, inverse=True)


@lru_cache(maxsize=1)
def forgetful() -> Any:
    """The built-in config without its memory, which takes one cube or file for another."""
    config = ocio.Config.CreateFromBuiltinConfig(BUILT_IN)
    config.setProcessorCacheFlags(ocio.PROCESSOR_CACHE_OFF)
    return config
