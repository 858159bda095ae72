"""Errors as the pages get them: {"code", "detail"} and the fitting status, whatever raised them."""

from __future__ import annotations

import logging
import sys
from typing import Any

from django.core.exceptions import RequestDataTooBig
from django.db import DatabaseError, InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from rest_framework.exceptions import APIException
from rest_framework.response import Response
from rest_framework.views import exception_handler

from orchesis.audio.decode import LIMITS_TEXT
from orchesis.edits.edit import EditConflict
from orchesis.edits.gesture import BarConflict
from orchesis.errors import InvalidTranscription, Missing, OrchesisError, RefusedAudio
from orchesis.exchange.imported import Refused
from studio.actions.action import NotYours
from studio.actions.importing import SameRecording
from studio.artefacts import StoreAway
from studio.ceiling import TookTooLong
from studio.engravers import EngraversAway
from studio.queueing import NotNow
from studio.storage import DiskFull, is_full

log = logging.getLogger(__name__)

BUSY_CODES = (1205, 1213)
"""Somebody else holds a row too long, or two held each other's (MariaDB's error numbers)."""

FULL_CODES = (3, 20, 28, 1020, 1021, 1026, 1030, 1114)
"""What MariaDB says when its disk is full; 3, 20, 28: the system's number instead of its own."""

DATABASE_FULL = (
    "The disk is full: your change is not stored. Make room on the machine that runs Orchesis, "
    "then try again."
)
DATABASE_BUSY = "Somebody else is changing the same just now. Try again."
TOO_MUCH = "This request is too large. Nothing was changed."
DATABASE_AWAY = "The database does not answer. Your change is not stored yet: try again."


def handle(error: Exception, context: dict[str, Any]) -> Response | None:
    """Called by the REST framework for whatever a view raises."""
    if isinstance(error, RefusedAudio):
        text = str(error)
        limits = "" if LIMITS_TEXT in text else f" Taken: {LIMITS_TEXT}."
        return _answer(400, "refused", f"{text[:1].upper()}{text[1:]}.{limits}")
    if isinstance(error, Refused):
        return _answer(400, "refused", str(error))
    if isinstance(error, EditConflict):
        text = str(error)
        bars = list(error.bars) if isinstance(error, BarConflict) else []
        answer = _answer(409, "conflict", f"{text[:1].upper()}{text[1:]}.")
        answer.data["bars"] = bars
        return answer
    if isinstance(error, NotYours):
        return _answer(403, "not_yours", _sentence(error))
    if isinstance(error, NotNow):
        return _answer(409, "not_now", _sentence(error))
    if isinstance(error, InvalidTranscription):
        return _answer(400, "invalid", str(error))
    if isinstance(error, DiskFull):
        return _answer(507, "disk_full", str(error))
    if is_full(error):
        return _answer(507, "disk_full", str(DiskFull("this was not stored")))
    if isinstance(error, Missing):
        return _answer(404, "not_found", _sentence(error))
    if isinstance(error, RequestDataTooBig):
        return _answer(413, "too_large", "At most 2 MB are taken at once.")
    if isinstance(error, (StoreAway, EngraversAway)):
        answer = _answer(503, "away", str(error))
        answer["Retry-After"] = "2"
        return answer
    if isinstance(error, SameRecording):
        answer = _answer(409, "same_recording", _sentence(error))
        answer.data["song"] = str(error.song.pk)
        return answer
    if isinstance(error, OrchesisError):
        return _answer(500, "failed", str(error))
    if isinstance(error, (TookTooLong, MemoryError)):
        log.error("a request was stopped: %r", error)
        return _answer(503, "too_much", TOO_MUCH)
    response = exception_handler(error, context)
    if response is not None and isinstance(error, APIException):
        detail = response.data.get("detail") if isinstance(response.data, dict) else None
        if detail is None:
            response.data = {"code": "invalid", "detail": _plain(_first(response.data))}
        else:
            response.data = {"code": str(error.get_codes()), "detail": _plain(str(detail))}
    return response


def is_told(error: DatabaseError) -> bool:
    """Whether it is about the database's state, and not about what it was asked."""
    number = error.args[0] if error.args else 0
    return isinstance(error, (OperationalError, InterfaceError)) or number in FULL_CODES


def database_problem(error: DatabaseError) -> JsonResponse:
    """What to say of a database that does not do what it is asked."""
    number = error.args[0] if error.args else 0
    if number in FULL_CODES:
        return plain_problem(507, "disk_full", DATABASE_FULL)
    if number in BUSY_CODES:
        return plain_problem(503, "busy", DATABASE_BUSY)
    return plain_problem(503, "database_away", DATABASE_AWAY)


def plain_problem(status: int, code: str, detail: str) -> JsonResponse:
    """An error outside of any API view, in the same form."""
    headers = {"Retry-After": "3"} if status in (429, 503) else None
    return JsonResponse({"code": code, "detail": detail}, status=status, headers=headers)


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Django's answer to what it cannot even read."""
    return plain_problem(400, "invalid", "This request cannot be read.")


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Django's answer to what nobody may."""
    return plain_problem(403, "forbidden", "You do not have access to this.")


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Django's answer to an address that does not exist."""
    return plain_problem(404, "not_found", "There is nothing at this address.")


def failed(request: HttpRequest) -> HttpResponse:
    """Django's answer when something broke inside, also outside of any view; the log has why."""
    error = sys.exc_info()[1]
    if isinstance(error, DatabaseError) and is_told(error):
        return database_problem(error)
    if isinstance(error, (TookTooLong, MemoryError)):
        return plain_problem(503, "too_much", TOO_MUCH)
    if error is not None and is_full(error):
        return plain_problem(507, "disk_full", str(DiskFull("this was not stored")))
    return plain_problem(
        500, "failed", "Something went wrong on the server. Nothing was changed. Please try again."
    )


def forged(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Django's answer to a change that did not come from one of our pages."""
    return plain_problem(
        403, "forgery", "This page is out of date, or cookies are blocked. Reload it and try again."
    )


def _sentence(error: Exception) -> str:
    """What it says, with a capital and a full stop; names in it stay as they are."""
    text = str(error)
    return f"{text[:1].upper()}{text[1:]}{'' if text.endswith(('.', '?', '!')) else '.'}"


def _answer(status: int, code: str, detail: str) -> Response:
    return Response({"code": code, "detail": _plain(detail)}, status=status)


def _plain(text: str) -> str:
    """Text that can be sent, whatever of a request it repeats."""
    return text.encode("utf-8", "replace").decode()


def _first(data: Any) -> str:
    """The first message of a serializer's errors, with its field."""
    if isinstance(data, dict) and data:
        key, value = next(iter(data.items()))
        text = _first(value)
        return text if key == "non_field_errors" else f"{key}: {text}"
    if isinstance(data, list) and data:
        return _first(data[0])
    return str(data)
