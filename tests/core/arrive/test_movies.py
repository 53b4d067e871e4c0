"""Movies in the in-tray, on the reel and in a delivery."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest

from tests.making import cut, job_of, number_in, write_movie, write_sequence
from waxseal.core.arrive.decode_check import look_deep
from waxseal.core.arrive.header_scan import look_again
from waxseal.core.arrive.movie_sources import oddities, reading_of
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.movies import movie_facts, read_movie_frame
from waxseal.core.job.edits import take_in
from waxseal.core.job.model import (
    Alpha,
    Colour,
    DeliveryState,
    FindingKind,
    Health,
    Job,
    Origin,
    Sequence,
    Size,
    Sound,
    colour_words,
)
from waxseal.core.plan.programme import programme, recipe
from waxseal.core.progress import CancelToken, silent


def movie_in(folder: Path) -> Sequence:
    (source,) = (one for one in scan([folder]).sources if isinstance(one, Sequence))
    return source


def test_a_movie_arrives_with_its_rate_and_its_sound(tmp_path: Path) -> None:
    write_movie(tmp_path / "live.mov", rate=Fraction(25), sound_seconds=1.6)
    movie, sound = scan([tmp_path]).sources
    assert isinstance(movie, Sequence)
    assert (movie.kind, movie.files.count, movie.found.codec) == ("movie", 40, "h264")
    assert movie.health is Health.WHOLE
    assert movie.found.size == Size(width=320, height=180)
    assert movie.reading.rate.value == 25
    assert movie.reading.rate.origin is Origin.WRITTEN
    assert movie.reading.colour.value is Colour.BT709
    assert isinstance(sound, Sound)
    assert (sound.of_movie, sound.sample_rate, sound.channels) == (True, 48_000, 2)


def test_each_reel_frame_of_a_movie_has_a_recipe_of_its_own(tmp_path: Path) -> None:
    write_movie(tmp_path / "frames" / "live.mp4")
    job = job_of(tmp_path / "frames")
    keys = {recipe(job, frame).key for frame in range(1, 41)}
    assert len(keys) == 40


def test_a_movie_is_delivered_frame_for_frame(tmp_path: Path) -> None:
    write_movie(tmp_path / "frames" / "live.mp4", sound_seconds=40 / 24)
    job = job_of(tmp_path / "frames")
    assert job.reel.sounds
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    for frame in (1, 2, 23, 40):
        assert number_in(read_movie_frame(path_of(job.deliveries[0]), frame)) == frame - 1


def test_the_sound_of_a_movie_is_bound_to_it_wherever_it_is(tmp_path: Path) -> None:
    write_sequence(tmp_path / "frames", "a.%04d.png")
    write_movie(tmp_path / "frames" / "live.mp4", sound_seconds=1)
    job = job_of(tmp_path / "frames")
    assert [source.name for source in job.sounds] == ["live.mp4"]
    assert [(one.shot, one.bound) for one in job.reel.sounds] == [("a2", True)]


def test_a_variable_rate_stays_a_guess(tmp_path: Path) -> None:
    write_movie(tmp_path / "v.mp4", times_ms=[at * 40 + (at % 5) * 7 for at in range(40)])
    movie = movie_in(tmp_path)
    assert movie.reading.rate.origin is Origin.GUESS
    (finding,) = movie.findings
    assert finding.kind is FindingKind.UNEVEN
    assert "variable rate" in finding.what


def test_a_cut_movie_is_damaged_and_mended_when_it_comes_again(tmp_path: Path) -> None:
    path = cut(write_movie(tmp_path / "a.mkv"), 0.6)
    movie = movie_in(tmp_path)
    assert movie.health is Health.DAMAGED
    assert "cut short" in movie.findings[0].what
    write_movie(path)
    assert look_again(movie).health is Health.WHOLE
    path.unlink()
    gone = look_again(movie)
    assert gone.health is Health.MOVED
    assert gone.findings[0].what.startswith("a.mkv is not where it was")


def test_what_is_no_movie_is_a_sentence(tmp_path: Path) -> None:
    (tmp_path / "a.mp4").write_text("no movie")
    found = scan([tmp_path])
    assert not found.sources
    assert "a.mp4 cannot be read as a movie" in found.troubles[0]


def test_a_close_look_decodes_every_frame_of_a_movie(tmp_path: Path) -> None:
    write_movie(tmp_path / "a.mp4")
    looked = look_deep(movie_in(tmp_path))
    assert looked.health is Health.WHOLE
    assert not looked.findings


@pytest.mark.parametrize(
    ("primaries", "transfer", "words", "origin"),
    [
        (1, 1, "BT.709 display", Origin.WRITTEN),
        (2, 2, "BT.709 display", Origin.HABIT),
        (1, 8, "scene-linear BT.709", Origin.WRITTEN),
        (9, 8, "scene-linear BT.2020", Origin.WRITTEN),
        (1, 13, "sRGB", Origin.WRITTEN),
        (12, 13, "sRGB P3", Origin.WRITTEN),
        (9, 14, "BT.2020 display", Origin.WRITTEN),
        (9, 16, "PQ", Origin.WRITTEN),
        (12, 16, "PQ P3", Origin.WRITTEN),
        (2, 16, "PQ", Origin.WRITTEN),
        (1, 16, "PQ", Origin.WRITTEN),
        (9, 18, "HLG", Origin.WRITTEN),
        (12, 18, "HLG P3", Origin.WRITTEN),
    ],
)
def test_the_colour_is_that_of_the_tags(
    tmp_path: Path, primaries: int, transfer: int, words: str, origin: Origin
) -> None:
    """ITU-T H.273, tables 2 and 3, from memory: 1 BT.709, 8 linear, 13 sRGB, 16 PQ, 18 HLG;
    primaries: 1 BT.709, 9 BT.2020, 12 P3 with the white of D65.
    """
    facts = movie_facts(write_movie(tmp_path / "a.mp4"))
    facts = replace(facts, primaries=primaries, transfer=transfer)
    reading = reading_of(facts)
    assert colour_words(reading.colour.value, reading.chromaticities.value) == words
    assert reading.colour.origin is origin
    kinds = [kind for kind, _, _ in oddities(facts)]
    is_odd = (primaries, transfer) in ((1, 16), (12, 18))  # no standard puts them together
    assert (FindingKind.HIGH_RANGE in kinds) is is_odd


def test_alpha_in_a_movie_is_laid_over_the_ground(tmp_path: Path) -> None:
    write_movie(tmp_path / "f" / "a.mov", codec="png", kind="rgba")
    job = job_of(tmp_path / "f")
    assert job.sequences[0].reading.alpha.value is Alpha.STRAIGHT
    assert programme(job).timeline.length == 40


def test_a_movie_that_arrives_twice_is_known(tmp_path: Path) -> None:
    from waxseal.core.arrive.duplicates import without_known

    write_movie(tmp_path / "live.mov", sound_seconds=1)
    sources = scan([tmp_path]).sources
    job = take_in(Job(), sources=sources, folder=str(tmp_path))
    fresh, again = without_known(job, scan([tmp_path]).sources)
    assert (len(fresh), len(again)) == (0, 2)
