"""Serving a file in parts: what a browser needs to seek in audio (RFC 9110, section 14)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from django.http import FileResponse, HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase

_ONE_RANGE = re.compile(r"^bytes=(\d*)-(\d*)$")
_BLOCK = 256 * 1024


def ranged_file(request: HttpRequest, path: Path, content_type: str) -> HttpResponseBase:
    """The file, or the one range asked for: 200, 206, 304 or 416."""
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
