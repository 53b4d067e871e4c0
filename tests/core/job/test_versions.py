"""Versions of a render: recognised by their names, and taken with every edit kept."""

from __future__ import annotations

from fractions import Fraction

import pytest

from tests.making import sequence, sound
from waxseal.core.arrive.pass_guess import with_passes
from waxseal.core.deliver.match.time_rows import missing_sentence
from waxseal.core.errors import JobError
from waxseal.core.job import edits
from waxseal.core.job.frame_states import FrameState
from waxseal.core.job.model import (
    Finding,
    FindingKind,
    Job,
    Origin,
    Sequence,
    Size,
    WithOrigin,
    change,
)
from waxseal.core.job.versions import older_versions, successors

KINDS = ("beauty", "diffuse", "specular")


def render(
    prefix: str,
    folder: str = "/renders",
    frames: tuple[int, ...] = tuple(range(1, 13)),
) -> Sequence:
    one = sequence(prefix.strip("._"), frames=frames)
    files = change(one.files, folder=folder, prefix=prefix)
    return change(one, files=files)


def lost(one: Sequence) -> Sequence:
    finding = Finding(kind=FindingKind.MOVED, frame=1, file="x", what="gone")
    return change(one, found=change(one.found, findings=(finding,)))


@pytest.mark.parametrize(
    ("old", "new"),
    [
        (("sh010_v002.", "/r"), ("sh010_v003.", "/r")),
        (("sh010.", "/r/v002"), ("sh010.", "/r/v003")),
        (("sh010_v002_", "/r/sh010_v002"), ("sh010_v003_", "/r/sh010_v003")),
        (("sh010.v2.", "/r"), ("sh010.v10.", "/r")),
        (("sh010v002.", "/r"), ("sh010v003.", "/r")),
        (("sh010_", "/r/ver 2/beauty"), ("sh010_", "/r/ver 3/beauty")),
        (("sh010-ver2-", "/r"), ("sh010-ver3-", "/r")),
        (("sh010_", "/r"), ("sh010_v002_", "/r")),  # the first had no number yet
    ],
)
def test_a_higher_version_is_one_of_the_same_family(
    old: tuple[str, str], new: tuple[str, str]
) -> None:
    before, after = render(*old).render, render(*new).render
    assert before.family == after.family
    assert before.number < after.number


@pytest.mark.parametrize(
    ("one", "other"),
    [
        (("sh010.", "/r"), ("sh020.", "/r")),  # shots, not versions
        (("shot.", "/r/010"), ("shot.", "/r/020")),
        (("mov2_", "/r"), ("mov3_", "/r")),
        (("walk_take1_", "/r"), ("walk_take2_", "/r")),  # takes are chosen from
        (("sh010_v002_depth.", "/r"), ("sh010_v003_beauty.", "/r")),
        (("sh010_v002.", "/a"), ("sh010_v003.", "/b")),
    ],
)
def test_what_only_looks_alike_is_no_version(one: tuple[str, str], other: tuple[str, str]) -> None:
    job = edits.take_in(Job(), sources=[render(*one)], folder="/out")
    job = edits.take_in(job, sources=[render(*other)], folder="/out")
    assert not successors(job)
    assert len(job.reel.shots) == 2


@pytest.fixture
def revised() -> Job:
    """A trimmed shot of v002, and v003 that has come."""
    job = edits.take_in(Job(), sources=[render("sh010_v002.")], folder="/out")
    job = edits.trim_head(job, shot="a1", first=3)
    job = edits.trim_tail(job, shot="a1", last=10)
    return edits.take_in(job, sources=[render("sh010_v003.")], folder="/out")


def test_a_newer_version_is_offered_and_is_no_shot_of_its_own(revised: Job) -> None:
    (offer,) = successors(revised).values()
    assert (offer.source.id, offer.by.id, offer.label) == ("s1", "s2", "v003")
    assert [shot.source for shot in revised.reel.shots] == ["s1"]


def test_it_takes_the_place_of_the_old_one_with_every_edit_kept(revised: Job) -> None:
    job = edits.change_reading(revised, source="s1", rate=Fraction(25))
    job = edits.lay_over(job, source="s1", at=2)
    after = edits.take_place(job, source="s1", by="s2")
    assert after.sequence("s1").files.prefix == "sh010_v003."
    assert after.sequence("s1").name == "sh010_v003"
    assert after.sequence("s1").reading.rate == WithOrigin[Fraction](
        value=Fraction(25), origin=Origin.SAID
    )
    assert after.reel == job.reel
    assert after.sequence("s2").files.prefix == "sh010_v002."  # to compare with, or to take back
    assert not successors(after)
    back = edits.take_place(after, source="s1", by="s2")
    assert back.sequence("s1").files == job.sequence("s1").files


def test_a_drop_of_several_versions_puts_the_newest_on_the_reel() -> None:
    every = [render(f"sh010_v00{number}.") for number in (1, 3, 2)]
    job = edits.take_in(Job(), sources=[*every, render("sh020_v001.")], folder="/out")
    assert [shot.source for shot in job.reel.shots] == ["s2", "s4"]
    assert older_versions(job.sequences) == {"s1", "s3"}


def test_what_a_longer_one_does_to_the_reel_is_said_before(revised: Job) -> None:
    longer = render("sh010_v004.", frames=tuple(range(1, 9)))
    job = edits.add_sources(revised, sources=[longer])
    (offer,) = successors(job).values()
    assert offer.label == "v004"
    words = edits.change_words(job, offer)
    assert words == (
        "Its frames are 1-8; the old ones are 1-12. A shot that uses 3-10 will use 3-8."
    )
    whole = edits.take_in(Job(), sources=[render("sh010_v002.")], folder="/out")
    whole = edits.add_sources(whole, sources=[longer])
    words = edits.change_words(whole, successors(whole)["s1"])
    assert words == (
        "Its frames are 1-8; the old ones are 1-12. "
        "A shot that uses all of it becomes 4 frames shorter."
    )


def test_another_size_and_holes_are_said_before(revised: Job) -> None:
    other = render("sh010_v009.", frames=(1, 2, 3, 5, 6, 7, 8, 9, 10, 11, 12))
    other = change(other, found=change(other.found, size=Size(width=64, height=64)))
    job = edits.add_sources(revised, sources=[other])
    words = edits.change_words(job, successors(job)["s1"])
    assert "are 64 × 64; the old ones are 64 × 36." in words
    assert words.endswith("4 is missing.")


def test_only_where_it_is_complete() -> None:
    job = edits.take_in(Job(), sources=[render("sh010_v002.")], folder="/out")
    job = edits.put_on_reel(job, sources=["s1"])
    job = edits.trim_tail(job, shot="a1", last=4)
    job = edits.trim_head(job, shot="a2", first=5)
    half = render("sh010_v003.", frames=(1, 2, 3, 4, 5, 7, 8))
    job = edits.take_in(job, sources=[half], folder="/out")
    after = edits.take_where_complete(job, source="s1", by="s2")
    assert [(shot.source, shot.first, shot.last) for shot in after.reel.shots] == [
        ("s2", 1, 4),
        ("s1", 5, 12),
    ]
    none = edits.trim_tail(edits.trim_head(job, shot="a1", first=4), shot="a1", last=6)
    none = edits.remove_shot(none, shot="a1")
    with pytest.raises(JobError, match="not all frames of any shot"):
        edits.take_where_complete(none, source="s1", by="s2")


def test_one_act_takes_all_that_are_new() -> None:
    first = [render("sh010_v002."), render("sh020_v001."), render("sh030.")]
    job = edits.take_in(Job(), sources=first, folder="/out")
    fresh = [render("sh010_v003."), render("sh020_v002."), render("sh020_v005.")]
    job = edits.take_in(job, sources=fresh, folder="/out")
    after = edits.take_every_version(job)
    names = [after.sequence(shot.source).name for shot in after.reel.shots]
    assert names == ["sh010_v003", "sh020_v005", "sh030"]
    with pytest.raises(JobError, match="no newer version"):
        edits.take_every_version(after)


def test_what_was_lost_and_comes_elsewhere_is_offered_and_the_copy_goes() -> None:
    job = edits.take_in(Job(), sources=[render("sh010.")], folder="/out")
    job = change(job, sources=tuple(lost(one) for one in job.sequences))
    job = edits.take_in(job, sources=[render("sh010.", "/elsewhere")], folder="/out")
    assert [shot.source for shot in job.reel.shots] == ["s1"]
    (offer,) = successors(job).values()
    assert offer.label == ""
    after = edits.take_place(job, source="s1", by=offer.by.id)
    assert [one.files.folder for one in after.sequences] == ["/elsewhere"]
    assert not after.sequences[0].is_moved


@pytest.mark.parametrize(
    "other",
    [
        render("sh010.", "/elsewhere", frames=tuple(range(1, 12))),  # not all of its numbers
        render("sh020.", "/elsewhere"),
    ],
)
def test_what_is_not_the_lost_one_is_not_offered(other: Sequence) -> None:
    job = edits.take_in(Job(), sources=[render("sh010.")], folder="/out")
    job = change(job, sources=tuple(lost(one) for one in job.sequences))
    assert not successors(edits.take_in(job, sources=[other], folder="/out"))


def test_its_own_sound_comes_with_it() -> None:
    old, new = render("sh010_v002."), render("sh010_v003.")
    heard = [
        change(sound(), name="sh010_v002.wav", path="/renders/sh010_v002.wav"),
        change(sound(), name="sh010_v003.wav", path="/renders/sh010_v003.wav"),
    ]
    job = edits.take_in(Job(), sources=[old, heard[0]], folder="/out")
    assert [laid.source for laid in job.reel.sounds] == ["s2"]
    job = edits.take_in(job, sources=[new, heard[1]], folder="/out")
    after = edits.take_place(job, source="s1", by="s3")
    assert [(laid.source, laid.shot) for laid in after.reel.sounds] == [("s4", "a1")]


def test_two_versions_on_the_reel_do_not_both_get_the_new_one() -> None:
    every = [render("sh010_v001."), render("sh010_v002."), render("sh010_v003.")]
    job = edits.add_sources(Job(), sources=every)
    job = edits.put_on_reel(job, sources=["s1", "s2"])
    assert {one: offer.by.id for one, offer in successors(job).items()} == {"s2": "s3"}
    after = edits.take_every_version(job)
    assert sorted(one.name for one in after.sequences) == [one.name for one in every]


def test_one_act_takes_the_passes_of_a_stack_along() -> None:
    names = [f"sh010_v00{version}_{kind}." for version in (1, 2) for kind in KINDS]
    every = [render(name) for name in names]
    job = edits.add_sources(Job(), sources=with_passes(every))
    job = edits.make_stack(edits.put_on_reel(job, sources=["s1"]), source="s1")
    after = edits.take_offered(job, source="s1")
    stack = after.sequence("s1").stack
    assert stack is not None
    taken = {after.sequence(one.source).name for one in stack.passes}
    assert taken == {f"sh010_v002_{kind}" for kind in KINDS[1:]}
    assert after.sequence("s1").name == "sh010_v002_beauty"


def test_what_is_lost_is_not_taken_with_the_versions() -> None:
    job = edits.take_in(Job(), sources=[render("sh010.")], folder="/out")
    job = change(job, sources=tuple(lost(one) for one in job.sequences))
    job = edits.take_in(job, sources=[render("sh010.", "/elsewhere")], folder="/out")
    with pytest.raises(JobError, match="no newer version"):
        edits.take_every_version(job)
    assert not edits.take_offered(job, source="s1").sequence("s1").is_moved


def test_what_is_missing_is_not_counted_out_number_by_number() -> None:
    """A range of millions with two files in it."""
    sparse = render("sh010.", frames=(1, 9_999_999))
    assert len(sparse.unusable[FrameState.MISSING]) == 9_999_997
    began = frozenset({5, 6})
    assert "5-6 are missing" in missing_sentence(sparse, began)
