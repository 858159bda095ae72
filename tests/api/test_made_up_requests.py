"""Made-up requests on all paths, by somebody of each role: no 5xx, no answer outside the schema.

Schemathesis makes them from the schema, such that it allows and such that it does not. The answers
are checked by `tests.contract`, as in every test.
"""

from __future__ import annotations

import json
from typing import Any

import pytest
import schemathesis
import yaml
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st
from rest_framework.test import APIClient
from schemathesis import GenerationMode

from orchesis.pipeline import Result
from studio.actions.store import store_transcription
from studio.models import Song
from studio.people import Seat, SeatRole
from tests.composing import ROCK, song
from tests.contract import SCHEMA

EXAMPLES = 2
"""Of each operation, role, and kind; the whole has to stay quick."""

ENDING = ("/api/account", "/api/session")
"""What ends the account or the session that asks has tests of its own."""

AWAY = 503
"""What the workers make is not made while tests run."""

API = schemathesis.openapi.from_dict(yaml.safe_load(SCHEMA.read_text()))
OPERATIONS = [
    operation
    for result in API.get_all_operations()
    for operation in [result.ok()]
    if not operation.path.startswith(ENDING)
]


def own_song(owner: Any) -> Song:
    """A song of somebody, with a chart; a new one where requests have removed it."""
    found = Song.objects.filter(owner=owner).first()
    if found is None:
        found = Song.objects.create(owner=owner, title="Made up", file_name="a.ogg", suffix=".ogg")
        found.folder.mkdir(parents=True, exist_ok=True)
        store_transcription(found, Result(song([ROCK] * 4), (1.0,)))
    return found


def requests_of(operation: Any) -> st.SearchStrategy[Any]:
    """Such as the schema allows, and such as it does not."""
    kinds = [operation.as_strategy(generation_mode=GenerationMode.POSITIVE)]
    if operation.body or operation.query:
        kinds.append(operation.as_strategy(generation_mode=GenerationMode.NEGATIVE))
    return st.one_of(kinds)


def send(client: APIClient, case: Any, song_id: str) -> Any:
    """The request, on a song that there is."""
    path = case.path
    for name, value in (case.path_parameters or {}).items():
        text = song_id if name == "song_id" else str(value).replace("/", "-").strip("?#. ")
        path = path.replace(f"{{{name}}}", text or "x")
    query = {key: str(value) for key, value in (case.query or {}).items() if value is not None}
    body = case.body if not isinstance(case.body, schemathesis.core.NotSet) else None
    if case.media_type == "multipart/form-data":
        return client.generic(case.method, path, b"", case.media_type + "; boundary=x")
    if body is None or case.method == "GET":
        return client.generic(case.method, path, query_params=query)
    data = body if isinstance(body, bytes) else json.dumps(body, default=str).encode()
    return client.generic(case.method, path, data, "application/json", query_params=query)


@pytest.mark.parametrize("operation", OPERATIONS, ids=lambda one: f"{one.method} {one.path}")
def test_every_answer_is_in_the_schema(operation, ada, ben, django_user_model):
    reader = django_user_model.objects.create_user("reader", password="a-long-pass-word")
    clients = {}
    for name, user in (("owner", ada), ("reader", reader), ("stranger", ben), ("nobody", None)):
        clients[name] = APIClient()
        if user is not None:
            clients[name].force_login(user)

    @seed(20)
    @settings(
        max_examples=EXAMPLES * len(clients),
        deadline=None,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(st.sampled_from(sorted(clients)), requests_of(operation))
    def ask(role: str, case: Any) -> None:
        piece = own_song(ada)
        Seat.objects.get_or_create(song=piece, user=reader, defaults={"role": SeatRole.READER})
        answer = send(clients[role], case, str(piece.pk))
        assert answer.status_code < 500 or answer.status_code == AWAY, answer.content[:300]

    ask()
