"""The demo, traced small: its frames, its sound, its job, and what sh030 lacks."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile

from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.errors import Cancelled
from waxseal.core.job.edits import make_stack
from waxseal.core.job.job_file import load
from waxseal.core.job.model import Alpha, Colour, DeliveryState, Operation, Origin, change
from waxseal.core.picture.inspection.pass_comparison import compare_stack
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, Progress, silent
from waxseal.core.timing.ranges import write_frames
from waxseal.demo import making, scenes
from waxseal.demo.chimes import write_chimes, write_gears


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(scenes, "WIDTH", 96)
        patch.setattr(scenes, "HEIGHT", 54)
        folder = tmp_path_factory.mktemp("demo")
        making.make_demo(folder)
    return folder


def test_the_demo_is_what_its_story_says(folder: Path) -> None:
    job = load(folder / "The Brass Orrery.waxseal")
    by_name = {source.name: source for source in job.sequences}
    sh010, sh020, sh030 = (by_name[name] for name in ("sh010", "sh020", "sh030"))
    assert (str(sh010.files.range), sh010.reading.rate.origin) == ("1001-1096", Origin.WRITTEN)
    assert sh010.reading.colour.value is Colour.LINEAR
    assert sh020.reading.rate.value == 12
    assert sh020.reading.alpha.value is Alpha.STRAIGHT
    assert write_frames(sh030.to_rerender) == "14,27,33"
    assert sh030.reading.rate.origin is Origin.GUESS
    assert sh030.found.depth == "uint16"
    reel = programme(job)
    assert (reel.timeline.length, str(reel.timeline.size)) == (240, "96 × 54")
    sounds = {heard.name: heard for heard in job.sounds}
    assert sounds["chimes.wav"].samples == 480_000  # ten seconds, as long as the reel
    bound = {job.sound(one.source).name: one.bound for one in job.reel.sounds}
    assert bound == {"sh010.wav": True, "chimes.wav": False}


def test_the_demo_is_refused_until_somebody_decides(folder: Path) -> None:
    job = load(folder / "The Brass Orrery.waxseal")
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.REFUSED
    assert "14,27 are missing, 33 is damaged" in outcome.reasons[0]
    decided = making.with_stand_ins(job)
    outcome = make_delivery(decided, decided.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert "sh030: the frame before stands in for 14,27,33." in outcome.notes


def test_the_demo_goes_to_four_kinds_of_places(folder: Path) -> None:
    job = making.with_stand_ins(load(folder / "The Brass Orrery.waxseal"))
    names = [path_of(one).name for one in job.deliveries]
    assert names[0] == "orrery_wide.mp4"
    assert [one.spec for one in job.deliveries[1:]] == list(making.DELIVERED_TO)
    assert job.deliveries[2].alpha is Alpha.STRAIGHT
    assert job.deliveries[3].most_bytes == 8_000_000
    for one in job.deliveries[1:3]:
        short = change(one, range=(85, 132))  # over a cut
        outcome = make_delivery(job, short, silent, CancelToken())
        assert outcome.state is DeliveryState.SEALED, outcome.reasons


def test_the_passes_of_the_demo_are_real(folder: Path) -> None:
    """The beauty equals the sum of its light passes, with the beauty's own alpha."""
    job = load(folder / "The Brass Orrery.waxseal")
    by_name = {source.name: source.id for source in job.sequences}
    assert [shot.source for shot in job.reel.shots] == [
        by_name[name] for name in ("sh010", "sh020", "sh030")
    ]
    assert job.reel.behind == by_name["plate"]
    assert job.reel.overlays[0].source == by_name["title"]
    job = make_stack(job, source=by_name["sh010"])
    stack = job.sequence(by_name["sh010"]).stack
    assert stack is not None
    assert stack.passes[-1].operation is Operation.ALPHA
    found = compare_stack(job, by_name["sh010"], (1001, 1048, 1096))
    assert found.is_equal, found.words


def test_it_is_made_once(folder: Path) -> None:
    frame = folder / "frames" / "sh010" / "sh010.1001.exr"
    before = frame.stat().st_mtime_ns
    seen: list[Progress] = []
    making.make_demo(folder, report=seen.append)
    assert seen == []
    assert frame.stat().st_mtime_ns == before


def test_a_lost_job_file_is_built_again_without_tracing(folder: Path) -> None:
    (folder / "The Brass Orrery.waxseal").unlink()
    job = load(making.make_demo(folder))
    assert job.name == "The Brass Orrery"


def test_tracing_can_be_stopped_and_begins_afresh(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(scenes, "WIDTH", 32)
    monkeypatch.setattr(scenes, "HEIGHT", 18)
    token = CancelToken()

    def report(progress: Progress) -> None:
        if progress.done == 5:
            token.cancel()

    with pytest.raises(Cancelled):
        making.make_demo(tmp_path, report=report, token=token)
    assert not (tmp_path / "made").exists()


def test_pictures_are_light_with_alpha_the_same_each_time(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(scenes, "WIDTH", 64)
    monkeypatch.setattr(scenes, "HEIGHT", 36)
    for scene, count in ((scenes.wide, 96), (scenes.passing, 36), (scenes.moonrise, 72)):
        light = scene(count // 2, count)
        assert light.shape == (36, 64, 4)
        assert np.isfinite(light).all()
        assert 0 <= light[..., 3].min() <= light[..., 3].max() <= 1
        assert light[..., :3].max() > 0.1
        np.testing.assert_array_equal(light, scene(count // 2, count))
    assert (scenes.moonrise(3, 72)[..., 3] == 1).all()


@pytest.mark.parametrize(
    ("write", "rate", "shape"),
    [(write_chimes, 48_000, (144_000, 2)), (write_gears, 44_100, (132_300,))],
)
def test_the_sounds_are_seeded_and_leave_room_for_each_other(
    tmp_path: Path, write: Callable[[Path, float], None], rate: int, shape: tuple[int, ...]
) -> None:
    digests = set()
    for name in ("a.wav", "b.wav"):
        write(tmp_path / name, 3.0)
        digests.add(hashlib.sha256((tmp_path / name).read_bytes()).hexdigest())
    assert len(digests) == 1
    samples, written = soundfile.read(tmp_path / "a.wav")
    assert (written, samples.shape) == (rate, shape)
    assert 0.05 < np.abs(samples).max() < 0.5
