"""Requests that nobody sends by accident: every field of every form that the demo's pages show, and every address, with values made to
hurt. Not among the tests: ``bin/eyot chaos --requests`` runs it and prints the table of docs/reliability.md.
"""

from __future__ import annotations

import logging
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from html.parser import HTMLParser
from typing import Any
from urllib.parse import quote, urljoin, urlsplit

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import override_settings
from django.urls import Resolver404, resolve

from tests.jobs import stored_in
from tests.web.season_data import SeasonCase
from tests.web.test_hostile_files import HOSTILE
from tests.web.test_rights import addresses

MOST_PAGES = 400
VALUES = {
    "NUL": "a\0b",
    "5,000 digits": "9" * 5000,
    "25 digits": "9" * 25,
    "310 digits and a percent sign": "1" * 310 + "%",
    "a superscript": "e²",
    "300 letters": "a" * 300,
    "100,000 letters": "é" * 100_000,
    "a tiny chance": "1e-40000000",
    "infinite": "1e400",
    "no number": "nan",
    "negative": "-1",
    "year 1": "0001-01-01",
    "year 9999": "9999-12-31",
    "no day": "2026-13-45",
    "emoji": "🐍" * 60,
    "turned round": "\u202eabc",
    "brackets": '{"a": [',
    "markup": "<script>alert(1)</script>",
}
IN_ADDRESSES = ("\0", "9" * 400, "²", "a" * 300, "%", "..", "🐍")


@dataclass
class Form:
    """A form as a page shows it: where it goes, and what its fields hold."""

    action: str
    method: str
    fields: dict[str, str] = field(default_factory=dict)
    files: set[str] = field(default_factory=set)


TABLES = {
    "a cell of 131,072 letters": b"name,sex,genes\n" + b"a" * 131_072 + b",female,pastel\n",
    "bare carriage returns": b"name,sex,genes\rA,female,pastel\rB,male,\r",
    "a NUL in a table": b"name,sex\nA\0B,female\n",
    "bytes of no encoding": b"name,sex\n\xff\xfe\x00,female\n",
    "quotation marks that never close": b'name,sex\n"A,female\n' * 50,
    "100,000 separators": b"name" + b"," * 100_000 + b"\n",
    "an archive that is none": b"PK\x03\x04" + b"\0" * 200,
}


class Page(HTMLParser):
    """The links and the forms of a page."""

    def __init__(self, address: str) -> None:
        super().__init__()
        self.address, self.links = address, set()
        self.forms: list[Form] = []
        self.inside: Form | None = None

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """Takes down what can be followed or sent."""
        given = {name: value or "" for name, value in attrs}
        for name in ("href", "hx-get"):
            if name in given:
                self.links.add(urljoin(self.address, given[name]).split("#")[0])
        if "hx-post" in given:
            self.forms.append(Form(urljoin(self.address, given["hx-post"]), "post"))
        if tag == "form":
            self.inside = Form(urljoin(self.address, given.get("action", "")), given.get("method", "get").lower())
            self.forms.append(self.inside)
        if tag in ("input", "select", "textarea", "button") and self.inside and given.get("name"):
            if given.get("type") == "file":
                self.inside.files.add(given["name"])
            else:
                self.inside.fields.setdefault(given["name"], given.get("value", ""))

    def handle_endtag(self, tag: str) -> None:
        """A form ends."""
        if tag == "form":
            self.inside = None


class HostileRequests(SeasonCase):
    """Nothing is answered by 500, and nothing of it is left in the database."""

    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(STORAGES=stored_in(folder.name), ARRIVING_ROOT=folder.name))
        logging.getLogger("django.request").setLevel(logging.CRITICAL)
        self.client.raise_request_exception = False
        self.sent: Counter[str] = Counter()
        self.broke: list[str] = []

    def send(self, what: str, method: str, path: str, given: dict[str, Any] | None = None) -> Any:
        """Sends one, and undoes what it did."""
        with transaction.atomic():
            answer = getattr(self.client, method)(path, given or {})
            transaction.set_rollback(True)
        self.client.force_login(self.keeper) if answer.status_code == 302 and "login" in answer["Location"] else None
        self.sent[what] += 1
        if answer.status_code == 500:
            self.broke.append(f"{method} {path[:80]} {what}: {sys.exc_info()[1]}")
        return answer

    def pages(self) -> Iterator[Page]:
        """The demo's pages, from the first on, one of each address and some more."""
        waiting, seen, kinds = ["/in/withy-bed/"], set(), Counter[str]()
        while waiting and len(seen) < MOST_PAGES:
            address = waiting.pop(0)
            path = urlsplit(address).path
            try:
                kind = resolve(path.removeprefix("/in/withy-bed") or "/").route
            except Resolver404:
                continue
            kinds[kind] += 1
            if address in seen or kinds[kind] > 3:
                continue
            seen.add(address)
            answer = self.client.get(address)
            if answer.status_code != 200 or "html" not in answer.get("Content-Type", ""):
                continue
            page = Page(address)
            page.feed(answer.content.decode())
            waiting += sorted(link for link in page.links if link.startswith("/in/withy-bed/"))
            yield page

    def test_every_field_of_every_form(self) -> None:
        known: set[tuple[str, str]] = set()
        for page in list(self.pages()):
            for form in page.forms:
                path = urlsplit(form.action).path
                try:
                    kind = resolve(path.removeprefix("/in/withy-bed") or "/").route
                except Resolver404:
                    continue
                if "logout" in kind:
                    continue
                for name in form.fields:
                    if name in ("csrfmiddlewaretoken",) or (kind, name) in known:
                        continue
                    known.add((kind, name))
                    for what, value in VALUES.items():
                        self.send(what, form.method, form.action, {**form.fields, name: value})
        self.tell(f"{len(known)} fields of forms")

    def test_every_file(self) -> None:
        files = {name: made() for name, (made, _) in HOSTILE.items()} | TABLES
        known: set[tuple[str, str]] = set()
        for page in list(self.pages()):
            for form in page.forms:
                path = urlsplit(form.action).path
                kind = resolve(path.removeprefix("/in/withy-bed") or "/").route
                for name in form.files - {one for where, one in known if where == kind}:
                    known.add((kind, name))
                    for what, data in files.items():
                        file = SimpleUploadedFile(what if "." in what else "table.csv", data)
                        self.send(what, "post", form.action, {**form.fields, name: file})
        self.tell(f"{len(known)} fields for files")

    def test_every_address(self) -> None:
        for _, path in addresses():
            parts = path.strip("/").split("/")
            for at in range(len(parts)):
                for value in IN_ADDRESSES:
                    changed = "/".join([*parts[:at], quote(value, safe=""), *parts[at + 1 :]])
                    for method in ("get", "post"):
                        self.send("in an address", method, f"/in/withy-bed/{changed}/")
        for _, path in addresses():
            for headers in (
                {"CONTENT_TYPE": "application/x-www-form-urlencoded; charset=none"},
                {"CONTENT_TYPE": "multipart/form-data"},
            ):
                with transaction.atomic():
                    answer = self.client.generic("POST", f"/in/withy-bed{path}", b"a=%ff&b", **headers)
                    transaction.set_rollback(True)
                self.sent["a body that is none"] += 1
                if answer.status_code == 500:
                    self.broke.append(f"post {path[:80]} {headers}")
        self.tell("addresses")

    def tell(self, of: str) -> None:
        """The table, and what broke."""
        print(f"\n{of}: {self.sent.total():,} requests, {len(self.broke)} answers of 500")
        for what, count in sorted(self.sent.items()):
            print(f"| {what} | {count:,} |")
        print("\n".join(sorted(self.broke)))
        self.assertEqual(self.broke, [])
