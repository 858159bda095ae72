"""Every JSON answer that a test receives, against the committed schema; unknown fields refused.

A middleware of the test settings, so that it sees what clients of the API tests get and what pages
get in the browser tests alike. `tests/api/test_contract.py` says that it can fail.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Any

import jsonschema_rs
import yaml
from django.http import HttpRequest
from django.http.response import HttpResponseBase

SCHEMA = Path(__file__).resolve().parents[1] / "studio" / "schema.yaml"
OPERATORS = ("api/health/", "api/metrics", "api/uploads/allowed")
"""For nginx and for who runs the installation; pages do not ask there."""

CONVERTER = re.compile(r"<(?:\w+:)?(\w+)>")


class BrokenContract(AssertionError):
    """An answer is not what the schema says."""


@lru_cache(maxsize=1)
def load_schema() -> dict[str, Any]:
    """The schema as JSON Schema has it: null a type, and objects closed."""
    schema = yaml.safe_load(SCHEMA.read_text())
    for component in schema["components"]["schemas"].values():
        _close(component)
    return dict(schema)


def _close(node: Any) -> None:
    if isinstance(node, list):
        for item in node:
            _close(item)
        return
    if not isinstance(node, dict):
        return
    for value in list(node.values()):
        _close(value)
    if node.get("type") == "object" and "properties" in node:
        node.setdefault("additionalProperties", False)
    if node.pop("nullable", False):
        plain = dict(node)
        node.clear()
        node["anyOf"] = [plain, {"type": "null"}]


def schema_of(route: str, method: str, status: int) -> dict[str, Any]:
    """What the answer of a route shall be, as JSON Schema.

    Raises
    ------
    BrokenContract : the route, its method or a status of success is not in the schema.
    """
    path = "/" + CONVERTER.sub(r"{\1}", route.strip("^$"))
    operations = load_schema()["paths"].get(path)
    if operations is None:
        raise BrokenContract(f"{path} is not in the schema")
    operation = operations.get(method.lower())
    if status >= 400:
        return {"$ref": "#/components/schemas/Problem"}
    answer = operation and operation["responses"].get(str(status))
    if answer is None:
        raise BrokenContract(f"{method} {path} answers {status}, which is not in the schema")
    return dict(next(iter(answer.get("content", {"": {"schema": {}}}).values()))["schema"])


@lru_cache(maxsize=512)
def _validator(reference: str) -> jsonschema_rs.Draft202012Validator:
    whole = {**json.loads(reference), "components": load_schema()["components"]}
    return jsonschema_rs.Draft202012Validator(whole)


def check_answer(route: str, method: str, status: int, body: bytes) -> None:
    """Raise BrokenContract where an answer is not as the schema has it."""
    schema = schema_of(route, method, status)
    if schema.get("format") == "binary":
        return
    value = json.loads(body)
    error = next(iter(_validator(json.dumps(schema)).iter_errors(value)), None)
    if error is not None:
        where = "/".join(map(str, error.instance_path))
        raise BrokenContract(f"{method} {route}, {status}: {error.message[:400]} (at /{where})")


def _is_of_the_api(route: str) -> bool:
    return route.startswith("api/") and not route.startswith(OPERATORS)


class ContractMiddleware:
    """Checks what leaves the application under /api."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        """The answer, as it is; raises BrokenContract where it is none that was promised."""
        answer = self.get_response(request)
        found = request.resolver_match
        is_json = answer.headers.get("Content-Type", "").startswith("application/json")
        if found is None or not is_json or not _is_of_the_api(found.route):
            return answer
        if not answer.streaming and answer.content and "X-Accel-Redirect" not in answer.headers:
            check_answer(found.route, request.method or "GET", answer.status_code, answer.content)
        return answer
