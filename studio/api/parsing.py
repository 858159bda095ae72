"""Reading request bodies, no further than they may go."""

from __future__ import annotations

import gc
from collections.abc import Mapping
from typing import Any

from django.conf import settings
from rest_framework.exceptions import APIException, ParseError
from rest_framework.parsers import JSONParser

LARGE = 256 * 1024
"""Bytes of a body before which memory is cleared; it takes a tenth of a second."""


class TooLarge(APIException):
    """More than is taken."""

    status_code = 413
    default_code = "too_large"


class BoundedJSONParser(JSONParser):
    """JSON of a bounded size and depth."""

    def parse(
        self,
        stream: Any,
        media_type: str | None = None,
        parser_context: Mapping[str, Any] | None = None,
    ) -> Any:
        """The value. Raises ParseError, or TooLarge."""
        limit = settings.DATA_UPLOAD_MAX_MEMORY_SIZE
        request = (parser_context or {}).get("request")
        try:
            length = int(request.META.get("CONTENT_LENGTH") or 0) if request is not None else 0
        except ValueError:
            length = 0
        if length > limit:
            raise TooLarge(f"At most {limit // 1024**2} MB are taken at once.")
        if length > LARGE:
            # View, request and answer refer to each other: without this, what earlier large
            # requests held stays until the collector comes round by itself.
            gc.collect()
        try:
            found = super().parse(stream, media_type, parser_context)
            refuse_broken_text(found)
        except RecursionError as error:
            raise ParseError("This is nested too deeply to be read.") from error
        return found


def refuse_broken_text(value: Any) -> None:
    """Raise ParseError for half a letter (a lone surrogate) or a zero byte in any text or name.

    JSON can write both; no database, file or answer can hold the one, and none should the other.
    """
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, str):
            if not one.isascii() and any("\ud800" <= letter <= "\udfff" for letter in one):
                raise ParseError("A text holds half a letter: it cannot be stored.")
            if "\x00" in one:
                raise ParseError("A text holds a zero byte: it cannot be stored.")
        elif isinstance(one, dict):
            waiting += one.keys()
            waiting += one.values()
        elif isinstance(one, list):
            waiting += one
