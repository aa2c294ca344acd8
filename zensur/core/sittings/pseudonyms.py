"""What a paper is called where nobody is to know whose it is."""

import base64
import hashlib


def pseudonym(secret: str, learner: str) -> str:
    """Return the same name for the same learner, which nobody traces back who does not have the secret.

    Six letters and digits of SHA-256 in base 32 (RFC 4648, section 6), which has no 0 and no 1.
    """
    digest = hashlib.sha256(f"{secret}\0{learner}".encode()).digest()
    told = base64.b32encode(digest).decode()[:6]
    return f"Paper {told[:3]} {told[3:]}"
