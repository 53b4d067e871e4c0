from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.making import cut, emptied, gradient, write_jpegs, write_sequence, write_tone
from waxseal.core.arrive.header_scan import look_again
from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import Cancelled
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.model import (
    Alpha,
    Colour,
    FindingKind,
    Habits,
    Health,
    Origin,
    Sequence,
    Sound,
)
from waxseal.core.progress import CancelToken, Progress


def only(folder: Path, **more: object) -> Sequence:
    (source,) = scan([folder], **more).sources  # type: ignore[arg-type]
    assert isinstance(source, Sequence)
    return source


def test_an_exr_sequence_says_what_it_is(tmp_path: Path) -> None:
    rate = Fraction(24_000, 1001)
    write_sequence(tmp_path, "a.%04d.exr", dtype="float16", channels=4, rate=rate)
    source = only(tmp_path)
    assert source.reading.rate.value == rate
    assert source.reading.rate.origin is Origin.WRITTEN
    assert source.reading.colour.value is Colour.LINEAR
    assert source.reading.alpha.value is Alpha.PREMULTIPLIED
    assert source.found.channels == ("R", "G", "B", "A")
    assert source.found.depth == "half"
    assert source.health is Health.WHOLE


@pytest.mark.parametrize(
    ("pattern", "kind", "depth", "alpha"),
    [
        ("a.%04d.png", {}, "uint8", Alpha.NONE),
        ("a.%04d.png", {"channels": 4}, "uint8", Alpha.STRAIGHT),
        ("a.%04d.png", {"dtype": "uint16"}, "uint16", Alpha.NONE),
        ("a.%04d.tif", {}, "uint8", Alpha.NONE),
        ("a.%04d.tif", {"dtype": "uint16", "channels": 4}, "uint16", Alpha.STRAIGHT),
    ],
)
def test_coded_formats_are_srgb(
    tmp_path: Path, pattern: str, kind: dict[str, Any], depth: str, alpha: Alpha
) -> None:
    write_sequence(tmp_path, pattern, **kind)
    source = only(tmp_path)
    assert (source.found.depth, source.reading.alpha.value) == (depth, alpha)
    assert source.reading.colour.value is Colour.SRGB
    assert source.reading.rate.origin is Origin.GUESS


def test_a_file_of_an_odd_size_is_looked_at_twice(tmp_path: Path) -> None:
    random = np.random.default_rng(1)
    for frame in range(1, 9):
        noise = random.integers(0, 256, (30, 40, 3), np.uint8)
        write_pixels(tmp_path / f"shot.{frame:04}.png", noise if frame != 5 else noise * 0)
    source = only(tmp_path)
    assert [(one.kind, one.frame) for one in source.findings] == [(FindingKind.ODD_SIZE, 5)]
    assert "its neighbours" in source.findings[0].what


def test_a_stray_file_is_said_and_not_used(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path, frames=range(1, 17))
    write_pixels(folder / "shot.7.png", gradient(1))
    source = only(folder)
    assert source.files.count == 16
    (finding,) = source.findings
    assert (finding.kind, finding.frame, finding.file) == (FindingKind.STRAY, 7, "shot.7.png")
    assert finding.what == "shot.7.png has the same number: shot.0007.png is used"


def test_jpeg_is_read(tmp_path: Path) -> None:
    source = only(write_jpegs(tmp_path))
    assert source.found.format == "JPEG"
    assert source.files.count == 4


def test_the_job_s_habit_comes_before_a_guess(tmp_path: Path) -> None:
    write_sequence(tmp_path)
    source = only(tmp_path, habits=Habits(rate=Fraction(12)))
    assert source.reading.rate.value == 12
    assert source.reading.rate.origin is Origin.HABIT


def test_gaps_and_damage_make_the_re_render_list(tmp_path: Path) -> None:
    write_sequence(tmp_path, frames=range(1, 21))
    for gone in (4, 5, 6, 11):
        (tmp_path / f"shot.{gone:04}.png").unlink()
    emptied(tmp_path / "shot.0008.png")
    cut(tmp_path / "shot.0012.png")
    (tmp_path / "shot.0013.png").write_text("this is no picture at all")
    source = only(tmp_path)
    assert source.files.missing == (4, 5, 6, 11)
    assert source.damaged == (8, 12, 13)
    assert source.to_rerender == (4, 5, 6, 8, 11, 12, 13)
    assert source.health is Health.DAMAGED
    said = {finding.frame: finding.what for finding in source.found.findings}
    assert said[8] == "empty: the file has no bytes"
    assert said[12].startswith("cut short")
    assert said[13].startswith("no picture")


def test_content_counts_not_the_suffix(tmp_path: Path) -> None:
    write_sequence(tmp_path, "a.%04d.png")
    for file in list(tmp_path.iterdir()):
        file.rename(file.with_suffix(".exr"))
    assert only(tmp_path).found.format == "PNG"


def test_another_size_and_another_kind_are_findings(tmp_path: Path) -> None:
    write_sequence(tmp_path)
    write_pixels(tmp_path / "shot.0003.png", gradient(3, width=32, height=18))
    write_pixels(tmp_path / "shot.0005.png", gradient(5, channels=4))
    source = only(tmp_path)
    kinds = {finding.frame: finding.kind for finding in source.found.findings}
    assert kinds == {3: FindingKind.ANOTHER_SIZE, 5: FindingKind.ANOTHER_KIND}
    assert source.health is Health.MIXED
    assert source.to_rerender == ()


def test_the_size_is_that_of_most_frames_not_of_the_first(tmp_path: Path) -> None:
    write_sequence(tmp_path)
    write_pixels(tmp_path / "shot.0001.png", gradient(1, width=32, height=18))
    source = only(tmp_path)
    assert str(source.found.size) == "64 × 36"
    assert [finding.frame for finding in source.found.findings] == [1]


def test_a_sequence_of_rubbish_is_a_source_with_every_frame_damaged(tmp_path: Path) -> None:
    for number in range(1, 4):
        (tmp_path / f"a.{number:04}.exr").write_text("rubbish")
    source = only(tmp_path)
    assert source.damaged == (1, 2, 3)
    assert source.found.format == ""


def test_a_sound_comes_along_and_a_false_one_is_named(tmp_path: Path) -> None:
    write_tone(tmp_path / "tone.wav", seconds=0.5, rate=44_100, channels=1)
    (tmp_path / "false.wav").write_text("no sound")
    (tmp_path / "empty.wav").write_bytes(b"")
    found = scan([tmp_path])
    (tone,) = found.sources
    assert isinstance(tone, Sound)
    assert (tone.sample_rate, tone.channels, tone.samples) == (44_100, 1, 22_050)
    assert len(found.troubles) == 2
    assert any("false.wav" in trouble for trouble in found.troubles)


def test_progress_is_reported_and_it_can_be_stopped(tmp_path: Path) -> None:
    write_sequence(tmp_path)
    seen: list[Progress] = []
    scan([tmp_path], report=seen.append)
    assert seen[-1] == Progress("looking", 8, 8)
    token = CancelToken()
    token.cancel()
    with pytest.raises(Cancelled):
        scan([tmp_path], token=token)


def test_looking_again_sees_what_came_and_what_went(tmp_path: Path) -> None:
    write_sequence(tmp_path, frames=range(1, 9))
    cut(tmp_path / "shot.0003.png")
    (tmp_path / "shot.0005.png").unlink()
    before = only(tmp_path)
    assert before.to_rerender == (3, 5)
    write_sequence(tmp_path, frames=range(3, 6))
    write_sequence(tmp_path, frames=range(9, 11))
    after = look_again(before)
    assert after.to_rerender == ()
    assert after.files.range.last == 10


def test_a_folder_that_is_gone_is_not_to_be_rendered_again(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "frames")
    before = only(folder)
    folder.rename(tmp_path / "elsewhere")
    after = look_again(before)
    assert after.health is Health.MOVED
    assert after.to_rerender == ()
    assert after.unreadable == frozenset(range(1, 9))
    assert "is not where it was" in after.found.findings[0].what
    assert after.found.size == before.found.size
    (tmp_path / "elsewhere").rename(folder)
    assert look_again(after).health is Health.WHOLE
