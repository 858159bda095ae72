"""Cells of CSV files: text that no spreadsheet takes for a formula."""

from __future__ import annotations

import unicodedata

FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def plain_cell(text: str) -> str:
    """The text, with a mark before it where a spreadsheet would work it out.

    Full-width signs are taken for the plain ones by some programs, and so they are here.
    """
    start = unicodedata.normalize("NFKC", text.lstrip(" \u3000\u00a0")[:1])
    return f"'{text}" if start in FORMULA_STARTS or text[:1] in FORMULA_STARTS else text
