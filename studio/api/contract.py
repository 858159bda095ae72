"""What the schema says of every operation: that errors have one shape."""

from __future__ import annotations

from typing import Any

from drf_spectacular.openapi import AutoSchema

from studio.api.serializers import ProblemSerializer


class OperationSchema(AutoSchema):
    """An operation's answers, errors among them (`problems.handle`)."""

    def _get_response_bodies(self, direction: str = "response") -> dict[str, Any]:
        bodies = dict(super()._get_response_bodies(direction))
        bodies["default"] = self._get_response_for_code(ProblemSerializer, "default")
        return bodies
