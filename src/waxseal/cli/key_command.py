"""`waxseal key`: the key that seals are signed with."""

from __future__ import annotations

from waxseal.cli.terminal import DONE, FINDINGS, answer, say, tell
from waxseal.core.seal.signing import key_path, load_signer, make_key
from waxseal.core.text_format import plain

__all__ = ["run_key"]


def run_key(*, make: bool, as_json: bool) -> int:
    """Returns the exit code. Raises UnreadableInput."""
    signer = make_key() if make else load_signer()
    if as_json:
        answer({"key": signer.public if signer else None, "file": plain(key_path())})
    elif signer is not None:
        tell(signer.public)
        say(f"kept in {plain(key_path())}: let nobody have that file.")
    else:
        say("There is no key, and seals are not signed. Make one with waxseal key --make.")
    return DONE if signer else FINDINGS
