"""Segments: what was encoded once is never encoded again, and the bytes are always the same."""

from __future__ import annotations

import ast
import os
import shutil
import sys
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import PyOpenColorIO as ocio
import pytest
from typing_extensions import override

from tests.making import gradient, job_of, write_sequence, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.codecs import CODECS, Codec, StreamEncoder
from waxseal.core.deliver.codecs.codec import as_it_is
from waxseal.core.deliver.encode.encode_state import EncodeOptions
from waxseal.core.deliver.encode.prefetch import Prefetch
from waxseal.core.deliver.encode.segments import (
    cluster_backend,
    encode_backends,
    segment_builder,
    segment_store,
    still_segments,
)
from waxseal.core.deliver.encode.segments.segment_cuts import spans_of
from waxseal.core.deliver.encode.segments.segment_file import SegmentWriter, StoreFull
from waxseal.core.deliver.encode.segments.segment_pictures import stream_key
from waxseal.core.deliver.encode.segments.segment_store import SegmentStore
from waxseal.core.deliver.format.delivery_settings import film_of, form_of
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.folders import segments_folder
from waxseal.core.frames import frame_writer, png_frames
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import Lut
from waxseal.core.job.edits import (
    change_colourway,
    change_delivery,
    mark,
    set_correction,
    take_in,
    trim_tail,
)
from waxseal.core.job.model import Alpha, Bitrate, DeliveryState, Job, Outcome, change
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, Progress, silent

FRAMES = 30


pytestmark = pytest.mark.usefixtures("short_segments")


@pytest.fixture
def encoded(monkeypatch: pytest.MonkeyPatch) -> Counter[int]:
    """How often each frame was made for an encoder."""
    count: Counter[int] = Counter()
    real = Prefetch.next_made

    def next_made(self: Prefetch, reel_frame: int) -> Any:
        count[reel_frame] += 1
        return real(self, reel_frame)

    monkeypatch.setattr(Prefetch, "next_made", next_made)
    return count


@pytest.fixture
def job(tmp_path: Path) -> Job:
    folder = tmp_path / "a"
    write_sequence(folder, frames=range(1, FRAMES + 1), width=256, height=144)
    write_tone(tmp_path / "a" / "tone.wav", seconds=FRAMES / 24)
    return job_of(folder)


def remove(path: Path) -> None:
    """A delivered file, or a folder of frames."""
    if path.is_dir():
        shutil.rmtree(path)
    else:
        path.unlink(missing_ok=True)


def delivered(job: Job, **fields: object) -> Outcome:
    job = change_delivery(job, delivery="d1", **fields)
    remove(path_of(job.deliveries[0]))
    return make_delivery(job, job.deliveries[0], silent, CancelToken())


def sealed(job: Job, **fields: object) -> str:
    outcome = delivered(job, **fields)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return outcome.sha256


def clean(job: Job, **fields: object) -> str:
    """The bytes of a film of which nothing was encoded before."""
    shutil.rmtree(segments_folder(), ignore_errors=True)
    return sealed(job, **fields)


def lengths(job: Job) -> list[int]:
    planned, delivery = programme(job), job.deliveries[0]
    form = form_of(planned.timeline, delivery)
    return [span.count for span in spans_of(film_of(planned, delivery), form)]


# ---- where it is cut ---------------------------------------------------------------------------


def two_shots(tmp_path: Path, first: int, second: int) -> Job:
    for name, count in (("a", first), ("b", second)):
        write_sequence(tmp_path / name, f"{name}.%04d.png", frames=range(1, count + 1))
    return take_in(Job(), sources=scan([tmp_path]).sources, folder=str(tmp_path))


@pytest.mark.parametrize(
    ("first", "second", "spans"),
    [
        (8, 8, [8, 8]),
        (6, 10, [6, 10]),  # at the cut; a rest of two would be too short
        (3, 13, [8, 8]),  # too near the beginning to be worth a key frame
        (14, 3, [8, 9]),
        (2, 2, [4]),
    ],
)
def test_a_film_is_cut_where_shots_are(
    tmp_path: Path, first: int, second: int, spans: list[int]
) -> None:
    assert lengths(two_shots(tmp_path, first, second)) == spans


def test_a_segment_is_so_many_key_frames_long_and_a_bitrate_has_room(tmp_path: Path) -> None:
    job = two_shots(tmp_path, 6, 26)
    assert lengths(change_delivery(job, delivery="d1", key_seconds=3 / 24)) == [6, 6, 6, 6, 8]
    assert lengths(change_delivery(job, delivery="d1", key_seconds=20 / 24)) == [6, 20, 6]
    bits = Bitrate(bits_per_second=400_000)
    assert lengths(change_delivery(job, delivery="d1", quality=bits)) == [8, 8, 8, 8]


# ---- never twice -------------------------------------------------------------------------------


@pytest.mark.parametrize("fields", [{}, {"codec": "PNG"}, {"codec": "DPX"}])
def test_what_was_stopped_goes_on_where_it_was(
    job: Job, encoded: Counter[int], fields: dict[str, str]
) -> None:
    job = change_delivery(job, delivery="d1", **fields)
    whole = clean(job)
    shutil.rmtree(segments_folder())
    encoded.clear()
    token = CancelToken()

    def report(progress: Progress) -> None:
        if progress.done == 19:
            token.cancel()

    remove(path_of(job.deliveries[0]))
    two = EncodeOptions(workers=2)  # with 19 frames done, one of two segments of eight is whole
    outcome = make_delivery(job, job.deliveries[0], report, token, who=two)
    assert outcome.state is DeliveryState.STOPPED
    kept = len(list(segments_folder().iterdir()))
    assert kept >= 1
    assert sealed(job) == whole
    again = [frame for frame, times in encoded.items() if times > 1]
    assert len(again) <= 8 * two.workers
    assert sum(encoded.values()) < 2 * FRAMES


@pytest.mark.parametrize("fields", [{}, {"codec": "PNG"}])
def test_somebody_may_empty_the_store_meanwhile(job: Job, fields: dict[str, str]) -> None:
    job = change_delivery(job, delivery="d1", **fields)
    whole = clean(job)
    shutil.rmtree(segments_folder())

    def empty(_progress: Progress) -> None:
        shutil.rmtree(segments_folder(), ignore_errors=True)

    remove(path_of(job.deliveries[0]))
    outcome = make_delivery(job, job.deliveries[0], empty, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert outcome.sha256 == whole


def test_one_frame_that_is_rendered_again_costs_its_segment(
    job: Job, tmp_path: Path, encoded: Counter[int]
) -> None:
    clean(job)
    write_pixels(tmp_path / "a" / "shot.0013.png", 255 - gradient(13, width=256, height=144))
    encoded.clear()
    patched = sealed(job)
    assert sorted(encoded) == list(range(9, 17))
    assert patched == clean(job)


def test_a_cut_that_moves_costs_its_own_shot(tmp_path: Path, encoded: Counter[int]) -> None:
    job = two_shots(tmp_path, 14, 24)
    clean(job)
    job = trim_tail(job, shot=job.reel.shots[0].id, last=13)
    encoded.clear()
    trimmed = sealed(job)
    assert max(encoded) <= 13
    assert trimmed == clean(job)


def test_another_quality_and_another_codec_are_other_segments(
    job: Job, encoded: Counter[int]
) -> None:
    clean(job)
    for fields in ({"key_seconds": 1.0}, {"dither": True}, {"codec": "H.265"}):
        encoded.clear()
        sealed(job, **fields)
        assert sum(encoded.values()) == FRAMES
    encoded.clear()
    sealed(job, name="other")
    assert not encoded  # its name is no part of it


@pytest.mark.parametrize("place", [3, 20, 40, 0.3, 0.9, -3])
def test_a_flipped_bit_in_the_store_is_found(job: Job, encoded: Counter[int], place: float) -> None:
    whole = clean(job)
    path = sorted(segments_folder().iterdir())[1]
    body = bytearray(path.read_bytes())
    body[int(place * len(body)) if isinstance(place, float) else place] ^= 4
    path.write_bytes(body)
    encoded.clear()
    assert sealed(job) == whole
    assert 6 <= sum(encoded.values()) <= 8


@pytest.mark.parametrize("left", [0, 10, 500])
def test_a_segment_that_was_cut_short_is_encoded_again(job: Job, left: int) -> None:
    whole = clean(job)
    for path in segments_folder().iterdir():
        path.write_bytes(path.read_bytes()[:left])
    assert sealed(job) == whole


# ---- always the same bytes ---------------------------------------------------------------------


@pytest.mark.parametrize("workers", [1, 3])
def test_how_many_work_makes_no_difference(
    job: Job, monkeypatch: pytest.MonkeyPatch, workers: int
) -> None:
    whole = clean(job)
    monkeypatch.setattr(encode_backends, "workers_for", lambda *_forms, **_more: workers)
    assert clean(job) == whole


def kinds() -> Iterator[Any]:
    for codec in CODECS.values():
        for alpha in (Alpha.NONE, *codec.alphas[:1]):
            yield pytest.param(codec, alpha, id=f"{codec.name} {alpha}")


@pytest.mark.parametrize(("codec", "alpha"), list(kinds()))
def test_every_codec_is_the_same_out_of_the_store(
    tmp_path: Path, codec: Codec, alpha: Alpha, encoded: Counter[int]
) -> None:
    folder = tmp_path / "a"
    write_sequence(folder, frames=range(1, 22), width=288, height=270, channels=4)
    write_tone(folder / "tone.wav", seconds=21 / 24)
    container = codec.clear_containers[0] if alpha is not Alpha.NONE else codec.containers[0]
    fields = {"codec": codec.name, "space": codec.usual_space, "alpha": alpha}
    fields["container"] = container
    job = job_of(folder)
    whole = clean(job, **fields)
    assert sum(encoded.values()) == 21
    encoded.clear()
    for path in list(segments_folder().glob("*"))[::2]:
        path.unlink()
    assert sealed(job, **fields) == whole
    assert 0 < sum(encoded.values()) < 21


# ---- where there is no room --------------------------------------------------------------------


def test_a_store_that_cannot_be_written_stops_nothing(
    job: Job, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    whole = clean(job)
    monkeypatch.setattr(segment_store, "LEAST_FREE", 1 << 60)
    shutil.rmtree(segments_folder())
    (tmp_path / "file").touch()
    monkeypatch.setattr(segment_store, "segments_folder", lambda: tmp_path / "file" / "below")
    assert sealed(job) == whole


def test_a_store_that_is_full_half_way_stops_nothing(
    job: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    whole = clean(job)
    shutil.rmtree(segments_folder())

    class Full(SegmentWriter):
        @override
        def add(self, coded: Any) -> None:
            if not hasattr(self._file, "getbuffer") and coded.frame == 5:
                raise StoreFull
            super().add(coded)

    monkeypatch.setattr(segment_builder, "SegmentWriter", Full)
    assert sealed(job) == whole
    assert not list(segments_folder().iterdir())  # nothing half-written either


def test_what_was_used_longest_ago_goes_first(job: Job) -> None:
    clean(job)
    sizes = {one.name: one.stat().st_size for one in segments_folder().iterdir()}
    small = SegmentStore(most_bytes=sum(sizes.values()) // 2)
    with small.writing("0" * 32) as file:
        file.write(b"x" * 100)
    left = [one.name for one in segments_folder().iterdir()]
    assert "0" * 32 + ".segment" in left
    size = sum(one.stat().st_size for one in segments_folder().iterdir())
    assert size <= sum(sizes.values()) // 2


def test_a_marked_range_uses_what_the_reel_has(job: Job, encoded: Counter[int]) -> None:
    """Segments go by what is in them, not by where they are."""
    clean(job)
    encoded.clear()
    sealed(mark(job, first=9, last=24), name="part")
    assert not encoded


# ---- never of other files ------------------------------------------------------------------------


def test_a_frame_that_is_replaced_on_the_way_is_not_kept_under_its_old_name(
    job: Job, tmp_path: Path
) -> None:
    """And put back later, with its old time: its segment has to be its own."""
    whole = clean(job)
    shutil.rmtree(segments_folder())
    frame = tmp_path / "a" / "shot.0028.png"
    before, times = frame.read_bytes(), frame.stat()

    def report(progress: Progress) -> None:
        if progress.done == 1:
            write_pixels(frame, 255 - gradient(28, width=256, height=144))

    path_of(job.deliveries[0]).unlink()
    outcome = make_delivery(job, job.deliveries[0], report, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert outcome.sha256 != whole
    frame.write_bytes(before)
    os.utime(frame, ns=(times.st_atime_ns, times.st_mtime_ns))
    assert sealed(job) == whole


def test_a_config_that_is_changed_makes_other_segments(
    job: Job, tmp_path: Path, encoded: Counter[int]
) -> None:
    config = tmp_path / "own.ocio"
    config.write_text(ocio.Config.CreateRaw().serialize())
    job = change_colourway(job, config=str(config))
    clean(job)
    encoded.clear()
    sealed(job)
    assert not encoded
    config.write_text(ocio.Config.CreateRaw().serialize() + "\n# another\n")
    sealed(job)
    assert sum(encoded.values()) == FRAMES


def test_a_lut_that_is_changed_makes_other_segments(
    job: Job, tmp_path: Path, encoded: Counter[int]
) -> None:
    lut = tmp_path / "look.cube"
    lines = [f"{r} {g} {b}" for b in (0, 1) for g in (0, 1) for r in (0, 1)]
    lut.write_text("LUT_3D_SIZE 2\n" + "\n".join(lines) + "\n")
    job = set_correction(job, of=job.reel.shots[0].id, correction=Lut(path=str(lut)))
    first = clean(job)
    encoded.clear()
    lut.write_text("LUT_3D_SIZE 2\n" + "\n".join(lines[::-1]) + "\n# turned\n")
    assert sealed(job) != first
    assert sum(encoded.values()) == FRAMES


@pytest.mark.parametrize("library", ["OpenImageIO", "OpenEXR", "av", "deflate"])
def test_a_library_of_another_version_makes_other_frames(
    job: Job, monkeypatch: pytest.MonkeyPatch, library: str
) -> None:
    """Its bytes may be others, and a file is never made of both; nor by two machines with both."""
    form = form_of(programme(job).timeline, change(job.deliveries[0], codec="PNG"))
    key, machine = still_segments.file_key(form), cluster_backend.version_here()
    for module in (still_segments, cluster_backend):
        usual = module.version
        monkeypatch.setattr(
            module, "version", lambda name, usual=usual: "9" if name == library else usual(name)
        )
    assert still_segments.file_key(form) != key
    assert cluster_backend.version_here() != machine


def test_what_writes_frames_is_in_their_key() -> None:
    """Whoever has frames written by one more library adds it to what their segments go by."""
    used = set()
    for module in (frame_writer, png_frames):
        tree = ast.parse(Path(str(module.__file__)).read_text())
        for node in ast.walk(tree):
            if isinstance(node, ast.Import):
                used |= {one.name.partition(".")[0] for one in node.names}
            elif isinstance(node, ast.ImportFrom):
                used.add(str(node.module).partition(".")[0])
    others = used - set(sys.stdlib_module_names) - {"numpy", "typing_extensions", "waxseal"}
    assert others == set(still_segments.WRITERS)


# ---- two at the same time ----------------------------------------------------------------------


def test_what_comes_while_it_is_looked_for_is_not_removed(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Pieces that are alike have one key, and may be made at the same time."""
    path = tmp_path / "key.segment"
    (tmp_path / "other").touch()

    def too_early(path: Path) -> None:
        (tmp_path / "other").rename(path)
        raise FileNotFoundError(path)

    monkeypatch.setattr(segment_store, "open_regular", too_early)
    assert SegmentStore(tmp_path).find("key") is None
    assert path.exists()


def test_a_segment_that_somebody_removes_at_once_is_there_still(
    job: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    expected = clean(job)
    keep_as = segment_store.keep_as

    def kept_and_gone(file: Any, path: Path) -> None:
        keep_as(file, path)
        path.unlink()

    monkeypatch.setattr(segment_store, "keep_as", kept_and_gone)
    assert clean(job) == expected


def test_what_mends_a_packet_belongs_to_the_key(job: Job) -> None:
    """Segments of before it would be joined with frames that say another colour."""
    job = change_delivery(job, delivery="d1", codec="DNxHR HQX", container="MOV")
    form = form_of(programme(job).timeline, job.deliveries[0])
    coding = form.codec.coding
    assert isinstance(coding, StreamEncoder)
    plain = replace(form, codec=replace(form.codec, coding=replace(coding, mend=as_it_is)))
    assert stream_key(plain) != stream_key(form)
