"""``django certify HOST …``: the certificate of the own network, kept in the data folder, and what a terminal shows of it."""

from __future__ import annotations

import io
import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone

from eyot.phone.certificates import certify
from eyot.shared.codes import code_of


class Command(BaseCommand):
    """Prints one JSON document: the files, the authority's fingerprint, and a QR code of the address as text."""

    help = __doc__
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        """The hosts, and the address that is shown."""
        parser.add_argument("hosts", nargs="+")
        parser.add_argument("--address", required=True)

    def handle(self, *args: Any, **options: Any) -> None:
        """Certifies and prints."""
        try:
            certified = certify(Path(settings.DATA) / "certificates", options["hosts"], timezone.now())
        except (OSError, ValueError) as error:
            raise CommandError(f"no certificate could be made: {error}") from None
        text = io.StringIO()
        code_of(options["address"]).print_ascii(out=text, invert=True)
        files = {"certificate": str(certified.certificate), "key": str(certified.key)}
        told = {"fingerprint": certified.fingerprint, "told": certified.told, "code": text.getvalue()}
        self.stdout.write(json.dumps(files | told))
