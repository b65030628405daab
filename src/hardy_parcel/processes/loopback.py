"""How programs of this machine know one another: by names of the machine alone, and by a secret that neither sends before the other has
shown that it has it too."""

from __future__ import annotations

import hashlib
import hmac
import re
import secrets

LOOPBACK = re.compile(r"(127\.0\.0\.1|localhost|\[::1\])(:[0-9]{1,5})?", re.IGNORECASE)
"""The whole of a Host header that means this machine."""
NONCE, PROOF = "x-nonce", "x-proof"
"""Headers of the question whether somebody has the secret, and of the answer."""


def new_secret() -> str:
    """A secret for one run of the program."""
    return secrets.token_urlsafe(32)


def new_nonce() -> str:
    """What the other side is to answer for, never the same twice."""
    return secrets.token_hex(16)


def proof(secret: str, nonce: str) -> str:
    """What only somebody who has the secret can answer to a nonce: HMAC-SHA256 (RFC 2104) in hex."""
    return hmac.new(secret.encode(), f"docks {nonce}".encode(), hashlib.sha256).hexdigest()


def is_same(told: str, expected: str) -> bool:
    """Whether two texts are equal, in a time that tells nothing of where they differ; an empty one never is."""
    return bool(expected) and hmac.compare_digest(told.encode(), expected.encode())
