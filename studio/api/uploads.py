"""Receiving files: asked about before they are sent, and no further than the limit."""

from __future__ import annotations

import logging

from django.core.files.uploadhandler import StopUpload, TemporaryFileUploadHandler
from drf_spectacular.utils import extend_schema
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis.audio.decode import LARGEST_BYTES
from orchesis.errors import RefusedAudio
from studio.actions.quotas import need_quota
from studio.api.access import own_user
from studio.api.parsing import TooLarge
from studio.queueing import NotNow
from studio.storage import DiskFull, need_room

log = logging.getLogger(__name__)

FULL = "this recording was not stored"
_TOO_LARGE = "orchesis_upload_too_large"


class LimitedUploadHandler(TemporaryFileUploadHandler):
    """Stops reading when a file grows beyond what is taken."""

    def receive_data_chunk(self, raw_data: bytes, start: int) -> None:
        """Called with each piece."""
        if start + len(raw_data) > LARGEST_BYTES:
            self.file.close()
            if self.request is not None:
                self.request.META[_TOO_LARGE] = True
            raise StopUpload(connection_reset=True)
        super().receive_data_chunk(raw_data, start)


def need_file(request: Request) -> None:
    """Raise TooLarge or RefusedAudio for a request that brings no file."""
    if request.FILES:
        return
    if request._request.META.get(_TOO_LARGE):
        raise TooLarge(
            f"The file is larger than {LARGEST_BYTES // 1024**2} MB, the most that is taken: "
            "shorten it, or export it as FLAC or MP3."
        )
    raise RefusedAudio("no file arrived")


class AllowedView(APIView):
    """Asked by the proxy before it takes a file in; the length is in X-Upload-Length."""

    permission_classes = [AllowAny]

    @extend_schema(exclude=True)
    def get(self, request: Request) -> Response:
        """204, or 403 with the reason in X-Refusal."""
        if not request.user.is_authenticated:
            return _refusal(
                "not_authenticated", "Sign in first: files are stored for accounts only."
            )
        try:
            length = int(request.headers.get("X-Upload-Length") or 0)
            # Once on its way in, and again until it is checked.
            need_room(2 * min(length, 2 * LARGEST_BYTES), FULL)
            # A song more, or a recording more: which, its address says when it arrives.
            need_quota(own_user(request), size=min(length, LARGEST_BYTES))
        except ValueError:
            return _refusal("invalid", "This request cannot be read.")
        except NotNow as error:
            return _refusal("not_now", f"{str(error)[:1].upper()}{str(error)[1:]}.")
        except DiskFull as error:
            log.warning("an upload of %s bytes was refused: the disk is full", length)
            return _refusal("disk_full", str(error))
        return Response(status=204)


def _refusal(code: str, detail: str) -> Response:
    return Response(status=403, headers={"X-Refusal": detail, "X-Refusal-Code": code})
