"""What the pages of the season, the bench and the hets say of the demo on one fixed evening, word by word and line by line.

A page that is meant to read otherwise is written anew with ``EYOT_REWRITE=1``; the difference is then read before it is kept. Only what
is read is compared: text, drawn lines, what fields hold and what is said to those who cannot see. Numbers of rows are left out.
"""

from __future__ import annotations

import os
import re
from datetime import UTC, date, datetime
from html.parser import HTMLParser
from pathlib import Path
from typing import Any
from unittest.mock import patch

from django.contrib.auth import get_user_model
from django.test import TestCase

from eyot.collection.models import Collection
from eyot.demo.loading import load_demo
from tests.demo_rows import PASSWORD

FOLDER = Path(__file__).parent / "as_it_reads"
REWRITE = "EYOT_REWRITE"
EVENING = datetime(2026, 6, 12, 18, 0, tzinfo=UTC)
SPOKEN = ("aria-label", "alt", "title", "placeholder")
HELD = ("value", "d", "aria-pressed", "datetime")
SILENT = ("csrfmiddlewaretoken", "key", "next")
DRAWN = ("x", "y", "width", "height", "cx", "cy", "r", "points", "transform")
SILENT_PARTS = {"script", "style", "datalist"}
PAGES = {
    "season": "/",
    "schools": "/schools/",
    "calendar": "/season.ics",
    "record laid": "/clutches/W-04/record/",
    "record hatched": "/clutches/W-02/record/",
    "record planned": "/clutches/W-07/record/",
    "egg out": "/clutches/W-02/2/record/",
    "egg open": "/clutches/W-04/1/record/",
    "clutch open": "/clutches/W-04/",
    "clutch hatched": "/clutches/W-02/",
    "clutch done": "/clutches/V-06/",
    "bench in the egg": "/clutches/W-04/3/",
    "bench shed": "/clutches/W-02/2/?stage=shed",
    "bench shut": "/clutches/W-04/7/",
    "why": "/clutches/W-02/2/why/vanilla/",
    "eyes": "/clutches/W-04/1/eyes/",
    "proof": "/clutches/V-06/1/proof/",
    "closing": "/clutches/V-06/closing/",
    "scores": "/scores/",
    "tuning": "/scores/tuning/",
    "relook": "/relook/",
    "cutting sheet": "/clutches/W-04/sheet/",
    "hets": "/hets/",
    "hets of piebald": "/hets/?gene=piebald&sort=name",
    "marks of piebald": "/hets/marks/piebald/",
    "laboratory": "/laboratory/",
    "explain": "/explain/?dam=Marram&sire=Fathom",
    "proving": "/proving/",
}


class Reader(HTMLParser):
    """The lines that are read of a page's main part."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: list[str] = []
        self.within: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        given = {name: value or "" for name, value in attrs}
        if tag not in ("input", "img", "br", "hr", "meta", "link"):
            self.within.append(tag)
        if not self.is_read or given.get("name") in SILENT:
            return
        words = [
            f"[{name}: {given[name]}]" for name in (*SPOKEN, *HELD) if given.get(name) and "look" not in self.within
        ]
        if "svg" in self.within and (drawn := [f"{name} {given[name]}" for name in DRAWN if name in given]):
            words.append(f"[{', '.join(drawn)}]")
        words += [f"[{name}]" for name in ("checked", "selected", "disabled") if name in given]
        if tag != "option" or "selected" in given:
            self.lines += words

    def handle_endtag(self, tag: str) -> None:
        if tag in self.within:
            while self.within.pop() != tag:
                pass

    @property
    def is_read(self) -> bool:
        return "main" in self.within and not SILENT_PARTS & set(self.within)

    def handle_data(self, data: str) -> None:
        if self.is_read and "option" not in self.within and data.strip():
            self.lines.append(" ".join(data.split()))


def read(page: str) -> str:
    """A page as it is read, a line for each piece; whole for what is no page."""
    if "<main" not in page:
        return re.sub(r"(?m)^(UID|DTSTAMP).*$", r"\\1", page.replace("\r\n", "\n"))
    reader = Reader()
    reader.feed(page)
    return "\n".join(reader.lines) + "\n"


class AsItReads(TestCase):
    collection: Collection

    @classmethod
    def setUpTestData(cls) -> None:
        cls.enterClassContext(patch("django.utils.timezone.now", return_value=EVENING))
        cls.collection = load_demo(PASSWORD, lambda line: None, photos=False, today=date(2026, 6, 12))

    def test_every_page_reads_as_it_did(self) -> None:
        users: Any = get_user_model().objects
        self.client.force_login(users.get(username="keeper"))
        animals = {animal.name: animal.pk for animal in self.collection.animals.all()}
        trait = self.collection.new_traits.get().pk
        more = {"carrier": f"/hets/{animals['Marram']}/piebald/", "trait": f"/proving/{trait}/"}
        for name, path in (PAGES | more).items():
            with self.subTest(name):
                found = read(self.client.get(path).content.decode())
                kept = FOLDER / f"{name.replace(' ', '_')}.txt"
                if os.environ.get(REWRITE):
                    kept.write_text(found)
                self.maxDiff = 3000
                self.assertEqual(found, kept.read_text())
