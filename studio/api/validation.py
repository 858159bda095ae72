"""What a request asks for, checked against its shape: in its body, or in its address."""

from __future__ import annotations

from typing import Any

from rest_framework.request import Request
from rest_framework.serializers import Serializer

Shape = type[Serializer[Any]]


def validated_body(request: Request, shape: Shape) -> dict[str, Any]:
    """What the body asks for. Raises ValidationError."""
    return _checked(request.data, shape)


def validated_query(request: Request, shape: Shape) -> dict[str, Any]:
    """What the address asks for. Raises ValidationError."""
    return _checked(request.query_params, shape)


def _checked(data: Any, shape: Shape) -> dict[str, Any]:
    serializer = shape(data=data)
    serializer.is_valid(raise_exception=True)
    wish: dict[str, Any] = serializer.validated_data
    return wish
