"""What a password must be: long, and not what everybody would try first."""

from __future__ import annotations

import re
from itertools import pairwise

from drelo.core.errors import Refusal

SHORTEST, LONGEST = 12, 128
# So many different characters, and letters beside common words, are the least.
LEAST_DIFFERENT, LEAST_OWN = 5, 4
_COMMON = ("password", "passwort", "letmein", "welcome", "qwerty", "qwertz", "admin", "drelo", "iloveyou", "monkey")


def checked_password(password: str, name: str) -> str:
    """The password, where it is good enough for an account of that name. Raises Refusal, saying what to do."""
    if not SHORTEST <= len(password) <= LONGEST:
        raise Refusal("password.length", "password", shortest=SHORTEST, longest=LONGEST)
    if len(set(password)) < LEAST_DIFFERENT or _repeats(password) or _is_row(password) or _is_common(password, name):
        raise Refusal("password.guessed", "password")
    return password


def _repeats(password: str) -> bool:
    return re.fullmatch(r"(.{1,4})\1+.{0,3}", password) is not None


def _is_row(password: str) -> bool:
    """Whether each character follows the one before, as in 1234567890 or lmnopq."""
    return {(ord(b) - ord(a)) % 10 for a, b in pairwise(password)} in ({1}, {9})


def _is_common(password: str, name: str) -> bool:
    """Whether little is left of it without what is common, the name and what is no letter."""
    letters = re.sub(r"[^a-z]", "", password.lower())
    own = letters
    for word in (*_COMMON, re.sub(r"[^a-z]", "", name.lower())):
        own = own.replace(word, "") if word else own
    return own != letters and len(own) < LEAST_OWN
