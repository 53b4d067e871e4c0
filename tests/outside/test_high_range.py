"""High range in: PQ and HLG as colour-science reads them, and out again as they came."""

from __future__ import annotations

import re
import warnings
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from tests.making import aged, job_of, write_stated
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.preview.delivery_pixels import read_codes
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.job.edits import change_colourway, change_delivery, change_reading, take_in
from waxseal.core.job.model import (
    BT709,
    Colour,
    ColourReference,
    ConstantQuality,
    DeliveryState,
    Job,
    Quality,
    Sequence,
    Space,
    View,
)
from waxseal.core.job.primaries import PRIMARIES
from waxseal.core.picture.make import light_for, make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.picture.transfer_tables import primaries_matrix
from waxseal.core.plan.programme import recipe
from waxseal.core.progress import CancelToken, silent

with warnings.catch_warnings():  # it warns that it has no plotting library, which nobody asked for
    warnings.simplefilter("ignore")
    import colour

Codes = NDArray[np.float64]
WIDTH, HEIGHT = 128, 72
PQ, HLG = (9, 16), (9, 18)
ONE_CODE = 1.0 / 1023


def codes() -> Codes:
    """R'G'B', 0..1: greys from black to the brightest, and below them soft colours."""
    across, down = np.linspace(0, 1, WIDTH), np.linspace(0, 1, HEIGHT // 2)[:, None]
    greys = np.tile(across[None, :, None], (HEIGHT // 2, 1, 3))
    red, green = 0.7 * across + 0 * down, 0.7 * down + 0 * across
    return np.concatenate([greys, np.stack([red, green, 0.7 - red], axis=2)])


def shot(folder: Path, points: tuple[int, int], count: int = 1) -> Job:
    (folder / "sh").mkdir()
    for number in range(1, count + 1):
        write_stated(folder / "sh" / f"sh.{number:04}.png", codes(), points)
    return change_reading(job_of(folder / "sh"), source="s1", rate=Fraction(24))


def light(job: Job, space: Space = Space.LINEAR) -> Codes:
    target = Target(WIDTH, HEIGHT, Layout.LIGHT, space=space)
    return np.asarray(light_for(recipe(job, 1), target), np.float64)


def luminance(points: tuple[int, int], values: Codes) -> Codes:
    """cd/m² of each primary, by colour-science."""
    if points[1] == PQ[1]:
        return np.asarray(colour.models.eotf_ST2084(values))
    return np.asarray(colour.models.eotf_BT2100_HLG(values, L_B=0, L_W=1000))


@pytest.mark.parametrize(
    ("points", "primaries"), [(PQ, "BT.2020"), ((12, 16), "P3"), (HLG, "BT.2020")]
)
@pytest.mark.parametrize("white", [203, 100])
def test_the_light_of_high_range_against_colour_science(
    tmp_path: Path, points: tuple[int, int], primaries: str, white: int
) -> None:
    """1 is the white of graphics, 203 cd/m². Source: ITU-R BT.2408-7, or 100 by choice."""
    job = change_colourway(shot(tmp_path, points), white=white)
    matrix = primaries_matrix(PRIMARIES[primaries])
    assert matrix is not None
    wanted = luminance(points, codes()) / white @ matrix.T.astype(np.float64)
    np.testing.assert_allclose(light(job), wanted, rtol=4e-3, atol=4e-3)


def test_white_and_what_is_brighter() -> None:
    """58 % of PQ and 75 % of HLG are 203 cd/m². Source: ITU-R BT.2408-7, table 1."""
    assert luminance(PQ, np.array(0.58)) == pytest.approx(203, rel=0.02)
    assert luminance(HLG, np.full(3, 0.75))[0] == pytest.approx(203, rel=0.01)


@pytest.mark.parametrize("view", [View.PLAIN, View.ACES_SDR])
@pytest.mark.parametrize(("points", "space"), [(PQ, Space.PQ), (HLG, Space.HLG)])
def test_frames_go_out_as_they_came(
    tmp_path: Path, points: tuple[int, int], space: Space, view: View
) -> None:
    """Within a code of 10 bits: what a display shows stays that, whatever the reel's view."""
    job = change_colourway(shot(tmp_path, points), view=view)
    job = change_delivery(job, delivery="d1", codec="PNG 16", container="frames", space=space)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    (out,) = scan([path_of(job.deliveries[0])]).sources
    assert isinstance(out, Sequence)
    assert out.reading.colour.value is Colour((points == PQ and "PQ") or "HLG")
    back = read_codes(Path(out.files.folder), 1, untagged=0) / 255
    assert np.abs(back - codes()).max() <= ONE_CODE


def film(job: Job, space: Space, folder: Path, codec: str, **fields: object) -> Path:
    folder.mkdir()
    named = {"codec": codec, "space": space, "folder": str(folder), **fields}
    job = change_delivery(job, delivery="d1", **named)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return path_of(job.deliveries[0])


@pytest.mark.parametrize("space", [Space.PQ, Space.HLG])
@pytest.mark.parametrize(("codec", "container"), [("H.265", "MP4"), ("ProRes HQ", "MOV")])
def test_a_film_of_its_own_comes_back_right(
    tmp_path: Path, space: Space, codec: str, container: str
) -> None:
    """Delivered, taken in and delivered again: within what the two encodes cost."""
    job = shot(tmp_path, PQ if space is Space.PQ else HLG, count=3)
    fine: dict[str, Quality] = {"quality": ConstantQuality(figure=8)} if codec == "H.265" else {}
    first = film(job, space, tmp_path / "first", codec, container=container, **fine)
    again = take_in(Job(), sources=scan([first]).sources, folder=str(tmp_path))
    reading = again.sequences[0].reading
    assert str(reading.colour.value) == ("PQ" if space is Space.PQ else "HLG")
    assert reading.taken_as is ColourReference.GRAPHICS
    second = film(again, space, tmp_path / "second", codec, container=container, **fine)
    one, other = (read_codes(path, 2, untagged=9) for path in (first, second))
    assert np.abs(one - other).mean() < 0.5


@pytest.mark.parametrize("referred", list(ColourReference))
def test_as_scene_it_goes_through_the_view(tmp_path: Path, referred: ColourReference) -> None:
    """White is then 1 of the scene's light; as graphics it is white, whatever the view."""
    job = shot(tmp_path, PQ)
    job = change_colourway(job, view=View.ACES_SDR)
    job = change_reading(job, source="s1", referred=referred)
    target = Target(WIDTH, HEIGHT, Layout.SCREEN, space=Space.SRGB)
    shown = make(recipe(job, 1), target).planes[0][0, :, 1].astype(int)
    white = int(np.argmin(np.abs(codes()[0, :, 0] - 0.5807)))
    if referred is ColourReference.GRAPHICS:
        assert abs(shown[white] - 255) <= 3
    else:
        assert 160 < shown[white] < 235


NOTED = "have colours that BT.709 cannot show"


def notes_of(job: Job, folder: Path, space: Space = Space.BT709) -> str:
    job = change_delivery(job, delivery="d1", codec="H.264", space=space, folder=str(folder))
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken(), overwrite=True)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return " ".join(outcome.notes)


def test_what_a_destination_cannot_show_is_said_in_share_of_pixels(tmp_path: Path) -> None:
    """Counted with colour-science: light of the half with colours, in BT.709, below nothing."""
    job = shot(tmp_path, PQ, count=2)
    notes = notes_of(job, tmp_path)
    matrix = primaries_matrix(PRIMARIES["BT.2020"])
    assert matrix is not None
    wanted = luminance(PQ, codes()) / 203 @ matrix.T.astype(np.float64)
    for words, share in (
        (NOTED, (wanted < -0.004).any(axis=2).mean()),
        ("are brighter than BT.709 goes", (wanted > 1.004).any(axis=2).mean()),
    ):
        (said,) = re.findall(
            r"([\d.]+)% of the pixels of 2 frames that were looked at " + words, notes
        )
        assert float(said) / 100 == pytest.approx(share, abs=0.01)


def test_of_what_can_be_shown_nothing_is_said(tmp_path: Path) -> None:
    job = shot(tmp_path, (1, 1))
    assert "were looked at" not in notes_of(job, tmp_path)


@pytest.mark.parametrize(("primaries", "is_read"), [(9, True), (12, True), (1, False)])
def test_high_range_with_other_primaries_is_refused_until_it_is_said(
    tmp_path: Path, primaries: int, *, is_read: bool
) -> None:
    """Numbers of ITU-T H.273: BT.2020, P3, BT.709."""
    tagged = tmp_path / "sh" / "tagged.mkv"
    tagged.parent.mkdir()
    with av.open(str(tagged), "w") as out:
        track = out.add_stream("libx264", rate=24, pix_fmt="yuv420p10le")
        track.width, track.height = 64, 48
        context = track.codec_context
        context.color_primaries, context.color_trc, context.colorspace = primaries, 16, 9
        for number in range(4):
            grey = np.full((48, 64, 3), 60 * number, np.uint8)
            frame = av.VideoFrame.from_ndarray(grey).reformat(format="yuv420p10le")
            frame.color_primaries, frame.color_trc, frame.colorspace = primaries, 16, 9
            out.mux(track.encode(frame))
        out.mux(track.encode())
    aged(tagged)
    job = job_of(tagged.parent)
    assert job.sequences[0].reading.colour.value is Colour.PQ
    assert job.sequences[0].is_of_unread_range is not is_read
    job = change_delivery(job, delivery="d1", codec="H.265", space=Space.PQ)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert (outcome.state is DeliveryState.SEALED) is is_read, outcome.reasons
    if not is_read:
        assert "high range of a kind that is not read" in outcome.reasons[0]
        said = change_reading(job, source="s1", colour=Colour.PQ, chromaticities=BT709)
        assert make_delivery(said, said.deliveries[0], silent, CancelToken()).file
