"""The sound of a delivery: its codec, how loud it is, and the timecode beside it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
import soundfile

from tests.making import job_of, write_sequence
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.codecs import CODECS
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.match import match
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.errors import JobError
from waxseal.core.job.edits import change_delivery, take_in
from waxseal.core.job.model import DeliveryState, Job, Outcome
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.file_facts import Measured
from waxseal.core.seal.measure.measure_frames import measure_frames
from waxseal.core.seal.measure.measure_movie import measure_movie
from waxseal.core.seal.record import check, read_seal
from waxseal.core.sound.sound_files import read_blocks

FRAMES, RATE = 72, 48_000


@pytest.fixture(scope="module")
def clip(tmp_path_factory: pytest.TempPathFactory) -> Job:
    """Three seconds with a sound that is quiet but for a few strokes."""
    folder = tmp_path_factory.mktemp("clip")
    write_sequence(folder / "a", frames=range(1, FRAMES + 1))
    samples = np.random.default_rng(3).standard_normal((FRAMES * RATE // 24, 2)) * 0.03
    for at in range(10_000, len(samples), 30_000):
        samples[at : at + 200] *= 12
    soundfile.write(folder / "strokes.wav", samples, RATE, subtype="PCM_24")
    return take_in(Job(), sources=scan([folder]).sources, folder=str(folder))


def delivered(job: Job, folder: Path, **fields: object) -> tuple[Outcome, Path]:
    job = change_delivery(job, delivery="d1", folder=str(folder), name="file", **fields)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    return outcome, path_of(job.deliveries[0])


def sealed(job: Job, folder: Path, **fields: object) -> tuple[Outcome, Measured]:
    outcome, path = delivered(job, folder, **fields)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    return outcome, (measure_frames if path.is_dir() else measure_movie)(path)


def codec_for(container: str) -> str:
    """The first that goes into it and takes display codes."""
    fits = (one for one in CODECS.values() if container in one.containers and one.takes_codes)
    return next(one.name for one in fits)


PAIRS = [
    (container.name, sound.name) for container in CONTAINERS.values() for sound in container.sounds
]


@pytest.mark.parametrize(("container", "sound"), PAIRS)
def test_every_sound_goes_into_its_containers_to_the_sample(
    clip: Job, tmp_path: Path, container: str, sound: str
) -> None:
    fields = {"codec": codec_for(container), "container": container, "sound_codec": sound}
    _, measured = sealed(clip, tmp_path, **fields)
    assert measured.sound is not None
    assert measured.sound.codec == CONTAINERS[container].sound_codec(sound).codec  # type: ignore[union-attr]
    assert measured.sound.seconds == FRAMES / 24


@pytest.mark.parametrize(
    ("container", "sound"), [("MP4", "AAC"), ("WebM", "Opus"), ("MOV", "PCM, 24 bits")]
)
@pytest.mark.parametrize(("loudness", "peak"), [(-16.0, -1.0), (-23.0, -3.0), (-14.0, None)])
def test_the_file_is_as_loud_as_it_has_to_be(
    clip: Job, tmp_path: Path, container: str, sound: str, loudness: float, peak: float | None
) -> None:
    fields = {"codec": codec_for(container), "container": container, "sound_codec": sound}
    outcome, measured = sealed(clip, tmp_path, loudness=loudness, true_peak=peak, **fields)
    assert measured.loudness is not None
    assert measured.loudness.integrated_lufs == pytest.approx(loudness, abs=0.5)
    assert peak is None or measured.loudness.true_peak_dbtp <= peak
    assert any("LUFS" in note for note in outcome.notes)
    seal = read_seal(tmp_path / f"file{CONTAINERS[container].suffix}") or {}
    assert seal["loudness_lufs"] == round(measured.loudness.integrated_lufs or 0, 1)


def test_a_sound_that_cannot_be_as_loud_is_refused_before_a_frame(
    clip: Job, tmp_path: Path
) -> None:
    outcome, path = delivered(clip, tmp_path, loudness=-6.0, true_peak=-19.0)
    assert outcome.state is DeliveryState.REFUSED
    assert outcome.reasons[0].startswith("The sound cannot be made −6 LUFS loud as it is")
    assert not path.exists()


def test_frames_have_their_sound_beside_them_bit_for_bit(clip: Job, tmp_path: Path) -> None:
    fields = {"codec": "PNG", "range": (13, 36)}
    _, measured = sealed(clip, tmp_path, **fields)
    assert measured.sound is not None
    assert measured.sound.seconds == 1
    beside, rate = soundfile.read(tmp_path / "file" / "file.wav", dtype="int32")
    source, _ = soundfile.read(clip.sounds[0].path, dtype="int32", start=RATE // 2, frames=RATE)
    assert rate == RATE
    np.testing.assert_array_equal(beside, source)
    # It comes back with the frames, is made over like them, and is under the seal.
    found = scan([tmp_path / "file"]).sources
    assert sorted(one.kind for one in found) == ["sequence", "sound"]
    seal = read_seal(tmp_path / "file") or {}
    assert seal["sound"] == {
        "codec": "pcm_s24le",
        "sample_rate": RATE,
        "channels": 2,
        "seconds": 1.0,
    }
    path = tmp_path / "file"
    with (path / "file.wav").open("r+b") as wave:
        wave.seek(-3, 2)
        wave.write(b"abc")
    assert check(path).state is DeliveryState.SEAL_BROKEN


def test_frames_are_as_loud_as_they_have_to_be(clip: Job, tmp_path: Path) -> None:
    _, measured = sealed(clip, tmp_path, codec="DPX", loudness=-18.0, true_peak=-1.0)
    assert measured.loudness is not None
    assert measured.loudness.integrated_lufs == pytest.approx(-18.0, abs=0.5)


def test_a_sound_that_nobody_wants_louder_stays_as_it_is(clip: Job, tmp_path: Path) -> None:
    (tmp_path / "one").mkdir()
    plain, _ = sealed(clip, tmp_path / "one", codec="ProRes LT")
    assert not [note for note in plain.notes if "LUFS" in note]


def test_silence_is_not_made_loud(tmp_path: Path) -> None:
    write_sequence(tmp_path / "a", frames=range(1, 13))
    soundfile.write(tmp_path / "hush.wav", np.zeros((24_000, 2)), RATE)
    job = take_in(Job(), sources=scan([tmp_path]).sources, folder=str(tmp_path))
    sealed(job, tmp_path, loudness=-14.0, true_peak=-1.0)


@pytest.mark.parametrize("container", [one.name for one in CONTAINERS.values() if one.has_timecode])
def test_a_file_begins_at_its_timecode(clip: Job, tmp_path: Path, container: str) -> None:
    fields = {"codec": codec_for(container), "container": container}
    _, measured = sealed(clip, tmp_path, timecode="01:00:00:00", **fields)
    assert measured.timecode == "01:00:00:00"


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"codec": "MJPEG", "container": "AVI"}, "AVI carries no timecode: leave it out."),
        (
            {"timecode": "01:00:00:24"},
            "There is no timecode 01:00:00:24 at 24 fps: choose another.",
        ),
        ({"timecode": "01:00:00;00"}, "Drop-frame timecode is for 29.97 and 59.94"),
    ],
)
def test_a_timecode_that_cannot_be_is_refused_before(
    clip: Job, tmp_path: Path, fields: dict[str, str], words: str
) -> None:
    outcome, _ = delivered(clip, tmp_path, **{"timecode": "01:00:00:00", **fields})
    assert outcome.state is DeliveryState.REFUSED
    assert outcome.reasons[0].startswith(words)


def test_what_is_no_timecode_and_no_sound_of_the_container_is_said(clip: Job) -> None:
    with pytest.raises(JobError, match="is not a timecode"):
        change_delivery(clip, delivery="d1", timecode="one hour")
    job = change_delivery(clip, delivery="d1", sound_codec="Opus", container="MOV")
    with pytest.raises(JobError, match="MOV carries no sound in Opus: choose PCM, 24 bits"):
        match(programme(job), job.deliveries[0])


def test_the_match_table_says_what_is_done_to_the_sound(clip: Job) -> None:
    job = change_delivery(clip, delivery="d1", loudness=-14.0, true_peak=-1.0, sound_codec="FLAC")
    row = next(one for one in match(programme(job), job.deliveries[0]) if one.what == "sound")
    assert row.file == "FLAC, 48 kHz"
    assert "Loudness set to −14 LUFS. True peak limited to −1 dBTP." in row.done


@pytest.mark.parametrize(("codec", "container"), [("H.264", "MP4"), ("VP9", "WebM")])
def test_a_sound_that_its_codec_makes_too_loud_is_noted_unasked(
    clip: Job, tmp_path: Path, codec: str, container: str
) -> None:
    """Full scale square waves: what a codec gives back swings over them."""
    path = Path(clip.sounds[0].path)
    samples, rate = soundfile.read(path)
    soundfile.write(path, np.sign(samples + 1e-9) * 0.999, rate, subtype="PCM_24")
    outcome, file = delivered(clip, tmp_path, codec=codec, container=container)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert any("dBTP and may distort" in note for note in outcome.notes)
    assert any("dBTP and may distort" in note for note in (read_seal(file) or {})["notes"])


@pytest.mark.parametrize(("channels", "words"), [(1, "mono"), (2, "stereo")])
def test_surround_is_mixed_down_where_a_delivery_wants_that(
    tmp_path: Path, channels: int, words: str
) -> None:
    """The centre of 5.1 alone, at 0.4: 0.7071 of it left and right, all of it in mono."""
    write_sequence(tmp_path / "a", frames=range(1, 13))
    surround = np.zeros((24_000, 6), np.float32)
    surround[:, 2] = 0.4
    soundfile.write(tmp_path / "a" / "shot.wav", surround, 48_000, subtype="FLOAT")
    job = job_of(tmp_path / "a")
    job = change_delivery(job, delivery="d1", codec="ProRes LT", sound_channels=channels)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert f"The sound is mixed down from 5.1 to {words}." in outcome.notes
    heard = np.concatenate(list(read_blocks(path_of(job.deliveries[0]), start=0, block=48_000)))
    level = 0.4 if channels == 1 else 0.4 * np.sqrt(0.5)
    np.testing.assert_allclose(heard[:20_000], level, atol=1e-4)
    assert heard.shape[1] == channels


@pytest.mark.parametrize(
    ("rate", "channels", "seconds"), [(44_100, 2, 0.5), (48_000, 1, 0.5), (48_000, 2, 0.3)]
)
@pytest.mark.parametrize("suffix", ["wav", "m4a"])
def test_a_sound_that_was_replaced_by_another_is_refused(
    tmp_path: Path, rate: int, channels: int, seconds: float, suffix: str
) -> None:
    """It would be heard too slow, on one side, or as silence, as if the reel said so."""
    write_sequence(tmp_path / "a", frames=range(1, 13))
    sound = tmp_path / "a" / f"shot.{suffix}"
    write_sound(sound, 48_000, 2, 0.5)
    job = job_of(tmp_path / "a")
    job = change_delivery(job, delivery="d1", codec="ProRes LT")
    write_sound(sound, rate, channels, seconds)
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.REFUSED
    assert "is another than when it was looked at" in outcome.reasons[0]


def write_sound(path: Path, rate: int, channels: int, seconds: float) -> None:
    values = np.full((round(rate * seconds), channels), 0.25, np.float32)
    if path.suffix == ".wav":
        soundfile.write(path, values, rate, subtype="PCM_24")
        return
    with av.open(str(path), "w", format="mp4") as out:
        layout = {1: "mono", 2: "stereo"}[channels]
        track: Any = out.add_stream("aac", rate=rate, layout=layout)
        frame = av.AudioFrame.from_ndarray(
            np.ascontiguousarray(values.T), format="fltp", layout=layout
        )
        frame.sample_rate, frame.pts = rate, 0
        for part in av.AudioResampler("fltp", layout, rate, frame_size=1024).resample(frame):
            out.mux(track.encode(part))
        out.mux(track.encode(None))
