"""Every kind of sound that arrives: its length to the sample, its samples in their places."""

from __future__ import annotations

import struct
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
import soundfile

from tests.making import cut, write_movie, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import SoundError
from waxseal.core.sound.loudness import loudness_of
from waxseal.core.sound.sound_files import probe_sound, read_blocks

RATE, COUNT = 48_000, 50_021


def clicks() -> Any:
    samples = np.zeros((COUNT, 2), np.float32)
    samples[[0, 20_000, COUNT - 1]] = 0.7
    return samples


def write_aac(path: Path, samples: Any) -> Path:
    with av.open(str(path), "w", container_options={"movie_timescale": str(RATE)}) as container:
        stream: Any = container.add_stream("aac", rate=RATE, options={"b": "192000"})
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples.T), "fltp", "stereo")
        frame.sample_rate, frame.pts, frame.time_base = RATE, 0, Fraction(1, RATE)
        turned = av.AudioResampler("fltp", "stereo", RATE, frame_size=1024)
        for part in turned.resample(frame):
            container.mux(stream.encode(part))
        for part in turned.resample(None):
            container.mux(stream.encode(part))
        container.mux(stream.encode(None))
    return path


def heard(path: Path, start: int = 0, block: int = 4096) -> Any:
    return np.concatenate(list(read_blocks(path, start=start, block=block)))


@pytest.mark.parametrize(
    ("name", "kind"),
    [
        ("a.wav", {"format": "WAV", "subtype": "PCM_24"}),
        ("a.wav", {"format": "WAV", "subtype": "FLOAT"}),
        ("b.wav", {"format": "RF64", "subtype": "PCM_16"}),
        ("a.flac", {"format": "FLAC", "subtype": "PCM_24"}),
        ("a.aiff", {"format": "AIFF", "subtype": "PCM_24"}),
        ("a.ogg", {"format": "OGG", "subtype": "VORBIS"}),
        ("a.opus", {"format": "OGG", "subtype": "OPUS"}),
        ("a.mp3", {"format": "MP3"}),
    ],
)
def test_length_and_places_of_clicks(tmp_path: Path, name: str, kind: dict[str, str]) -> None:
    path = tmp_path / name
    soundfile.write(path, clicks(), RATE, **kind)
    sound = probe_sound(path)
    assert (sound.sample_rate, sound.channels) == (RATE, 2)
    assert sound.samples == COUNT
    samples = heard(path)
    assert len(samples) == sound.samples
    near = samples[19_000:21_000, 0]
    assert abs(int(np.argmax(np.abs(near))) + 19_000 - 20_000) <= 2
    np.testing.assert_array_equal(heard(path, start=19_000, block=777), samples[19_000:])


def test_aac_is_as_long_as_it_was_recorded(tmp_path: Path) -> None:
    path = write_aac(tmp_path / "a.m4a", clicks())
    sound = probe_sound(path)
    assert (sound.format, sound.sample_rate, sound.channels) == ("AAC", RATE, 2)
    assert 0 <= sound.samples - COUNT < 1024
    samples = heard(path)
    assert abs(int(np.argmax(np.abs(samples[19_000:21_000, 0]))) - 1000) <= 2
    np.testing.assert_array_equal(heard(path, start=12_345, block=999), samples[12_345:])


def test_the_sound_of_a_movie_is_heard(tmp_path: Path) -> None:
    path = write_movie(tmp_path / "a.mov", sound_seconds=1.5)
    sound = probe_sound(path)
    assert abs(sound.samples - 72_000) < 1024
    assert 0.15 < np.abs(heard(path)[10_000:60_000]).max() < 0.3
    with pytest.raises(SoundError, match="no sound in it"):
        probe_sound(write_movie(tmp_path / "b.mov", count=5))


def test_the_start_of_a_broadcast_wav_is_read(tmp_path: Path) -> None:
    """EBU Tech 3285: TimeReference counts samples from midnight."""
    path = write_tone(tmp_path / "a.wav", seconds=0.1)
    assert probe_sound(path).start is None
    content = path.read_bytes()
    bext = bytes(338) + struct.pack("<Q", 10 * 3600 * RATE) + bytes(256)
    chunk = b"bext" + struct.pack("<I", len(bext)) + bext
    body = content[12:]
    path.write_bytes(
        b"RIFF" + struct.pack("<I", 4 + len(chunk) + len(body)) + b"WAVE" + chunk + body
    )
    sound = probe_sound(path)
    assert (sound.start, sound.samples) == (10 * 3600 * RATE, 4800)


@pytest.mark.parametrize("name", ["a.wav", "a.mp3", "a.m4a", "a.opus"])
@pytest.mark.parametrize("content", [b"", b"no sound", bytes(4000)])
def test_what_is_no_sound_is_a_sentence(tmp_path: Path, name: str, content: bytes) -> None:
    path = tmp_path / name
    path.write_bytes(content)
    found = scan([tmp_path])
    assert not found.sources
    assert name in found.troubles[0]
    with pytest.raises(SoundError, match="not there"):
        probe_sound(tmp_path / f"none{name}")


def test_a_cut_flac_is_damaged_where_it_is_cut(tmp_path: Path) -> None:
    path = tmp_path / "a.flac"
    noise = np.random.default_rng(1).normal(0, 0.1, (COUNT, 2))
    soundfile.write(path, noise, RATE)
    cut(path, 0.5)
    with suppress(SoundError):
        assert len(heard(path)) < COUNT


def test_a_rate_that_no_sound_has_is_damage(tmp_path: Path) -> None:
    path = write_tone(tmp_path / "a.wav", seconds=0.1)
    content = bytearray(path.read_bytes())
    struct.pack_into("<I", content, 24, 0x7FFF_FFFF)
    path.write_bytes(content)
    with pytest.raises(SoundError, match="claims what no sound has"):
        probe_sound(path)


def test_silence_has_no_loudness(tmp_path: Path) -> None:
    path = tmp_path / "a.wav"
    soundfile.write(path, np.zeros((RATE, 2)), RATE)
    measured = loudness_of(path)
    assert measured is not None
    assert measured.integrated_lufs is None
    soundfile.write(path, np.zeros((RATE, 7)), RATE)
    assert loudness_of(path) is None
