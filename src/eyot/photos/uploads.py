"""Taking in files without filling memory or disk."""

from __future__ import annotations

from django.core.files.uploadhandler import TemporaryFileUploadHandler

from eyot_core.photo.picture import MOST_BYTES


class BoundedUploadHandler(TemporaryFileUploadHandler):
    """Keeps a file on disk up to a little over the limit; what comes after is counted, not kept."""

    most = MOST_BYTES

    def new_file(self, *args: object, **kwargs: object) -> None:
        super().new_file(*args, **kwargs)  # type: ignore[arg-type]
        self.received = 0

    def receive_data_chunk(self, raw_data: bytes, start: int) -> None:
        self.received += len(raw_data)
        if self.received <= self.most + self.chunk_size:
            super().receive_data_chunk(raw_data, start)
