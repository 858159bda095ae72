"""Names of files that are saved: what a person typed, without what a path could be made of."""

from __future__ import annotations

import re

from django.http.response import HttpResponseBase
from django.utils.http import content_disposition_header
from rest_framework.response import Response

from studio.api.serializers import BeingMadeSerializer

# Control and direction signs, and what some system or other forbids in names.
NO_NAME = re.compile('[\x00-\x1f\x7f/\\\\:*?"<>|\u202a-\u202e\u2066-\u2069]+')
LONGEST = 120


MAYBE_LATER = {202: BeingMadeSerializer}
"""For the schema of what may have to be made first, see `being_made`."""


def being_made() -> Response:
    """A worker makes it now: ask again in a second."""
    return Response({"state": "making"}, status=202, headers={"Retry-After": "1"})


def saved_as(response: HttpResponseBase, name: str, ending: str) -> None:
    """Have browsers save an answer under a name; `ending` is ours and is always kept."""
    clean = NO_NAME.sub("-", name).strip(" .-")[:LONGEST] or "song"
    header = content_disposition_header(as_attachment=True, filename=f"{clean}{ending}")
    response["Content-Disposition"] = header or "attachment"
