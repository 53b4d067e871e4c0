"""Bars, tone and slate: ordinary files, with the codes and levels that standards give them."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from tests.making import job_of
from waxseal.core.errors import JobError
from waxseal.core.job.edits import add_text
from waxseal.core.job.model import Size
from waxseal.core.picture.generated_media import make_bars, make_slate, make_tone, slate_texts
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import recipe

# ITU-R BT.709, 75 % bars, 8-bit Y'CbCr, from memory; the same by formula in tests/outside.
CODES = [
    (180, 128, 128),
    (168, 44, 136),
    (145, 147, 44),
    (133, 63, 52),
    (63, 193, 204),
    (51, 109, 212),
    (28, 212, 120),
    (16, 128, 128),
]


def test_bars_have_their_codes_in_the_delivery(tmp_path: Path) -> None:
    make_bars(tmp_path, Size(width=320, height=180))
    planes = make(recipe(job_of(tmp_path), 1), Target(320, 180, Layout.YUV420)).planes
    for number, codes in enumerate(CODES):
        x = number * 40 + 20
        ours = (planes[0][90, x], planes[1][45, x // 2], planes[2][45, x // 2])
        np.testing.assert_allclose(ours, codes, atol=1)


def test_the_tone_is_at_the_alignment_level(tmp_path: Path) -> None:
    """EBU R 68: −18 dBFS."""
    samples, rate = soundfile.read(make_tone(tmp_path, 2.0))
    assert (rate, samples.shape) == (48_000, (96_000, 2))
    assert 20 * np.log10(np.abs(samples).max()) == pytest.approx(-18.0, abs=0.01)
    spectrum = np.abs(np.fft.rfft(samples[:48_000, 0]))
    assert int(spectrum.argmax()) == 1000


def test_a_slate_says_what_follows(tmp_path: Path) -> None:
    one = make_slate(tmp_path, Size(width=640, height=360))
    job = job_of(tmp_path)
    for text in slate_texts("sh010", ("24", "1280 × 720")):
        job = add_text(job, of="a1", text=text)
    shown = make(recipe(job, 1), Target(640, 360, Layout.SCREEN)).planes[0]
    assert one.name == "640x360_slate.png"
    assert shown[:120, :320, :3].max() > 220  # the title
    assert shown[240:, :320, :3].max() > 190  # the lines
    assert shown[:, 600:, :3].max() < 130
    other = make_slate(tmp_path, Size(width=640, height=360))
    assert other.name == "640x360_slate_b.png"


def test_a_folder_that_takes_nothing_is_said() -> None:
    with pytest.raises(JobError, match="cannot be written"):
        make_bars(Path("/proc/none"), Size(width=32, height=18))
