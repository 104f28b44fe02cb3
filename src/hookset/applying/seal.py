"""Whose journal it is: signed with a secret of this user on this machine.

A map that somebody passes around may hold journals in `.hookset`. What a journal says is done to files, so only those
that this user's own runs wrote are followed without asking. The signature is an HMAC (RFC 2104) with SHA-256.
"""

from __future__ import annotations

import hashlib
import hmac
import os
import secrets
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

__all__ = ["Seal", "own_seal"]

_BYTES = 32


@dataclass(frozen=True)
class Seal:
    """Signs and verifies with the secret in a file, which is made when something is signed for the first time."""

    file: Path

    @cached_property
    def _secret(self) -> bytes:
        """Empty where there is none yet."""
        try:
            return self.file.read_bytes() if self.file.is_file() else b""
        except OSError:
            return b""

    def sign(self, data: bytes) -> str:
        """The signature in hex; empty where no secret can be kept, so that nothing is ever taken for this user's."""
        secret = self._secret or self._made()
        return hmac.new(secret, data, hashlib.sha256).hexdigest() if secret else ""

    def verifies(self, data: bytes, signature: str) -> bool:
        """Whether `sign` gave this signature for these bytes."""
        if not self._secret or not signature.isascii():
            return False
        return hmac.compare_digest(hmac.new(self._secret, data, hashlib.sha256).hexdigest(), signature)

    def _made(self) -> bytes:
        fresh = self.file.with_name(f"{self.file.name}.{secrets.token_hex(8)}")
        try:
            self.file.parent.mkdir(parents=True, exist_ok=True)
            handle = os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
            try:
                os.write(handle, secrets.token_bytes(_BYTES))
            finally:
                os.close(handle)
            if not self.file.exists():
                fresh.replace(self.file)
            secret = self.file.read_bytes()
        except OSError:
            return b""
        finally:
            fresh.unlink(missing_ok=True)
        self.__dict__["_secret"] = secret
        return secret


def own_seal() -> Seal:
    """That of the user who runs this."""
    # Imported here: commands that only read need it only where a change was interrupted.
    from platformdirs import user_state_path

    return Seal(user_state_path("hookset", appauthor=False) / "secret")
