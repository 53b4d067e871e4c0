"""Every sentence with which a spec refuses a delivery or a file, a line each."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

from tests.making import job_of, write_sequence, write_tone
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.specs.apply_spec import add_as, file_troubles, spec_troubles
from waxseal.core.deliver.specs.spec import KEYS, Spec
from waxseal.core.deliver.specs.spec_key import nothing
from waxseal.core.job.edits import change_delivery, lift_sound, take_in
from waxseal.core.job.model import Alpha, Job, Space, change
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.seal.measure.file_facts import Measured, SoundFacts
from waxseal.core.sound.loudness import Loudness

PLAIN = Spec(name="mill", purpose="to be looked at", codec="H.264", space="sRGB")

# What is wanted, what the delivery has instead, what is said.
ORDERS: dict[str, tuple[dict[str, object], dict[str, object], str]] = {
    "codec": ({}, {"codec": "H.265"}, "mill wants the codec H.264, not H.265."),
    "container": ({"container": "MP4"}, {"container": "MKV"}, "mill wants MP4, not MKV."),
    "alpha": (
        {"codec": "ProRes 4444", "container": "MOV", "alpha": "straight"},
        {"alpha": Alpha.NONE},
        "mill wants alpha straight, not none.",
    ),
    "space": ({}, {"space": Space.P3}, "mill wants the colour sRGB, not Display P3."),
    "mastering": (
        {"codec": "H.265", "space": "BT.2020 PQ", "mastering": "P3 1000 0.005"},
        {"mastering": ""},
        "mill wants a mastering display: say which one.",
    ),
    "sizes": (
        {"sizes": ("64x64",)},
        {"size": None},
        "mill takes 64 × 64, not 160 × 90: choose another size.",
    ),
    "pixel_shape": (
        {"pixel_shape": "64:45"},
        {"pixel_shape": Fraction(1)},
        "mill wants the pixel shape 64:45, not square.",
    ),
    "rates": (
        {"rates": ("25",)},
        {"rate": Fraction(24)},
        "mill takes 25 fps, not 24: choose another rate.",
    ),
    "shortest": ({"shortest": 9}, {}, "mill takes at least 9 s, and this is 0.50 s."),
    "longest": (
        {"longest": 0.1},
        {},
        "mill takes at most 0.1 s, and this is 0.50 s: choose a range.",
    ),
    "key_seconds": (
        {"key_seconds": 2},
        {"key_seconds": 3.0},
        "mill wants a key frame every 2 s.",
    ),
    "max_size": (
        {"max_size": "1 MB"},
        {"most_bytes": 0},
        "mill has a size limit of 1 MB: set it.",
    ),
    "sound": ({"sound": "none"}, {}, "mill takes no sound: take it off the reel."),
    "channels": (
        {"channels": (2,)},
        {"sound_channels": 0},
        "mill takes 2 channels of sound, not 1 channel.",
    ),
    "sound_codec": (
        {"sound_codec": "Opus"},
        {"sound_codec": "AAC"},
        "mill wants sound in Opus, not AAC.",
    ),
    "loudness": (
        {"loudness": -14},
        {"loudness": None},
        "mill wants a sound of −14 LUFS: set its loudness.",
    ),
    "true_peak": (
        {"true_peak": -1},
        {"true_peak": None},
        "mill takes peaks of at most −1 dBTP: set it.",
    ),
    "timecode": (
        {"timecode": "01:00:00:00"},
        {"timecode": ""},
        "mill begins at 01:00:00:00: set its timecode.",
    ),
    "no_flashes": (
        {"no_flashes": True},
        {"no_flashes": False},
        "mill takes no flashes that may harm: have them refused.",
    ),
}

# What is wanted, how the file measures instead, what is said.
FILES: dict[str, tuple[dict[str, object], dict[str, object], str]] = {
    "codec": ({}, {"codec": "hevc"}, "mill wants the codec h264, not hevc."),
    "container": ({}, {"suffix": ".mkv"}, "mill wants .mp4, not .mkv."),
    "alpha": ({}, {"pixel_format": "yuv444p"}, "mill wants the pixel format yuv420p, not yuv444p."),
    "space": ({}, {"colour": (9, 16, 9, False)}, "mill wants the tags "),
    "mastering": (
        {"codec": "H.265", "space": "BT.2020 PQ", "mastering": "P3 1000 0.005"},
        {},
        "mill wants a mastering display, and the file has none.",
    ),
    "sizes": ({"sizes": ("64x64",)}, {}, "mill takes 64 × 64, not 160 × 90."),
    "pixel_shape": (
        {},
        {"pixel_shape": Fraction(64, 45)},
        "mill wants the pixel shape square, not 64:45.",
    ),
    "rates": ({"rates": ("25",)}, {}, "mill takes 25 fps, not 24."),
    "shortest": ({"shortest": 9}, {}, "mill takes at least 9 s, not 0.50 s."),
    "longest": ({"longest": 0.1}, {}, "mill takes at most 0.1 s, not 0.50 s."),
    "key_seconds": ({"key_seconds": 0.1}, {}, "mill wants a key frame every 2 frames, not 12."),
    "max_size": ({"max_size": "1 kB"}, {}, "mill takes 1 kB, not 9"),
    "sound": ({"sound": "none"}, {}, "mill takes no sound."),
    "channels": ({"channels": (2,)}, {}, "mill takes 2 channels, not 1 channel."),
    "sound_codec": ({"sound_codec": "Opus"}, {}, "mill wants sound in Opus, not aac."),
    "loudness": ({"loudness": -14}, {}, "mill wants a sound of −14 LUFS, not −20."),
    "true_peak": ({"true_peak": -1}, {}, "mill takes peaks of at most −1 dBTP, not 0."),
    "timecode": ({"timecode": "01:00:00:00"}, {}, "mill begins at 01:00:00:00, not at none."),
    "no_flashes": ({"no_flashes": True}, {}, "mill takes no flashes that may harm. They are"),
}

# Other sentences of the same keys.
MORE_FILES: tuple[tuple[dict[str, object], dict[str, object], str], ...] = (
    ({}, {"profile": "Main"}, "mill wants the profile High, not Main."),
    ({"sound": "needed"}, {"sound": None}, "mill needs sound, and the file has none."),
    ({"longest": 1}, {"rate": None}, "The file has no rate: whether mill takes it cannot be said."),
    (
        {"longest": 1},
        {"rate": None, "is_uneven": True},
        "The file has a rate that changes: whether mill takes it cannot be said.",
    ),
    (
        {"loudness": -14},
        {"loudness": None},
        "The loudness of the sound cannot be measured: mill says how loud it is.",
    ),
)


@pytest.fixture(scope="module")
def reel(tmp_path_factory: pytest.TempPathFactory) -> Job:
    """Half a second at 24 fps, 160 x 90, with a sound of one channel."""
    folder = tmp_path_factory.mktemp("reel")
    job = job_of(write_sequence(folder / "frames", frames=range(1, 13), width=160, height=90))
    write_tone(folder / "tone.wav", seconds=0.5, channels=1)
    return take_in(job, sources=scan([folder / "tone.wav"]).sources, folder=str(folder))


def ordered(job: Job, wanted: dict[str, object], other: dict[str, object]) -> list[str]:
    """What is said of a delivery that was as the spec wants it, after a change."""
    spec = change(PLAIN, **wanted)
    job = add_as(job, spec, folder="/nowhere")
    job = change_delivery(job, delivery=job.deliveries[-1].id, **other)
    return list(spec_troubles(spec, timeline_of(job), job.deliveries[-1]))


def written(wanted: dict[str, object], other: dict[str, object]) -> list[str]:
    """What is said of a file that fits a plain spec, but for what is other."""
    facts: dict[str, Any] = {
        **{"width": 160, "height": 90, "frames": 12, "rate": Fraction(24), "seconds": 0.5},
        **{"codec": "h264", "profile": "High", "pixel_format": "yuv420p", "key_gap": 12},
        **{"colour": (1, 1, 1, False), "size_bytes": 9_000, "sha256": "", "damaged_frames": 0},
        **{"sound": SoundFacts("aac", 48_000, 1, Fraction(1, 2)), "boxes": None},
        **{"loudness": Loudness(-20.0, 0.0), **other},
    }
    suffix = facts.pop("suffix", ".mp4")
    return list(file_troubles(change(PLAIN, **wanted), Measured(**facts), suffix))


@pytest.mark.parametrize("key", ORDERS)
def test_a_delivery_that_is_not_as_a_key_wants_it_is_refused(key: str, reel: Job) -> None:
    wanted, other, words = ORDERS[key]
    assert words in ordered(reel, wanted, other)
    if other:
        assert words not in ordered(reel, wanted, {})


@pytest.mark.parametrize("key", FILES)
def test_a_file_that_is_not_as_a_key_wants_it_is_refused(key: str) -> None:
    wanted, other, words = FILES[key]
    assert any(one.startswith(words) for one in written(wanted, other))
    assert written({}, {}) == []


def test_what_else_is_said(reel: Job) -> None:
    silent = lift_sound(reel, sound=reel.reel.sounds[0].id)
    assert "mill needs sound, and the reel has none: lay a sound." in ordered(
        silent, {"sound": "needed"}, {}
    )
    for wanted, other, words in MORE_FILES:
        assert words in written(wanted, other)


def test_each_key_that_is_checked_is_in_the_tables() -> None:
    assert set(ORDERS) == {name for name, key in KEYS.items() if key.order is not nothing}
    assert set(FILES) == {name for name, key in KEYS.items() if key.file is not nothing}
