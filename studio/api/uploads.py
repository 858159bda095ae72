"""Receiving files: to disk as they come, and no further than the limit."""

from __future__ import annotations

from django.core.files.uploadhandler import StopUpload, TemporaryFileUploadHandler

from orchesis.audio.decode import LARGEST_BYTES


class LimitedUploadHandler(TemporaryFileUploadHandler):
    """Stops reading when a file grows beyond what is taken."""

    def receive_data_chunk(self, raw_data: bytes, start: int) -> None:
        """Called with each piece."""
        if start + len(raw_data) > LARGEST_BYTES + 1:
            self.file.close()
            raise StopUpload(connection_reset=True)
        super().receive_data_chunk(raw_data, start)
