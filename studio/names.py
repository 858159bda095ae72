"""Names of accounts: which may be taken, and which look like others that are.

What a name looks like is its skeleton, after Unicode's technical standard 39: compatibility forms
and cases folded, marks and separators dropped, and look-alikes of other alphabets replaced by the
Latin letter that they pass for.
"""

from __future__ import annotations

import unicodedata
from functools import lru_cache

from confusable_homoglyphs import confusables
from django.core.exceptions import ValidationError

LONGEST = 60
RESERVED = (
    *("admin", "administrator", "anonymous", "api", "demo", "everybody", "guest", "help"),
    *("house", "houseband", "me", "moderator", "nobody", "null", "orchesis", "owner"),
    *("postmaster", "root", "school", "security", "staff", "studio", "superuser", "support"),
    *("system", "teacher", "user", "webmaster"),
)
"""Names that somebody might take for the house, for a role, or for nobody."""

LIKE = {"0": "o", "1": "l", "3": "e", "5": "s", "i": "l", "|": "l", "$": "s", "@": "a"}
"""What passes for a letter within one alphabet; capital I and small l are one stroke."""

WRITTEN_TOGETHER = ({"CJK", "HIRAGANA", "KATAKANA"}, {"CJK", "HANGUL"}, {"CJK", "BOPOMOFO"})
"""Alphabets that one language writes side by side."""

SEPARATORS = " .-_+'’·"


def skeleton(name: str) -> str:
    """What a name looks like, in a form in which look-alikes are equal."""
    folded = unicodedata.normalize("NFKD", name).casefold()
    letters = (letter for letter in folded if not unicodedata.combining(letter))
    shown = "".join(_latin(letter) for letter in letters if letter not in SEPARATORS)
    plain = "".join(LIKE.get(letter, letter) for letter in shown)
    return plain.replace("rn", "m").replace("vv", "w")


@lru_cache(maxsize=4096)
def _latin(letter: str) -> str:
    """The Latin letter that this one passes for, or itself."""
    if letter.isascii():
        return letter
    for found in confusables.is_confusable(letter, greedy=True, preferred_aliases=[]) or ():
        for twin in found["homoglyphs"]:
            if twin["c"].isascii() and twin["c"].isalpha():
                return str(twin["c"]).casefold()
    return letter


def alphabets(name: str) -> set[str]:
    """The alphabets that a name's letters come from, as Unicode names them."""
    return {unicodedata.name(letter, "?").split()[0] for letter in name if letter.isalpha()}


def check_name(name: str) -> None:
    """See that a name may be taken by anybody at all. Raises ValidationError with a sentence."""
    if not name or name != name.strip() or len(name) > LONGEST:
        raise ValidationError(f"A name has 1 to {LONGEST} characters, and no spaces at its ends.")
    if unicodedata.normalize("NFKC", name) != name or not all(map(_may_be_in, name)):
        raise ValidationError("A name is made of letters, digits and . - _ only.")
    if not any(letter.isalnum() for letter in name):
        raise ValidationError("A name has at least one letter or digit.")
    used = alphabets(name)
    if len(used) > 1 and not any(used <= together for together in WRITTEN_TOGETHER):
        raise ValidationError("A name keeps to one alphabet: mixed ones look like other names.")
    if skeleton(name) in _reserved():
        raise ValidationError("That name is kept for the house: choose another.")


@lru_cache(maxsize=1)
def _reserved() -> frozenset[str]:
    return frozenset(skeleton(name) for name in RESERVED)


def _may_be_in(letter: str) -> bool:
    return letter.isalnum() or letter in ".-_"
