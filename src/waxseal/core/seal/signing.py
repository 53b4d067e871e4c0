"""Signing seals: with a key of the user's, so that a client can tell who sealed a file.

An Ed25519 key (RFC 8032) in a file of its own. Where there is none, nothing is signed;
where there is one that cannot be used, nothing is delivered.
"""

from __future__ import annotations

import os
import stat
from base64 import b64decode, b64encode
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from cryptography.exceptions import InvalidSignature, UnsupportedAlgorithm
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey
from cryptography.hazmat.primitives.serialization import (
    Encoding,
    NoEncryption,
    PrivateFormat,
    load_pem_private_key,
)

from waxseal.core.errors import UnreadableInput
from waxseal.core.folders import settings_folder
from waxseal.core.safe_open import open_regular
from waxseal.core.text_format import plain

if TYPE_CHECKING:
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

__all__ = [
    "Signer",
    "is_genuine",
    "is_public_key",
    "key_path",
    "load_signer",
    "make_key",
    "signer_of",
]

NAME = "signing-key.pem"
LARGEST_BYTES = 10_000
ONLY_MINE = 0o077  # bits that a key of one user does not have
RAW_BYTES = 32


@dataclass(frozen=True, slots=True)
class Signer:
    """public: the key that others know, 32 bytes in base64."""

    public: str
    _key: Ed25519PrivateKey

    def sign(self, message: bytes) -> str:
        """64 bytes in base64; the same for the same message."""
        return b64encode(self._key.sign(message)).decode()


def key_path() -> Path:
    """The file of the user's key: in the folder of settings, or where WAXSEAL_KEY says."""
    said = os.environ.get("WAXSEAL_KEY", "")
    return Path(said) if said else settings_folder() / NAME


def load_signer() -> Signer | None:
    """The user's key; None where there is none. Raises UnreadableInput."""
    path = key_path()
    try:
        with open_regular(path) as file:
            facts = os.fstat(file.fileno())
            content = file.read(LARGEST_BYTES)
    except FileNotFoundError:
        if not os.environ.get("WAXSEAL_KEY"):
            return None
        raise UnreadableInput(f"The signing key {plain(path)} is not there.", path=path) from None
    except OSError as error:
        raise UnreadableInput(
            f"The signing key {plain(path)} cannot be read: {error.strerror}.", path=path
        ) from None
    if facts.st_uid != os.geteuid() or stat.S_IMODE(facts.st_mode) & ONLY_MINE:
        raise UnreadableInput(
            f"Others can use the signing key {plain(path)}, so it proves nothing: make a new one "
            "(move this one away, then waxseal key --make), or chmod 600 it if nobody has read it.",
            path=path,
        )
    return signer_of(content, path)


def signer_of(content: bytes, path: Path) -> Signer:
    """The key in a file's content; path: of it, for what is said. Raises UnreadableInput."""
    try:
        key = load_pem_private_key(content, None)
    except (ValueError, TypeError, UnsupportedAlgorithm):
        key = None
    if not isinstance(key, Ed25519PrivateKey):
        raise UnreadableInput(
            f"{plain(path)} is no signing key: it has to be an Ed25519 key in PEM, without a "
            "password. Make one with waxseal key --make, or move the file away.",
            path=path,
        )
    return Signer(b64encode(key.public_key().public_bytes_raw()).decode(), key)


def make_key() -> Signer:
    """A new key in its file, which only the user may read.

    Raises UnreadableInput where there is one already, or where it cannot be written.
    """
    path = key_path()
    key = Ed25519PrivateKey.generate()
    content = key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption())
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(descriptor, "wb") as file:
            file.write(content)
            os.fsync(file.fileno())
    except FileExistsError:
        raise UnreadableInput(
            f"There is a key already: {plain(path)}. What it signed can only be told by it, so "
            "it is not replaced: move it away first.",
            path=path,
        ) from None
    except OSError as error:
        raise UnreadableInput(
            f"The key cannot be written to {plain(path)}: {error.strerror}.", path=path
        ) from None
    return signer_of(content, path)


def is_public_key(text: str) -> bool:
    return raw(text, RAW_BYTES) is not None


def is_genuine(public: str, signature: str, message: bytes) -> bool:
    """Whether the owner of a key signed a message; anything that cannot be told is not."""
    key, signed = raw(public, RAW_BYTES), raw(signature, 2 * RAW_BYTES)
    if key is None or signed is None:
        return False
    try:
        Ed25519PublicKey.from_public_bytes(key).verify(signed, message)
    except (InvalidSignature, ValueError):
        return False
    return True


def raw(text: object, length: int) -> bytes | None:
    try:
        content = b64decode(text, validate=True) if isinstance(text, str) else b""
    except ValueError:
        return None
    return content if len(content) == length else None
