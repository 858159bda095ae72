"""What a new listening run heard of a song that has a chart: looked at, then taken or left."""

from __future__ import annotations

import uuid

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from studio.actions.store import forget_heard, take_heard
from studio.api.access import own_user, scored_song
from studio.api.answers import edited_values
from studio.api.groove_serializers import HeardAgainSerializer
from studio.api.serializers import EditedSerializer
from studio.values.heard import heard_values


class HeardAgainView(APIView):
    """What was heard anew and waits to be looked at."""

    @extend_schema(responses=HeardAgainSerializer)
    def get(self, request: Request, song_id: uuid.UUID) -> Response:
        """What taking it would change; nothing is changed by asking."""
        return Response(heard_values(scored_song(request, song_id)))

    @extend_schema(request=None, responses=EditedSerializer)
    def post(self, request: Request, song_id: uuid.UUID) -> Response:
        """Take it, as a step that can be taken back; what people decided stays."""
        author = own_user(request)
        return Response(edited_values(take_heard(scored_song(request, song_id), author), author))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, song_id: uuid.UUID) -> Response:
        """Leave the song as it is."""
        forget_heard(scored_song(request, song_id))
        return Response(status=204)
