"""What the schema says of every operation: that errors have one shape."""

from __future__ import annotations

from typing import Any, Literal

from drf_spectacular.openapi import AutoSchema

from studio.api.serializers import ProblemSerializer


class OperationSchema(AutoSchema):
    """An operation's answers, errors among them (`problems.handle`)."""

    def _get_response_bodies(
        self, direction: Literal["request", "response"] = "response"
    ) -> dict[str, Any]:
        bodies = dict(super()._get_response_bodies(direction))
        made = self._get_response_for_code(ProblemSerializer, "default")  # type: ignore[no-untyped-call]
        bodies["default"] = made
        return bodies
