"""Serving a stored file, whole or in parts (RFC 9110, section 14).

Behind our proxy the file is only named, and the proxy sends it: slow listeners hold no worker. By
itself, as in tests, the file is sent from here.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase

_ONE_RANGE = re.compile(r"^bytes=(\d{0,18})-(\d{0,18})$")
_BLOCK = 256 * 1024


def stored_file(request: HttpRequest, path: Path, content_type: str) -> HttpResponseBase:
    """The file, or the one range asked for: 200, 206, 304 or 416. It must be below MEDIA_ROOT."""
    if settings.BEHIND_OUR_PROXY:
        name = path.relative_to(settings.MEDIA_ROOT)
        headers = {"X-Accel-Redirect": f"/files/{name}", "Cache-Control": "private, no-cache"}
        return HttpResponse(content_type=content_type, headers=headers)
    return ranged_file(request, path, content_type)


def kept_answer(request: HttpRequest, path: Path, body: bytes) -> HttpResponseBase:
    """An answer that is kept at `path`, whose name says which state it is of.

    Named to the proxy where it is there; sent from here where it could not be kept.
    """
    tag = f'"{path.stem}"'
    if same := unchanged(request, tag):
        return same
    headers = {"ETag": tag, "Cache-Control": "private, no-cache"}
    if settings.BEHIND_OUR_PROXY and path.exists():
        name = path.relative_to(settings.MEDIA_ROOT)
        headers = {"X-Accel-Redirect": f"/files/{name}", "Cache-Control": "private, no-cache"}
        return HttpResponse(content_type="application/json", headers=headers)
    return HttpResponse(body, content_type="application/json", headers=headers)


def unchanged(request: HttpRequest, tag: str) -> HttpResponse | None:
    """304 for whoever has this state already (RFC 9110, section 13.1.2), else None."""
    known = request.headers.get("If-None-Match", "")
    if tag not in [one.strip().removeprefix("W/") for one in known.split(",")]:
        return None
    headers = {"ETag": tag, "Cache-Control": "private, no-cache"}
    return HttpResponse(status=304, headers=headers)


def ranged_file(request: HttpRequest, path: Path, content_type: str) -> HttpResponseBase:
    """The same, sent from here."""
    state = path.stat()
    size, tag = state.st_size, f'"{state.st_mtime_ns:x}-{state.st_size:x}"'
    headers = {"Accept-Ranges": "bytes", "ETag": tag, "Cache-Control": "private, no-cache"}
    if request.headers.get("If-None-Match") == tag:
        return HttpResponse(status=304, headers=headers)
    wanted = request.headers.get("Range", "")
    if request.headers.get("If-Range", tag) != tag:
        wanted = ""
    found = _ONE_RANGE.match(wanted)
    if not found or found.groups() == ("", ""):
        return FileResponse(path.open("rb"), content_type=content_type, headers=headers)
    first_text, last_text = found.groups()
    if first_text:
        first, last = int(first_text), min(int(last_text or size - 1), size - 1)
    else:
        first, last = max(0, size - int(last_text)), size - 1
    if first > last or first >= size:
        return HttpResponse(status=416, headers={**headers, "Content-Range": f"bytes */{size}"})
    headers["Content-Range"] = f"bytes {first}-{last}/{size}"
    headers["Content-Length"] = str(last - first + 1)
    return StreamingHttpResponse(
        _blocks(path, first, last), status=206, content_type=content_type, headers=headers
    )


def _blocks(path: Path, first: int, last: int) -> Iterator[bytes]:
    with path.open("rb") as file:
        file.seek(first)
        left = last - first + 1
        while left > 0 and (block := file.read(min(_BLOCK, left))):
            left -= len(block)
            yield block
