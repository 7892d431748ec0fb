"""Where photos lie: a local folder, or a bucket of an S3-compatible service."""

from __future__ import annotations

import os
from contextlib import suppress
from typing import Any
from urllib.parse import parse_qs, unquote, urlsplit
from uuid import uuid4

from django.core.files.base import File
from django.core.files.storage import FileSystemStorage
from whitenoise.compress import Compressor
from whitenoise.storage import CompressedManifestStaticFilesStorage


class HashedFiles(CompressedManifestStaticFilesStorage):  # type: ignore[misc]  # its library has no types
    """Static files under names that change with what is in them, our own scripts' imports too: a page of one version of Eyot never
    runs a script of another."""

    patterns = (
        *CompressedManifestStaticFilesStorage.patterns,
        ("js/*.js", CompressedManifestStaticFilesStorage._js_module_import_aggregation_patterns[1]),
    )

    def create_compressor(self, **how: Any) -> Compressor:
        """By gzip alone: Brotli saves a seventh of what a first visit loads, and takes half of what a first start computes for it."""
        return super().create_compressor(use_brotli=False, **how)


class WholeFiles(FileSystemStorage):
    """A folder in which a file is there whole and for good, or not at all, whenever power or process stops."""

    def _save(self, name: str, content: File[Any]) -> str:
        part = self.path(begun := f"{name}.{uuid4().hex}.part")
        try:
            super()._save(begun, content)  # type: ignore[misc]
            with open(part, "rb") as file:
                os.fsync(file.fileno())
            os.replace(part, self.path(name))
        except OSError:
            with suppress(FileNotFoundError):
                os.unlink(part)
            raise
        return name


def photo_store(address: str) -> dict[str, Any]:
    """The storage for an address: a folder, or ``s3://bucket/prefix?endpoint=https://…&region=…``.

    Keys come from the usual environment variables of S3 clients. ValueError where the address names no bucket.

    >>> photo_store("s3://nest/photos?endpoint=http://127.0.0.1:9000")["OPTIONS"]["bucket_name"]
    'nest'
    """
    if not address.startswith("s3://"):
        return {
            "BACKEND": "eyot.config.stores.WholeFiles",
            "OPTIONS": {
                "location": address,
                "allow_overwrite": True,
                "file_permissions_mode": 0o600,
                "directory_permissions_mode": 0o700,
            },
        }
    parts = urlsplit(address)
    if not parts.netloc:
        raise ValueError("EYOT_PHOTOS names no bucket; write s3://bucket or s3://bucket/prefix?endpoint=https://…")
    options = parse_qs(parts.query)
    return {
        "BACKEND": "storages.backends.s3.S3Storage",
        "OPTIONS": {
            "bucket_name": unquote(parts.netloc),
            "location": parts.path.strip("/"),
            "endpoint_url": options.get("endpoint", [None])[0],
            "region_name": options.get("region", ["us-east-1"])[0],
            "file_overwrite": True,
            "default_acl": None,
        },
    }
