"""The seal: the record beside a delivered file, and what a file is against its record."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any

from waxseal import __version__
from waxseal.core.errors import UnreadableInput
from waxseal.core.foreign_text import ForeignTextError, parse_json, read_foreign
from waxseal.core.job.model import DeliveryState
from waxseal.core.progress import CancelToken, Report, silent
from waxseal.core.seal.clap_sync import LightOfFrames, sync_of
from waxseal.core.seal.measure.file_facts import checksum
from waxseal.core.seal.measure.measure_file import measure_anything
from waxseal.core.seal.measure.measure_frames import checksum_of_folder
from waxseal.core.seal.signing import Signer, is_genuine
from waxseal.core.text_format import names_words, plain
from waxseal.core.timing.rates import write_rate

if TYPE_CHECKING:
    from waxseal.core.seal.measure.file_facts import Measured
    from waxseal.core.sound.clap_finder import (
        ClapsAndFlashes,  # the window asks for the names of seals only
    )

__all__ = [
    "Checked",
    "check",
    "facts_of",
    "loudness_facts",
    "read_seal",
    "record_digest",
    "seal_path",
    "seal_text",
]

KIND = "waxseal seal"
SCHEMA = 1
LARGEST_BYTES = 16 * 1024 * 1024
DIGEST, SIGNATURE = "record_sha256", "signature"
SIGNED_BY = "signed_by"
ANOTHER = "The file is not the one that was sealed: its checksum differs."
ROUNDED, HELD_SHARE = Fraction(1, 1000), Fraction(1, 200)
LOUDNESS_STEP = 0.21  # LU, dB: two decoders, each rounded to a tenth
UNITS = {"loudness_lufs": ("loudness", "LUFS"), "true_peak_dbtp": ("true peak", "dBTP")}
# Facts that seals of before do not have.
LATER = ("level", "light_levels", "mastering", "pixel_shape")


def seal_path(video: Path) -> Path:
    return video.with_name(f"{video.name}.seal.json")


def facts_of(measured: Measured) -> dict[str, Any]:
    """What was measured, as the seal and `--json` write it."""
    sound = measured.sound
    primaries, transfer, matrix, is_full = measured.colour
    return {
        "frames": measured.frames,
        "rate": rate_fact(measured),
        "size": [measured.width, measured.height],
        "seconds": round(measured.seconds, 6) if measured.seconds else None,
        "codec": measured.codec,
        "profile": measured.profile,
        "pixels": measured.pixel_format,
        **({"level": measured.level} if measured.level else {}),
        **light_fact(measured),
        **({"pixel_shape": str(measured.pixel_shape)} if measured.pixel_shape != 1 else {}),
        "colour": {
            "primaries": primaries,
            "transfer": transfer,
            "matrix": matrix,
            "range": "full" if is_full else "limited",
        },
        "sound": None
        if sound is None
        else {
            "codec": sound.codec,
            "sample_rate": sound.sample_rate,
            "channels": sound.channels,
            "seconds": round(float(sound.seconds), 6),
        },
        "bytes": measured.size_bytes,
        "sha256": measured.sha256,
    }


def light_fact(measured: Measured) -> dict[str, Any]:
    """How bright it says that it gets; nothing where it says none."""
    tracks = measured.boxes.tracks if measured.boxes is not None else ()
    facts: dict[str, Any] = {}
    for track in tracks:
        if track.light is not None:
            facts["light_levels"] = {"max_cll": track.light[0], "max_fall": track.light[1]}
        if track.mastering:
            facts["mastering"] = track.mastering
    return facts


def rate_fact(measured: Measured) -> str | None:
    """None for frames that do not say how fast they are."""
    if measured.rate is not None:
        return write_rate(measured.rate)
    return "variable" if measured.is_uneven else None


def record_digest(record: dict[str, Any]) -> str:
    """SHA-256 of all that a record says but this, in a form that does not depend on layout.

    Who signed is a part of it; the signature, which is of it, is not.
    """
    said = {name: value for name, value in record.items() if name not in (DIGEST, SIGNATURE)}
    text = json.dumps(said, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
    return hashlib.sha256(text.encode()).hexdigest()


def signed_message(digest: object) -> bytes:
    """What is signed of a record: that it is one, and its digest."""
    return f"{KIND} {SCHEMA} {digest}".encode()


def seal_text(
    name: str, measured: Measured, *, signer: Signer | None = None, **more: object
) -> bytes:
    """The record of a file of that name that was checked.

    more: what else it holds: likeness, sources, notes. No clock: the
    same delivery has the same seal.
    """
    record = {
        "kind": KIND,
        "schema": SCHEMA,
        "file": plain(name),
        **facts_of(measured),
        **more,
        "sealed_by": f"Wax Seal {__version__}",
    }
    if signer is not None:
        record[SIGNED_BY] = signer.public
    record[DIGEST] = record_digest(record)
    if signer is not None:
        record[SIGNATURE] = signer.sign(signed_message(record[DIGEST]))
    return (json.dumps(record, indent=1, ensure_ascii=True) + "\n").encode()


def read_seal(video: Path) -> dict[str, Any] | None:
    """The record beside a file; None if there is none, empty if it is not a record."""
    path = seal_path(video)
    try:
        record = parse_json(read_foreign(path, LARGEST_BYTES))
    except FileNotFoundError:
        return None
    except (OSError, ForeignTextError):
        return {}
    return record if isinstance(record, dict) and record.get("kind") == KIND else {}


@dataclass(frozen=True, slots=True)
class Checked:
    """A file against its seal.

    measured: None where the file cannot be opened, which then is not the one that was sealed.
    signed_by: the key that signed it; empty where nobody did.
    sync: how far its sound is behind its picture, where it has claps and flashes to tell it by.
    """

    state: DeliveryState
    reasons: tuple[str, ...]
    measured: Measured | None
    seal: Path | None
    signed_by: str = ""
    sync: ClapsAndFlashes | None = None


def check(
    video: Path,
    *,
    signed_by: str = "",
    report: Report = silent,
    token: CancelToken | None = None,
) -> Checked:
    """Measure a file and compare it with the seal beside it.

    signed_by: the key that has to have signed it, where it has to be.
    Raises UnreadableInput where there is no video to measure and no seal of another, Cancelled.
    """
    record = read_seal(video)
    lights = LightOfFrames()
    try:
        measured = measure_anything(video, look=lights.look, report=report, token=token)
    except UnreadableInput as error:
        if record is None or not is_another(record, video, token):
            raise
        broken = (*record_troubles(record), ANOTHER, str(error))
        return Checked(DeliveryState.SEAL_BROKEN, broken, None, seal_path(video))
    reasons = [*signature_reasons(record, signed_by)]
    if measured.damaged_frames:
        one = measured.damaged_frames == 1
        words = "frame is damaged or missing" if one else "frames are damaged or missing"
        reasons.append(f"{measured.damaged_frames} {words}.")
    if measured.is_uneven:
        reasons.append("The frame rate is not constant.")
    elif measured.rate and measured.stated_seconds is not None:
        lasting = measured.frames / measured.rate
        if abs(measured.stated_seconds - lasting) > max(ROUNDED, HELD_SHARE * lasting):
            reasons.append(
                f"Its frames last {float(lasting):.3f} s, but the container states "
                f"{float(measured.stated_seconds):.3f} s."
            )
    sync = sync_of(video, measured, lights, token)
    if record is None:
        state = DeliveryState.REFUSED if reasons else DeliveryState.UNSEALED
        return Checked(state, tuple(reasons), measured, None, sync=sync)
    broken = differences(record, measured)
    if broken:
        return Checked(DeliveryState.SEAL_BROKEN, (*broken, *reasons), measured, seal_path(video))
    state = DeliveryState.REFUSED if reasons else DeliveryState.SEALED
    signer = str(record.get(SIGNED_BY, ""))
    return Checked(state, tuple(reasons), measured, seal_path(video), signer, sync)


def is_another(record: dict[str, Any], video: Path, token: CancelToken | None) -> bool:
    """Whether something is there that has another digest than what was sealed."""
    try:
        found = (checksum_of_folder if video.is_dir() else checksum)(video, token)
    except OSError:
        return False
    return found != record.get("sha256")


def signature_reasons(record: dict[str, Any] | None, wanted: str) -> Iterator[str]:
    """Why a record is not signed by whom it has to be."""
    if wanted and (record or {}).get(SIGNED_BY) != wanted:
        yield (
            f"It is signed by another key: {plain(str(record[SIGNED_BY]))}."
            if record and SIGNED_BY in record
            else "It is not signed."
        )


def differences(record: dict[str, Any], measured: Measured) -> tuple[str, ...]:
    """Where the file differs from what its seal says, in sentences."""
    troubles = record_troubles(record)
    if troubles:
        return troubles
    facts = facts_of(measured)
    reasons = []
    if record.get("sha256") != facts["sha256"]:
        reasons.append(ANOTHER)
    if measured.strangers:
        one = len(measured.strangers) == 1
        names = names_words(measured.strangers)
        reasons.append(f"{names} {'is' if one else 'are'} no part of what was sealed: move away.")
    reasons += loudness_reasons(record, measured)
    for fact, found in facts.items():
        if (fact in LATER and fact not in record) or is_unmeasured(record.get(fact)):
            continue
        if fact != "sha256" and record.get(fact) != found:
            reasons.append(fact_sentence(fact, record.get(fact), found))
    return tuple(reasons)


def record_troubles(record: dict[str, Any]) -> tuple[str, ...]:
    """Why a record cannot be believed at all; it is empty where it is none."""
    if not record:
        return ("The seal beside the file is damaged: deliver again.",)
    try:
        is_whole = record.get(DIGEST) == record_digest(record)
    except RecursionError:
        is_whole = False
    if not is_whole:
        return ("The record of the seal was changed after it was written: deliver again.",)
    if not is_signed_right(record):
        return ("The signature of the seal is not by the key that it names.",)
    return ()


def loudness_facts(measured: Measured) -> dict[str, Any]:
    """How loud the sound is, for the seal; nothing where it was not measured."""
    found = measured.loudness
    if found is None:
        return {}
    lufs = found.integrated_lufs
    return {
        "loudness_lufs": None if lufs is None else round(lufs, 1),
        "true_peak_dbtp": round(found.true_peak_dbtp, 1),
    }


def loudness_reasons(record: dict[str, Any], measured: Measured) -> Iterator[str]:
    """Where the sound is not as loud as the record says. Decoders differ in the last digits."""
    for fact, found in loudness_facts(measured).items():
        said = record.get(fact)
        if fact not in record or said == found:
            continue
        is_near = (
            isinstance(said, int | float)
            and isinstance(found, float)
            and abs(said - found) <= LOUDNESS_STEP
        )
        if not is_near:
            yield fact_sentence(fact, said, found)


def is_unmeasured(said: object) -> bool:
    """Whether a seal leaves the colour open, as older seals of PNG frames do."""
    return isinstance(said, dict) and said.get("primaries") == said.get("transfer") == 0


def is_signed_right(record: dict[str, Any]) -> bool:
    """Whether a record is signed by whom it names, or says that nobody signed it."""
    if SIGNED_BY not in record and SIGNATURE not in record:
        return True
    signature, key = record.get(SIGNATURE), record.get(SIGNED_BY)
    message = signed_message(record[DIGEST])
    return is_genuine(str(key), str(signature), message)


def fact_sentence(fact: str, said: object, found: object) -> str:
    name, unit = UNITS.get(fact, (fact, ""))
    if unit:
        return f"The seal says a {name} of {said} {unit}, found {found} {unit}."
    if fact in ("colour", "sound"):
        return f"The seal says another {fact} than the file has."
    words = " × ".join(map(str, said)) if isinstance(said, list) else said
    there = " × ".join(map(str, found)) if isinstance(found, list) else found
    return f"The seal says {words} {fact}, found {there}."
