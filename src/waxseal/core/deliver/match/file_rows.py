"""The rows of the sound and of the file's size."""

from __future__ import annotations

from collections.abc import Iterator

from waxseal.core.deliver.format.delivery_settings import bytes_of, sound_of
from waxseal.core.deliver.match.match_row import Matched, Row, State, first_of, listed
from waxseal.core.errors import SoundError
from waxseal.core.job.model import Bitrate, Delivery
from waxseal.core.plan.sound_notes import place_words
from waxseal.core.plan.strayed_sounds import strayed_sounds
from waxseal.core.sound.layouts import LAYOUTS
from waxseal.core.sound.mix_plan import SoundPlan
from waxseal.core.sound.sound_files import not_whole
from waxseal.core.text_format import bytes_words, counted, numbered

__all__ = ["file_size", "sound"]


def sound(m: Matched) -> Row:
    job = m.timeline.job
    laid = list(dict.fromkeys(job.sound(one.source) for one in job.reel.sounds))
    if not laid:
        return Row("sound", "none", "none", "none")
    words = listed(f"{one.name} {hertz(one.sample_rate)}" for one in laid)
    if m.form.sound_codec is None:
        done = f"{m.container.name} carries no sound"
        notes = tuple(f"{done}: {one.name} is left out." for one in laid)
        reel = counted(len(laid), "sound")
        return Row("sound", words, reel, "none", done, State.LOST, notes)
    broken = tuple(
        not_whole(one.name, one.damage) for one in laid if one.damage and not one.accepted
    )
    if broken:
        reel = counted(len(laid), "sound")
        return Row("sound", words, reel, "–", " ".join(broken), State.DECIDE, reasons=broken)
    try:
        plan = m.form.sound or sound_of(m.timeline, m.delivery)
    except SoundError as error:
        reel, why = counted(len(laid), "sound"), str(error)
        return Row("sound", words, reel, "–", why, State.DECIDE, reasons=(why,))
    stray = tuple(
        f"{job.sound(one.laid.source).name} {one.words}" for one in strayed_sounds(m.timeline)
    )
    if stray:
        reel = counted(len(laid), "sound")
        return Row("sound", words, reel, "–", " ".join(stray), State.DECIDE, reasons=stray)
    if plan is None or m.expected.sound is None:
        return Row("sound", words, "none here", "none")
    done = " ".join((*plan.notes, *level_words(m.delivery)))
    return Row(
        "sound",
        words,
        f"{LAYOUTS[plan.channels]}{places_words(m, plan)}",
        f"{m.form.sound_codec.name}, {hertz(m.expected.sound.sample_rate)}",
        done,
        State.CHANGED if done else State.SAME,
        tuple(plan.notes),
    )


def level_words(delivery: Delivery) -> Iterator[str]:
    if delivery.loudness is not None:
        yield f"Loudness set to {numbered(delivery.loudness, 1)} LUFS."
    if delivery.true_peak is not None:
        yield f"True peak limited to {numbered(delivery.true_peak, 1)} dBTP."


def hertz(rate: int) -> str:
    return f"{rate / 1000:g} kHz"


def places_words(m: Matched, plan: SoundPlan) -> str:
    """Where each sound is that is heard; nothing of one that fills the reel from its start."""
    heard = {piece.laid for piece in plan.pieces}
    words = [place_words(m.timeline, one) for one in m.timeline.job.reel.sounds if one.id in heard]
    told = first_of([one for one in words if one])
    return f": {told}" if told else ""


def sound_bytes(m: Matched) -> int:
    """About how large the sound gets; 0 where that is not known, or there is none."""
    codec, plan = m.form.sound_codec, m.form.sound
    if codec is None or plan is None:
        return 0
    bits = codec.bits_per_second.get(plan.channels, 0) if codec.bits_per_second else 0
    return bits * plan.count // plan.sample_rate // 8


def file_size(m: Matched) -> Row:
    about, most = bytes_of(m.timeline, m.delivery), m.expected.most_bytes
    words = f"up to about {bytes_words(about)}"
    if isinstance(m.delivery.quality, Bitrate):
        words = f"about {bytes_words(about)}"
    if m.expected.level:
        words += f", {m.codec.name} level {m.expected.level}"
    trouble = m.codec.quality_trouble(m.delivery.quality)
    if trouble:
        return Row("file size", "", "", words, trouble, State.DECIDE, reasons=(trouble,))
    if not most:
        return Row("file size", "", "", words)
    done = f"at most {bytes_words(most)}"
    sound = sound_bytes(m)
    if sound > most:
        why = (
            f"The sound alone takes about {bytes_words(sound)}, and the file may have "
            f"{bytes_words(most)}: choose a lower sound bitrate, a shorter range or a higher limit."
        )
        return Row("file size", "", "", words, why, State.DECIDE, reasons=(why,))
    if about <= most:
        return Row("file size", "", "", words, done)
    if m.codec.grades:
        done += ": the quality is lowered until it fits, where that is needed"
        return Row("file size", "", "", words, done, State.CHANGED)
    return Row("file size", "", "", words, f"{done}: it may be refused", State.DECIDE)
