"""What a delivery keeps of each shot where it cuts the reel's picture to another shape."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from tests.making import job_of
from waxseal.core.deliver.format.delivery_settings import film_keys
from waxseal.core.deliver.match import match
from waxseal.core.deliver.preview.delivery_pixels import codes_made
from waxseal.core.deliver.preview.file_view import FileView
from waxseal.core.errors import JobError
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery, copy_framing, put_on_reel, set_subject
from waxseal.core.job.model import Framing, Job, Size, Subject
from waxseal.core.picture.framing import Box
from waxseal.core.picture.pixel_shape import around_subject
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import programme

WIDE, TALL, DOT = 192, 96, (140, 30)
SQUARE = {"codec": "PNG", "size": Size(width=96, height=96), "framing": Framing.FILL}


@pytest.fixture
def job(tmp_path: Path) -> Job:
    """A wide picture, black but for a dot on the right; twice on the reel."""
    folder = tmp_path / "dot"
    folder.mkdir()
    values = np.zeros((TALL, WIDE, 3), np.uint8)
    values[DOT[1], DOT[0]] = 255
    for number in (1, 2):
        write_pixels(folder / f"dot.{number:04d}.png", values)
    job = job_of(folder)
    job = put_on_reel(job, sources=[job.sequences[0].id])
    return change_delivery(job, delivery="d1", **SQUARE)


def shots(job: Job) -> tuple[str, str]:
    one, other = job.reel.shots
    return one.id, other.id


def dot_at(job: Job, frame: int) -> tuple[int, int] | None:
    """Where the dot is in the delivery: column, row."""
    delivery = job.deliveries[0]
    planned = programme(job)
    pair = FileView(planned, delivery, None).pair(frame)
    assert pair is not None
    codes = codes_made(pair.recipe, pair.target)
    rows, columns = np.nonzero(codes[..., 0] > 200)
    return (int(columns[0]), int(rows[0])) if len(rows) else None


def test_each_shot_keeps_what_it_says(job: Job) -> None:
    first, _ = shots(job)
    assert dot_at(job, 1) == (DOT[0] - 48, DOT[1])
    moved = set_subject(job, shot=first, across=DOT[0] / WIDE)
    assert dot_at(moved, 1) == (48, DOT[1])  # in the middle
    assert dot_at(moved, 3) == (DOT[0] - 48, DOT[1])  # the other shot is as it was
    far = set_subject(job, shot=first, across=0.0)
    assert dot_at(far, 1) is None  # cut off: never more than there is picture
    far = set_subject(job, shot=first, across=1.0, down=0.0)
    assert dot_at(far, 1) == (DOT[0] - 96, DOT[1])
    both = copy_framing(moved, of=first)
    assert dot_at(both, 3) == (48, DOT[1])


def test_only_what_is_cut_follows_it(job: Job) -> None:
    first, _ = shots(job)
    moved = set_subject(job, shot=first, across=0.9)

    def key(job: Job, **fields: object) -> str:
        job = change_delivery(job, delivery="d1", **fields)
        return film_keys(programme(job), job.deliveries)["d1"]

    assert key(moved) != key(job)
    for fields in ({"size": None}, {"framing": Framing.FIT}, {"framing": Framing.STRETCH}):
        assert key(moved, **fields) == key(job, **fields)


def test_a_reel_without_subjects_is_written_as_before(job: Job) -> None:
    written = job.model_dump_json()
    assert '"subject"' not in written
    first, _ = shots(job)
    moved = set_subject(job, shot=first, across=0.25)
    assert Job.model_validate_json(moved.model_dump_json()) == moved
    assert moved.reel.shots[0].subject == Subject(x=0.25)
    with pytest.raises(JobError):
        set_subject(job, shot="nobody", across=0.1)
    with pytest.raises(JobError, match="1 or less"):
        set_subject(job, shot=first, across=7.0)


@pytest.mark.parametrize(
    ("layout", "grid"), [(Layout.YUV420, (2, 2)), (Layout.YUV422_10, (2, 1)), (Layout.RGB8, (1, 1))]
)
@pytest.mark.parametrize("share", [0.0, 0.13, 0.5, 0.77, 1.0])
def test_a_cut_lies_on_whole_pixels_of_chroma_and_leaves_no_border(
    layout: Layout, grid: tuple[int, int], share: float
) -> None:
    target, box = Target(97, 96, layout), Box(-48, -12, 194, 120)
    made = around_subject(target, box, Subject(x=share, y=share))
    assert made.x % grid[0] == 0
    assert made.y % grid[1] == 0
    assert made.x <= 0
    assert made.y <= 0
    assert made.x + made.width >= 97
    assert made.y + made.height >= 96


def test_a_drag_stops_where_the_picture_ends(job: Job) -> None:
    beside = FileView(programme(job), job.deliveries[0], None)
    assert beside.is_cut
    assert beside.dragged(Subject(), 0.25, 0.5) == Subject(x=0.375)
    assert beside.dragged(Subject(), 3.0, 0.0).x == pytest.approx(0.25)
    # What is said beyond the end begins at the end.
    assert beside.dragged(Subject(x=1.0), 0.25, 0.0).x == pytest.approx(0.625)
    whole = change_delivery(job, delivery="d1", framing=Framing.FIT)
    assert not FileView(programme(whole), whole.deliveries[0], None).is_cut


def test_it_is_said_in_the_match_table(job: Job) -> None:
    first, _ = shots(job)
    moved = set_subject(job, shot=first, across=0.7)

    def said(job: Job) -> str:
        return next(
            row.done for row in match(programme(job), job.deliveries[0]) if row.what == "size"
        )

    assert "chosen" not in said(job)
    assert said(moved).endswith("what is kept is chosen for 1 of 2 shots")
