"""Nothing blocks for ever, and no library reads what a name only points to."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.making import write_movie, write_sequence, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import JobError, UnreadableInput
from waxseal.core.frames.frame_reader import read_pixels
from waxseal.core.frames.headers import look
from waxseal.core.job.job_file import load
from waxseal.core.job.model import Sequence
from waxseal.core.safe_open import NotAFile, open_regular, path_for_library
from waxseal.core.seal.measure.measure_movie import measure_movie
from waxseal.core.seal.record import check, read_seal, seal_path
from waxseal.core.sound.sound_files import probe_sound

PATIENCE = 20.0  # seconds


def within_time(act: Callable[[], object]) -> object:
    """What an act gives, or raises; it fails when it does not come back."""
    results: list[object] = []

    def work() -> None:
        try:
            results.append(act())
        except Exception as error:  # noqa: BLE001 - handed on
            results.append(error)

    thread = threading.Thread(target=work, daemon=True)
    thread.start()
    thread.join(PATIENCE)
    assert results, "it waits for ever"
    return results[0]


def test_a_pipe_is_not_opened(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    assert isinstance(within_time(lambda: open_regular(tmp_path / "pipe")), NotAFile)
    with pytest.raises(NotAFile):
        open_regular(tmp_path)
    with pytest.raises(FileNotFoundError):
        open_regular(tmp_path / "nobody")


@pytest.mark.parametrize("suffix", ["exr", "png", "tif", "dpx", "jpg", "mp4", "wav", "mkv", "mp3"])
def test_a_pipe_among_the_frames_is_a_finding(tmp_path: Path, suffix: str) -> None:
    pipe = tmp_path / f"a.0003.{suffix}"
    os.mkfifo(pipe)
    for act in (lambda: look(pipe), lambda: read_pixels(pipe)):
        assert isinstance(within_time(act), UnreadableInput)


def test_a_sequence_with_a_pipe_in_it_lacks_that_frame(tmp_path: Path) -> None:
    frames = write_sequence(tmp_path / "frames", frames=range(1, 6))
    (frames / "shot.0003.png").unlink()
    os.mkfifo(frames / "shot.0003.png")
    found = within_time(lambda: scan([frames]))
    (source,) = found.sources  # type: ignore[attr-defined]
    assert isinstance(source, Sequence)
    assert source.to_rerender == (3,)
    assert "not an ordinary file" in source.findings[0].what


def test_pipes_in_place_of_sounds_movies_seals_and_jobs(tmp_path: Path) -> None:
    for name in ("a.wav", "a.mp3", "a.mp4", "b.mp4.seal.json", "a.waxseal"):
        os.mkfifo(tmp_path / name)
    movie = write_movie(tmp_path / "b.mp4")
    for act in (
        lambda: probe_sound(tmp_path / "a.wav"),
        lambda: probe_sound(tmp_path / "a.mp3"),
        lambda: measure_movie(tmp_path / "a.mp4"),
    ):
        assert isinstance(within_time(act), UnreadableInput)
    assert seal_path(movie) == tmp_path / "b.mp4.seal.json"
    assert within_time(lambda: read_seal(movie)) == {}
    assert isinstance(within_time(lambda: load(tmp_path / "a.waxseal")), JobError)


@pytest.mark.parametrize("name", ["http:/host/film.mp4", "concat:a.mp4", "a:b.mp4", "file:c.mp4"])
def test_a_name_with_a_colon_is_a_name(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, name: str
) -> None:
    """Relative too: what is in front of the colon is no protocol."""
    monkeypatch.chdir(tmp_path)
    path = Path(name)
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(write_movie(tmp_path / "film.mp4").read_bytes())
    assert measure_movie(path).frames > 0
    assert check(path).measured is not None


def test_a_playlist_that_is_called_a_movie_reads_no_other_file(tmp_path: Path) -> None:
    movie = write_movie(tmp_path / "film.mp4")
    texts = {
        "concat": f"ffconcat version 1.0\nfile {movie.name}\n",
        "hls": f"#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\n{movie.name}\n#EXT-X-ENDLIST\n",
        "network": "#EXTM3U\n#EXTINF:9,\nhttp://127.0.0.1:9/film.ts\n",
    }
    for name, text in texts.items():
        path = tmp_path / f"{name}.mp4"
        path.write_text(text)
        with pytest.raises(UnreadableInput):
            measure_movie(path)
        with pytest.raises(UnreadableInput):
            read_pixels(path, frame=1)


def test_a_name_that_is_not_text_goes_by_descriptor(tmp_path: Path) -> None:
    path = Path(os.fsdecode(os.fsencode(tmp_path) + b"/\xff.wav"))
    path.write_bytes(write_tone(tmp_path / "a.wav").read_bytes())
    with path_for_library(path) as name:
        assert name.startswith("/proc/self/fd/")
    assert probe_sound(path).samples > 0
