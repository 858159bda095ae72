"""Errors as the pages get them: {"code", "detail"} and the fitting status."""

from __future__ import annotations

from typing import Any

from rest_framework.exceptions import APIException
from rest_framework.response import Response
from rest_framework.views import exception_handler

from orchesis.audio.decode import LIMITS_TEXT
from orchesis.edits.edit import EditConflict
from orchesis.edits.gesture import BarConflict
from orchesis.errors import InvalidTranscription, OrchesisError, RefusedAudio
from studio.actions.runs import NotNow


def handle(error: Exception, context: dict[str, Any]) -> Response | None:
    """Called by the REST framework for whatever a view raises."""
    if isinstance(error, RefusedAudio):
        text = str(error)
        limits = "" if LIMITS_TEXT in text else f" Taken: {LIMITS_TEXT}."
        return _answer(400, "refused", f"{text[:1].upper()}{text[1:]}.{limits}")
    if isinstance(error, EditConflict):
        text = str(error)
        bars = list(error.bars) if isinstance(error, BarConflict) else []
        answer = _answer(409, "conflict", f"{text[:1].upper()}{text[1:]}.")
        answer.data["bars"] = bars
        return answer
    if isinstance(error, NotNow):
        return _answer(409, "not_now", f"{str(error).capitalize()}.")
    if isinstance(error, InvalidTranscription):
        return _answer(400, "invalid", str(error))
    if isinstance(error, OrchesisError):
        return _answer(500, "failed", str(error))
    response = exception_handler(error, context)
    if response is not None and isinstance(error, APIException):
        detail = response.data.get("detail") if isinstance(response.data, dict) else None
        if detail is None:
            response.data = {"code": "invalid", "detail": _first(response.data)}
        else:
            response.data = {"code": str(error.get_codes()), "detail": str(detail)}
    return response


def _answer(status: int, code: str, detail: str) -> Response:
    return Response({"code": code, "detail": detail}, status=status)


def _first(data: Any) -> str:
    """The first message of a serializer's errors, with its field."""
    if isinstance(data, dict) and data:
        key, value = next(iter(data.items()))
        text = _first(value)
        return text if key == "non_field_errors" else f"{key}: {text}"
    if isinstance(data, list) and data:
        return _first(data[0])
    return str(data)
