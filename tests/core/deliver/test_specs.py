"""The spec book: what ships, what the user adds, what a file says wrong, deliveries to a spec."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from tests.making import write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.format.quality import parse_bytes
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.specs.apply_spec import add_as, spec_troubles
from waxseal.core.deliver.specs.name_pattern import fill
from waxseal.core.deliver.specs.spec import Spec
from waxseal.core.deliver.specs.spec_book import (
    read_spec,
    save_spec,
    shipped,
    spec_book,
    spec_in,
    write_spec,
)
from waxseal.core.errors import JobError, UnreadableInput, WrongUse
from waxseal.core.folders import specs_folder
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery, change_reading, lift_sound, take_in
from waxseal.core.job.model import Alpha, DeliveryState, Job, Size, Space, change
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.progress import CancelToken, silent

SQUARE = """name = "our square"
purpose = "to be looked at"
codec = "H.264"
container = "MP4"
sizes = ["64x64"]
framing = "fill"
rates = ["25"]
longest = 2.0
"""


@pytest.fixture(autouse=True)
def own_folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    return specs_folder()


@pytest.fixture(scope="module")
def reel(tmp_path_factory: pytest.TempPathFactory) -> Job:
    """A disc on nothing, 480 x 270 (the least of DNxHR), 25 fps, with stereo sound."""
    folder = tmp_path_factory.mktemp("reel")
    rows, columns = np.mgrid[0:270, 0:480]
    (folder / "disc").mkdir()
    for number in range(1, 6):
        values = np.full((270, 480, 4), 200, np.uint8)
        values[..., 0] = columns % 256
        away = np.hypot(columns - 200 - number * 9, rows - 135)
        values[..., 3] = np.clip((90 - away) * 8, 0, 255)
        write_pixels(folder / "disc" / f"disc.{number:04}.png", values)
    write_tone(folder / "disc.wav", seconds=0.2, channels=2)
    job = take_in(Job(), sources=scan([folder]).sources, folder=str(folder))
    return change_reading(job, source="s1", alpha=Alpha.STRAIGHT, rate=Fraction(25))


def sealed(job: Job) -> None:
    outcome = make_delivery(job, job.deliveries[-1], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons


@pytest.mark.parametrize("spec", shipped(), ids=lambda spec: spec.name)
def test_every_shipped_spec_delivers_a_clip_with_alpha_and_sound(
    reel: Job, tmp_path: Path, spec: Spec
) -> None:
    # Of the large ones a small one: what is delivered does not depend on how large it is.
    small = change(spec, sizes=tuple("480x270" for _ in spec.sizes[:1]))
    save_spec(small)
    job = add_as(change(reel, deliveries=()), small, folder=str(tmp_path))
    sealed(job)
    assert job.deliveries[0].name.startswith("Untitled_")


@pytest.mark.parametrize("spec", shipped(), ids=lambda spec: spec.name)
def test_a_spec_is_written_as_it_is_read(spec: Spec) -> None:
    assert spec_in(write_spec(spec), "it.toml") == spec
    assert read_spec(save_spec(spec)) == spec


def test_ones_own_spec_stands_in_the_book_and_takes_the_place_of_a_shipped_one(
    own_folder: Path,
) -> None:
    assert spec_book().get("our square") is None
    own_folder.mkdir(parents=True)
    (own_folder / "square.toml").write_text(SQUARE)
    assert spec_book().named("Our Square").longest == 2
    (own_folder / "web.toml").write_text(SQUARE.replace("our square", "square feed"))
    assert spec_book().named("square feed").longest == 2
    (own_folder / "broken.toml").write_text("name = \n")
    book = spec_book()
    assert book.troubles == ("broken.toml, line 1: this is no TOML.",)
    assert book.get("our square") is not None
    with pytest.raises(JobError, match="There is no spec “paper” in the book: choose one of wide"):
        book.named("paper")


@pytest.mark.parametrize(
    ("before", "after", "words"),
    [
        ('codec = "H.264"', 'codec = "tape"', "line 3: codec: There is no codec “tape”"),
        ('container = "MP4"', 'container = "WebM"', "H.264 does not go into WebM: choose MP4"),
        ('sizes = ["64x64"]', 'sizes = ["64"]', "line 5: sizes: “64” is not a frame size"),
        ('rates = ["25"]', 'rates = ["fast"]', "line 7: rates: “fast” is not"),
        ("longest = 2.0", "longest = -1.0", "line 8: longest: it has to be 0 or more."),
        ("longest = 2.0", 'alpha = "straight"', "H.264 carries no alpha"),
        ("longest = 2.0", 'max_size = "much"', "line 8: max_size: “much” is not a size of a file"),
        ("longest = 2.0", "colour = 3", "line 8: colour: nothing is known here under that name."),
        ("longest = 2.0", 'space = "BT.2020 PQ"', "H.264 cannot carry BT.2020 PQ"),
        ('purpose = "to be looked at"', 'purpose = "art"', "line 2: purpose: it has to be"),
        ('name = "our square"\n', "", "name: it is not there."),
        ("longest = 2.0", 'naming = "{colour}"', "line 8: naming: “{colour}”: there is no field"),
    ],
)
def test_what_a_file_says_wrong_is_said_with_its_line(before: str, after: str, words: str) -> None:
    with pytest.raises(UnreadableInput) as caught:
        spec_in(SQUARE.replace(before, after), "it.toml")
    assert str(caught.value).startswith("it.toml")
    assert words in str(caught.value)


def test_a_delivery_is_as_its_spec_wants_it_and_says_where_it_is_not(
    reel: Job, own_folder: Path, tmp_path: Path
) -> None:
    own_folder.mkdir(parents=True)
    (own_folder / "square.toml").write_text(SQUARE)
    spec = spec_book().named("our square")
    job = add_as(reel, spec, folder=str(tmp_path))
    delivery, timeline = job.deliveries[-1], timeline_of(job)
    assert (delivery.size, delivery.rate) == (Size(width=64, height=64), None)
    assert list(spec_troubles(spec, timeline, delivery)) == []
    sealed(job)
    for fields, words in (
        ({"codec": "H.265"}, "our square wants the codec H.264, not H.265."),
        ({"container": "MOV"}, "our square wants MP4, not MOV."),
        ({"size": None}, "our square takes 64 × 64, not 480 × 270: choose another size."),
        ({"rate": Fraction(24)}, "our square takes 25 fps, not 24: choose another rate."),
        ({"space": Space.P3}, "our square wants the colour sRGB, not Display P3."),
    ):
        other = change_delivery(job, delivery=delivery.id, **fields)
        assert words in list(spec_troubles(spec, timeline, other.deliveries[-1]))
        outcome = make_delivery(other, other.deliveries[-1], silent, CancelToken())
        assert words in outcome.reasons


def test_what_is_too_long_or_lacks_its_sound_is_refused(reel: Job, tmp_path: Path) -> None:
    spec = spec_in(SQUARE.replace("2.0", "0.1") + 'sound = "needed"\n', "it.toml")
    job = lift_sound(add_as(reel, spec, folder=str(tmp_path)), sound="m1")
    said = list(spec_troubles(spec, timeline_of(job), job.deliveries[-1]))
    assert said == [
        "our square takes at most 0.1 s, and this is 0.20 s: choose a range.",
        "our square needs sound, and the reel has none: lay a sound.",
    ]


def test_a_spec_that_is_gone_refuses(reel: Job, tmp_path: Path) -> None:
    job = change_delivery(reel, delivery="d1", spec="our old one", folder=str(tmp_path))
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.reasons[0].startswith("There is no spec “our old one” in the book")


@pytest.mark.parametrize(
    ("pattern", "name"),
    [
        ("{job}_{size}", "The_Brass_Orrery_640x360"),
        ("{job}_{shot}_{spec}", "The_Brass_Orrery_wide"),  # no shot, and no mark too many
        ("{first}-{last}: {rate}", "1-24_23.976"),
        ("a/b", "a_b"),
    ],
)
def test_names_by_a_pattern(pattern: str, name: str) -> None:
    values = {"job": "The Brass Orrery", "size": "640x360", "spec": "wide"}
    assert fill(pattern, first="1", last="24", rate="23.976", **values) == name


@pytest.mark.parametrize(
    ("pattern", "words"),
    [
        ("{colour}", "there is no field {colour}: use {job}, {spec}"),
        ("{job", "a brace is not closed"),
        ("{shot}", "leaves nothing for a name"),
    ],
)
def test_a_pattern_that_makes_no_name_is_said(pattern: str, words: str) -> None:
    with pytest.raises(JobError, match=words):
        fill(pattern, job="a")


def test_names_do_not_collide(reel: Job, tmp_path: Path) -> None:
    spec = shipped()[0]
    job = add_as(add_as(reel, spec, folder=str(tmp_path)), spec, folder=str(tmp_path))
    assert [one.name for one in job.deliveries[-2:]] == ["Untitled_1080p", "Untitled_1080p_2"]


def test_a_name_says_its_day_and_its_next_version(reel: Job, tmp_path: Path) -> None:
    spec = change(shipped()[0], naming="{job}_{date}_{version}")
    (tmp_path / "Untitled_2001-02-03_v002.mp4").touch()
    for _ in range(2):
        reel = add_as(reel, spec, folder=str(tmp_path), day="2001-02-03")
    names = [one.name for one in reel.deliveries[-2:]]
    assert names == ["Untitled_2001-02-03_v001", "Untitled_2001-02-03_v003"]


def test_the_size_of_the_reels_shape_is_taken(reel: Job) -> None:
    proxy = spec_book().named("editing proxy")
    assert proxy.settings(timeline_of(reel))["size"] == Size(width=960, height=540)
    nearest = spec_book().named("tall feed").settings(timeline_of(reel))
    assert nearest["rate"] is None  # 25 is among them
    assert proxy.settings(None)["size"] == Size(width=960, height=540)


@pytest.mark.parametrize(
    ("text", "size"),
    [("8 MB", 8_000_000), ("8MiB", 8 * 1024**2), ("500 kB", 500_000), ("1,5 GB", 1_500_000_000)],
)
def test_sizes_of_files_as_people_type_them(text: str, size: int) -> None:
    assert parse_bytes(text) == size


@pytest.mark.parametrize("text", ["", "MB", "-3 MB", "8 Mb/s", "0"])
def test_what_is_no_size_of_a_file_is_said(text: str) -> None:
    with pytest.raises(WrongUse):
        parse_bytes(text)


@pytest.mark.parametrize(
    ("shapes", "size", "wanted"),
    [
        (["16:9"], (480, 270), None),  # the reel's own will do
        (["1"], (480, 270), (270, 270)),
        (["9:16", "1"], (480, 270), (152, 270)),
        (["4:3", "16:9"], (480, 270), None),
        (["2.39"], (480, 270), (480, 200)),
    ],
)
def test_a_shape_takes_as_much_of_the_reel_as_there_is(
    reel: Job, shapes: list[str], size: tuple[int, int], wanted: tuple[int, int] | None
) -> None:
    spec = change(spec_in(SQUARE, "x.toml"), sizes=(), shapes=tuple(shapes), rates=(), longest=0.0)
    timeline = timeline_of(reel)
    assert (timeline.size.width, timeline.size.height) == size
    settings = spec.settings(timeline)
    assert settings["size"] == (Size(width=wanted[0], height=wanted[1]) if wanted else None)
    job = add_as(reel, spec, folder="/")
    assert not list(spec_troubles(spec, timeline, job.deliveries[-1]))
    other = change(job.deliveries[-1], size=Size(width=500, height=100))
    assert next(spec_troubles(spec, timeline, other)) == (
        f"our square takes the shape {' or '.join(shapes)}, not 500 × 100: choose another size."
    )


@pytest.mark.parametrize("shape", ["wide", "16:0", "1:1000", ""])
def test_what_is_no_shape_is_said(shape: str) -> None:
    with pytest.raises(UnreadableInput, match=r"shape|as long as that"):
        spec_in(f'{SQUARE}shapes = ["{shape}"]\n', "x.toml")
