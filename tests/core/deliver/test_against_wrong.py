"""What `check --against` catches, made wrong on purpose by another encoder with the right tags.

The table in docs/seal.md is written from here: `python -m tests.doc_tables`.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray

from tests.doc_tables import as_table, table_in
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.compare.compare_file import Against, check_against
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery, set_rate, take_in
from waxseal.core.job.model import DeliveryState, Job
from waxseal.core.progress import CancelToken, silent

WIDE, TALL, COUNT, RATE = 320, 180, 48, 48_000

Pictures = list[NDArray[np.uint8]]
Wave = NDArray[np.float32]


def soft_pan() -> Pictures:
    """Soft clouds that move half a pixel a frame: the hardest to judge."""
    chance = np.random.default_rng(5)
    clouds = cv2.GaussianBlur(chance.random((TALL, WIDE + COUNT, 3)).astype(np.float32), (0, 0), 6)
    clouds = (clouds - clouds.min()) / (clouds.max() - clouds.min())
    grain = cv2.GaussianBlur(chance.random((TALL, WIDE + COUNT, 3)).astype(np.float32), (0, 0), 0.7)
    whole = np.clip(clouds * 0.8 + (grain - 0.5) * 0.25 + 0.05, 0, 1)
    made = []
    for number in range(COUNT):
        shift = np.array([[1, 0, -number / 2], [0, 1, 0]], np.float32)
        moved = cv2.warpAffine(whole, shift, (WIDE, TALL), flags=cv2.INTER_LINEAR)
        made.append(np.rint(moved * 255).astype(np.uint8))
    return made


def music() -> Wave:
    """Something like speech and bells: noise in bursts, and tones, other on each side."""
    chance, time = np.random.default_rng(3), np.arange(RATE * 2) / RATE
    bursts = np.convolve(chance.normal(size=len(time)), np.ones(9) / 9, "same")
    bursts *= 0.2 * (np.sin(2 * np.pi * 3.3 * time) > 0)
    left = bursts + 0.1 * np.sin(2 * np.pi * 440 * time) * np.exp(-3 * (time % 0.7))
    right = 0.5 * bursts + 0.1 * np.sin(2 * np.pi * 554 * time) * np.exp(-2 * (time % 0.5))
    return np.stack([left, right], axis=1).astype(np.float32)


@pytest.fixture(scope="module")
def job(tmp_path_factory: pytest.TempPathFactory) -> Job:
    return reel_in(tmp_path_factory.mktemp("against"))


def reel_in(folder: Path) -> Job:
    (folder / "a").mkdir()
    for number, picture in enumerate(soft_pan(), 1):
        write_pixels(folder / "a" / f"a.{number:04}.png", picture)
    soundfile.write(folder / "a" / "a.wav", music(), RATE, subtype="PCM_24")
    (folder / "out").mkdir()
    job = take_in(Job(), sources=scan([folder / "a"]).sources, folder=str(folder / "out"))
    return set_rate(job, source=job.sequences[0].id, rate=Fraction(24))


def encode(
    path: Path,
    pictures: Sequence[NDArray[Any]],
    sound: Wave,
    *,
    as_full: bool = False,
    crf: int = 18,
) -> Path:
    """As another program would, tagged BT.709 and limited. as_full: codes are full all the same."""
    with av.open(str(path), "w", options={"movflags": "+faststart"}) as movie:
        stream: Any = movie.add_stream("libx264", rate=24, options={"crf": str(crf)})
        stream.width, stream.height, stream.pix_fmt = WIDE, TALL, "yuv420p"
        context = stream.codec_context
        context.color_range = context.colorspace = context.color_primaries = 1
        context.color_trc = 1
        heard: Any = movie.add_stream("aac", rate=RATE, options={"b": "192000"})
        heard.codec_context.layout = "stereo"
        for number, picture in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="rgb24")
            frame = frame.reformat(
                format="yuv420p",
                src_color_range=2,
                dst_colorspace=1,
                dst_color_range=2 if as_full else 1,
            )
            frame.color_range = frame.colorspace = frame.color_primaries = 1
            frame.color_trc = 1
            frame.pts = number
            movie.mux(stream.encode(frame))
        movie.mux(stream.encode(None))
        for at in range(0, len(sound), 1024):
            part = np.ascontiguousarray(sound[at : at + 1024].T)
            samples = av.AudioFrame.from_ndarray(part, format="fltp", layout="stereo")
            samples.sample_rate, samples.pts, samples.time_base = RATE, at, Fraction(1, RATE)
            movie.mux(heard.encode(samples))
        movie.mux(heard.encode(None))
    return path


# ---- what is wrong -------------------------------------------------------------------------------


def each(change: Callable[[NDArray[np.float64]], NDArray[Any]]) -> Callable[[Pictures], Pictures]:
    """The same done to each picture, in codes 0..255."""

    def changed(pictures: Pictures) -> Pictures:
        done = (change(one.astype(np.float64)) for one in pictures)
        return [np.rint(np.clip(one, 0, 255)).astype(np.uint8) for one in done]

    return changed


def blurred(sigma: float, picture: NDArray[np.float64]) -> NDArray[Any]:
    return cv2.GaussianBlur(picture, (0, 0), sigma)


def enlarged(picture: NDArray[np.float64]) -> NDArray[Any]:
    small = cv2.resize(picture, (WIDE // 2, TALL // 2), interpolation=cv2.INTER_AREA)
    return cv2.resize(small, (WIDE, TALL), interpolation=cv2.INTER_CUBIC)


def limited(picture: NDArray[np.float64]) -> NDArray[np.float64]:
    return 16 + picture * 219 / 255


def powered(power: float, picture: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(255 * (picture / 255) ** power)


WRONG_PICTURES: dict[str, tuple[Callable[[Pictures], Pictures], str]] = {
    "luma + 3": (each(lambda one: one + 3), "brighter"),
    "luma + 6": (each(lambda one: one + 6), "brighter"),
    "luma − 3": (each(lambda one: one - 3), "darker"),
    "a gamma of 1.1": (each(partial(powered, 1 / 1.1)), "tones are not the reel's"),
    "a gamma of 2.2 for 2.4": (each(partial(powered, 2.2 / 2.4)), "tones are not the reel's"),
    "limited twice": (each(limited), "range another"),
    "blur of σ 3": (each(partial(blurred, 3.0)), "softer"),
    "blur of σ 1": (each(partial(blurred, 1.0)), "softer"),
    "a quarter of the resolution, enlarged": (each(enlarged), "softer"),
    "blue + 6": (each(lambda one: one + np.array([0, 0, 6])), "blue"),
    "mirrored": (lambda pictures: [one[:, ::-1] for one in pictures], "mirrored"),
    "2 pixels aside": (
        lambda pictures: [np.roll(one, 2, axis=1) for one in pictures],
        "are they shifted",
    ),
    "a frame late": (lambda pictures: [pictures[0], *pictures[:-1]], "late"),
    "a frame early": (lambda pictures: [*pictures[1:], pictures[-1]], "early"),
}


def shifted(samples: int, sound: Wave) -> Wave:
    return np.roll(sound, samples, axis=0)


WRONG_SOUNDS: dict[str, tuple[Callable[[Wave], Wave], str]] = {
    "silent": (lambda sound: sound * 0, "is silent"),
    "another": (lambda sound: sound[::-1], "another"),
    "a frame late": (partial(shifted, 2000), "0.0417 s late"),
    "two milliseconds early": (partial(shifted, -96), "0.0020 s early"),
    "channels exchanged": (lambda sound: sound[:, ::-1], "channels exchanged"),
    "inverted": (lambda sound: -sound, "inverted"),
    "1 dB quieter": (lambda sound: sound * np.float32(10 ** (-1 / 20)), "1.0 dB quieter"),
    "3 dB louder": (lambda sound: sound * np.float32(10 ** (3 / 20)), "3.0 dB louder"),
    "one side silent": (lambda sound: sound * np.array([1, 0], np.float32), "channel 2 is silent"),
    "silent from the middle": (
        lambda sound: np.concatenate([sound[: RATE // 4], sound[RATE // 4 :] * 0]),
        "From 0.3 s the sound is silent",
    ),
}


def words_of(found: Against) -> str:
    return " ".join((*found.reasons, *(one.what for one in found.differs)))


def compared(job: Job, file: Path) -> Against:
    return check_against(file, job, job.deliveries[0])


def test_the_same_by_another_encoder_is_as_the_reel(job: Job, tmp_path: Path) -> None:
    for crf in (14, 18, 22):
        found = compared(job, encode(tmp_path / f"{crf}.mp4", soft_pan(), music(), crf=crf))
        assert not found.differs
        kept = [one for one in found.reasons if "the most" not in one and "profile" not in one]
        assert kept == [], crf


def test_what_was_delivered_is_as_the_reel(job: Job) -> None:
    for fields in ({}, {"codec": "ProRes LT", "container": "MOV"}, {"codec": "VP9"}):
        made = change_delivery(job, delivery="d1", **fields)
        outcome = make_delivery(made, made.deliveries[0], silent, CancelToken(), overwrite=True)
        assert outcome.state is DeliveryState.SEALED, outcome.reasons
        found = check_against(path_of(made.deliveries[0]), made, made.deliveries[0])
        assert found.is_alike, words_of(found)
        assert found.not_compared == ()


@pytest.mark.parametrize("name", WRONG_PICTURES)
def test_wrong_pictures_are_caught(job: Job, tmp_path: Path, name: str) -> None:
    change, words = WRONG_PICTURES[name]
    found = compared(job, encode(tmp_path / "wrong.mp4", change(soft_pan()), music()))
    assert not found.is_alike
    assert words in words_of(found)


def test_full_codes_that_are_tagged_limited_are_caught(job: Job, tmp_path: Path) -> None:
    found = compared(job, encode(tmp_path / "wrong.mp4", soft_pan(), music(), as_full=True))
    assert "range" in words_of(found)


@pytest.mark.parametrize("name", WRONG_SOUNDS)
def test_wrong_sounds_are_caught(job: Job, tmp_path: Path, name: str) -> None:
    change, words = WRONG_SOUNDS[name]
    found = compared(job, encode(tmp_path / "wrong.mp4", soft_pan(), change(music())))
    assert not found.is_alike
    assert words in words_of(found)
    assert not found.differs


# ---- the table -----------------------------------------------------------------------------------

NAME = "what --against catches"


def table() -> str:
    """What the tests above hold."""
    rows = (
        ("the picture", "; ".join((*WRONG_PICTURES, "full codes tagged limited"))),
        ("the sound", "; ".join(WRONG_SOUNDS)),
    )
    return as_table(("of", "wrong, and said"), rows)


def test_the_table_in_the_docs_is_this_one() -> None:
    assert table_in("seal.md", NAME) == table()
