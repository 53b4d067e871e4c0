"""Where a title card goes; what is offered to lie over its neighbour."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest

from tests.making import write_sequence
from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import JobError
from waxseal.core.job.corrections import Text
from waxseal.core.job.edits import add_sources, lay_over, set_length, set_reel_rate, take_in
from waxseal.core.job.model import Job, Overlay, Shot
from waxseal.core.plan.placement import could_lie_over, lay_card, lay_over_neighbours
from waxseal.core.plan.timeline import timeline_of

TITLE = Text(words="The Brass Orrery")


@pytest.fixture
def reel(tmp_path: Path) -> Job:
    """Two shots of 12 and 10 frames, and a card in the in-tray."""
    for name, count in (("a", 12), ("b", 10)):
        write_sequence(tmp_path / name, f"{name}.%04d.png", frames=range(1, count + 1))
    write_sequence(tmp_path / "card", "card.%04d.png", frames=range(1, 2))
    job = take_in(Job(), sources=scan([tmp_path / "a", tmp_path / "b"]).sources, folder="/tmp")  # noqa: S108
    return add_sources(job, sources=scan([tmp_path / "card"]).sources)


def laid(job: Job) -> Shot | Overlay:
    """The card."""
    everything: list[Shot | Overlay] = [*job.reel.shots, *job.reel.overlays]
    (one,) = [one for one in everything if one.source == "s3"]
    return one


@pytest.mark.parametrize(("at", "place"), [(1, 0), (13, 1), (22, 2), (400, 2)])
def test_a_card_goes_between_shots_where_the_playhead_is_at_a_cut(
    reel: Job, at: int, place: int
) -> None:
    job = lay_card(reel, source="s3", at=at, texts=[TITLE])
    assert [shot.source for shot in job.reel.shots].index("s3") == place
    assert timeline_of(job).length == 22 + 2 * 24
    assert laid(job).finish.corrections == (TITLE,)


@pytest.mark.parametrize("at", [2, 12, 14, 21])
def test_inside_a_shot_a_card_is_laid_over_the_picture(reel: Job, at: int) -> None:
    job = lay_card(reel, source="s3", at=at, texts=[TITLE])
    card = laid(job)
    assert isinstance(card, Overlay)
    assert (card.at, card.length) == (at, 2 * 24)
    assert timeline_of(job).length == 22
    assert card.finish.corrections == (TITLE,)


def test_on_an_empty_reel_a_card_is_the_first_shot(reel: Job) -> None:
    empty = Job(sources=reel.sources)
    job = lay_card(empty, source="s3", at=1, texts=[TITLE])
    assert [shot.source for shot in job.reel.shots] == ["s3"]
    assert timeline_of(job).length == 48


def test_a_card_lasts_two_seconds_of_a_reel_at_another_rate(reel: Job) -> None:
    job = lay_card(set_reel_rate(reel, rate=Fraction(30)), source="s3", at=1, texts=[TITLE])
    part = timeline_of(job).shots[0]
    assert (part.first, part.last) == (1, 60)
    job = set_length(job, of=part.laid.id, frames=7, count=1)
    assert timeline_of(job).shots[0].count == 7


def dropped(folder: Path, *names: str) -> Job:
    """Sequences and stills; those whose names begin with `clear` have alpha."""
    for name in names:
        channels = 4 if name.startswith("clear") else 3
        is_still = name.endswith("still")
        write_sequence(
            folder / name,
            f"{name}.%04d.png",
            frames=range(1, 2 if is_still else 7),
            channels=channels,
        )
    sources = [source for name in names for source in scan([folder / name]).sources]
    return take_in(Job(), sources=sources, folder=str(folder))


def test_what_has_alpha_is_offered_beside_what_has_none(tmp_path: Path) -> None:
    job = dropped(tmp_path, "clear", "plate")
    (shot,) = could_lie_over(job, {"s1", "s2"})
    assert shot.source == "s1"
    assert could_lie_over(job, {"s2"}) == ()
    assert could_lie_over(dropped(tmp_path / "other", "clear_a", "clear_b"), {"s1", "s2"}) == ()


@pytest.mark.parametrize("names", [("clear", "plate"), ("plate", "clear")])
def test_it_lies_over_the_shot_before_it_or_else_the_one_after(
    tmp_path: Path, names: tuple[str, str]
) -> None:
    job = dropped(tmp_path, *names)
    shots = [shot.id for shot in could_lie_over(job, {"s1", "s2"})]
    job = lay_over_neighbours(job, shots=shots)
    assert [job.sequence(shot.source).name for shot in job.reel.shots] == ["plate"]
    (overlay,) = job.reel.overlays
    assert (job.sequence(overlay.source).name, overlay.at) == ("clear", 1)


def test_each_of_several_lies_over_its_own_neighbour(tmp_path: Path) -> None:
    job = dropped(tmp_path, "plate_a", "clear_a", "plate_b", "clear_b")
    shots = [shot.id for shot in could_lie_over(job, {"s1", "s2", "s3", "s4"})]
    job = lay_over_neighbours(job, shots=shots)
    assert [one.at for one in job.reel.overlays] == [1, 7]
    with pytest.raises(JobError, match="Nothing is left"):
        lay_over_neighbours(job, shots=[shot.id for shot in job.reel.shots])


def test_a_still_that_is_laid_over_stays_to_the_reels_end(tmp_path: Path) -> None:
    job = dropped(tmp_path, "plate", "clear_still")
    job = lay_over_neighbours(job, shots=[job.reel.shots[1].id])
    part = timeline_of(job).overlays[0]
    assert (part.first, part.last) == (1, 6)
    job = lay_over(job, source="s2", at=4)
    assert timeline_of(job).overlays[1].last == 6
    assert timeline_of(lay_over(job, source="s2", at=40)).overlays[2].count == 1
