"""Signed seals: who signed is told, and nobody else can have."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

import pytest

from tests.making import job_of, write_sequence
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.errors import UnreadableInput
from waxseal.core.job.model import DeliveryState, Outcome
from waxseal.core.progress import CancelToken, Progress, silent
from waxseal.core.seal.record import check, record_digest, seal_path
from waxseal.core.seal.signing import is_genuine, is_public_key, key_path, load_signer, make_key


def deliver(folder: Path) -> tuple[Path, Outcome]:
    job = job_of(write_sequence(folder / "frames", frames=range(1, 5)))
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    return path_of(job.deliveries[0]), outcome


@pytest.fixture
def signed(tmp_path: Path) -> Path:
    make_key()
    video, outcome = deliver(tmp_path)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    signer = load_signer()
    assert signer is not None
    assert outcome.signed_by == signer.public
    return video


def edit(video: Path, **values: object) -> None:
    """Change the record, and write its digest anew: anybody can."""
    record = json.loads(seal_path(video).read_text()) | values
    record = {name: value for name, value in record.items() if value is not None}
    record["record_sha256"] = record_digest(record)
    seal_path(video).write_text(json.dumps(record))


def test_a_key_is_made_once_and_only_its_user_reads_it() -> None:
    made = make_key()
    assert key_path().stat().st_mode & 0o777 == 0o600
    assert is_public_key(made.public)
    loaded = load_signer()
    assert loaded is not None
    assert loaded.public == made.public
    with pytest.raises(UnreadableInput, match="There is a key already"):
        make_key()


def test_without_a_key_nothing_is_signed(tmp_path: Path) -> None:
    assert load_signer() is None
    video, outcome = deliver(tmp_path)
    assert outcome.state is DeliveryState.SEALED
    assert outcome.signed_by == ""
    assert "signed_by" not in json.loads(seal_path(video).read_text())
    assert check(video).state is DeliveryState.SEALED
    refused = check(video, signed_by="A" * 43 + "=")
    assert (refused.state, refused.reasons) == (DeliveryState.REFUSED, ("It is not signed.",))


def test_a_client_can_tell_who_signed(signed: Path) -> None:
    checked = check(signed)
    assert checked.state is DeliveryState.SEALED
    assert check(signed, signed_by=checked.signed_by).state is DeliveryState.SEALED
    other = check(signed, signed_by="A" * 43 + "=")
    assert other.state is DeliveryState.REFUSED
    assert other.reasons[0].startswith("It is signed by another key")


def test_the_same_delivery_has_the_same_signed_seal(signed: Path, tmp_path: Path) -> None:
    first = seal_path(signed).read_bytes()
    shutil.rmtree(tmp_path / "frames")
    video, outcome = deliver(tmp_path)
    assert outcome.state is not DeliveryState.SEALED  # the name is another file's
    signed.unlink()
    seal_path(signed).unlink()
    shutil.rmtree(tmp_path / "frames")
    video, outcome = deliver(tmp_path)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert seal_path(video).read_bytes() == first


@pytest.mark.parametrize(
    "values",
    [
        {"notes": ["Everything is fine."]},
        {"signed_by": "A" * 43 + "="},
        {"signature": "A" * 86 + "=="},
        {"signature": "nothing"},
        {"signature": 7},
        {"signature": None},
        {"signed_by": None},
        {"signed_by": ["a"]},
    ],
)
def test_what_the_key_did_not_sign_is_a_broken_seal(
    signed: Path, values: dict[str, object]
) -> None:
    edit(signed, **values)
    assert check(signed).state is DeliveryState.SEAL_BROKEN


def test_who_takes_the_signature_off_has_not_signed(signed: Path) -> None:
    key = check(signed).signed_by
    edit(signed, signed_by=None, signature=None)
    assert check(signed).state is DeliveryState.SEALED
    assert check(signed, signed_by=key).state is DeliveryState.REFUSED


@pytest.mark.parametrize("content", [b"", b"nothing", b"\xff" * 40])
def test_a_key_that_cannot_be_used_stops_the_delivery_before_it_starts(
    tmp_path: Path, content: bytes
) -> None:
    key_path().parent.mkdir(parents=True)
    key_path().write_bytes(content)
    key_path().chmod(0o600)
    video, outcome = deliver(tmp_path)
    assert outcome.state is DeliveryState.REFUSED
    assert "is no signing key" in outcome.reasons[0]
    assert not video.exists()


def test_a_key_that_is_named_has_to_be_there(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("WAXSEAL_KEY", str(tmp_path / "gone.pem"))
    with pytest.raises(UnreadableInput, match="is not there"):
        load_signer()


@pytest.mark.parametrize("key", ["", "nothing", "A" * 44, "é", "A" * 43 + "="])
def test_what_is_no_key_signed_nothing(key: str) -> None:
    assert not is_genuine(key, "A" * 86 + "==", b"")


def test_a_key_that_goes_away_meanwhile_signs_all_the_same(tmp_path: Path) -> None:
    key = make_key().public
    job = job_of(write_sequence(tmp_path / "frames", frames=range(1, 5)))

    def report(_progress: Progress) -> None:
        key_path().unlink(missing_ok=True)

    outcome = make_delivery(job, job.deliveries[0], report, CancelToken())
    assert (outcome.state, outcome.signed_by) == (DeliveryState.SEALED, key)
    assert check(path_of(job.deliveries[0]), signed_by=key).state is DeliveryState.SEALED


@pytest.mark.parametrize("mode", [0o640, 0o604, 0o622])
def test_a_key_that_others_can_use_signs_nothing(tmp_path: Path, mode: int) -> None:
    make_key()
    key_path().chmod(mode)
    _, outcome = deliver(tmp_path)
    assert outcome.state is DeliveryState.REFUSED
    assert "Others can use the signing key" in outcome.reasons[0]
