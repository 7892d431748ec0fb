"""What the pages of the season, the bench and the hets say of the demo on one fixed evening, word by word and line by line.

A page that is meant to read otherwise is written anew with ``EYOT_REWRITE=1``; the difference is then read before it is kept. Only what
is read is compared: text, drawn lines, what fields hold and what is said to those who cannot see. Numbers of rows are left out.
"""

from __future__ import annotations

import os
import re
from datetime import UTC, datetime
from html import unescape
from html.parser import HTMLParser
from pathlib import Path
from typing import Any
from unittest.mock import patch

from django.contrib.auth import get_user_model
from django.test import TestCase

from eyot.collection.models import Collection
from tests.demo_rows import Rows, demo_collection
from tests.web.season_data import MembersClient

FOLDER = Path(__file__).parent / "as_it_reads"
REWRITE = "EYOT_REWRITE"
EVENING = datetime(2026, 6, 12, 18, 0, tzinfo=UTC)
SPOKEN = ("aria-label", "alt", "title", "placeholder")
HELD = ("value", "d", "aria-pressed", "datetime")
SILENT = ("csrfmiddlewaretoken", "key", "next")
DRAWN = ("x", "y", "width", "height", "cx", "cy", "r", "points", "transform")
SILENT_PARTS = {"script", "style", "datalist"}
SEASON = {
    "season": "/",
    "schools": "/schools/",
    "calendar": "/season.ics",
    "record laid": "/clutches/W-04/record/",
    "record hatched": "/clutches/W-02/record/",
    "record planned": "/clutches/W-07/record/",
    "egg out": "/clutches/W-02/2/record/",
    "egg open": "/clutches/W-04/1/record/",
}
CLUTCHES = {
    "clutch open": "/clutches/W-04/",
    "clutch hatched": "/clutches/W-02/",
    "clutch done": "/clutches/V-06/",
    "closing": "/clutches/V-06/closing/",
    "cutting sheet": "/clutches/W-04/sheet/",
    "scores": "/scores/",
    "season of nobody": "/scores/?who=helper",
    "tuning": "/scores/tuning/",
    "relook": "/relook/",
}
BENCH = {
    "bench in the egg": "/clutches/W-04/3/",
    "bench shed": "/clutches/W-02/2/?stage=shed",
    "bench shut": "/clutches/W-04/7/",
    "why": "/clutches/W-02/2/why/vanilla/",
    "more looks": "/clutches/W-04/3/more-looks/?stage=egg",
    "eyes": "/clutches/W-04/1/eyes/",
    "proof": "/clutches/V-06/1/proof/",
}
HETS = {
    "hets": "/hets/",
    "hets of piebald": "/hets/?gene=piebald&sort=name",
    "marks of piebald": "/hets/marks/piebald/",
    "laboratory": "/laboratory/",
    "explain": "/explain/?dam=Marram&sire=Fathom",
    "explain chosen": "/explain/?gene=clown&dam_state=visual&sire_state=normal",
    "proving": "/proving/",
}


SPIDER = "Spider: wobble in all to some degree. Read the welfare note before pairing again."
W4, W2, W7 = "/clutches/W-04/", "/clutches/W-02/", "/clutches/W-07/"
FEW = {
    "day_form": "day",
    "grade": "C",
    "rounds_days": "12",
    "opening": "never",
    "opening_days": "3",
    "dam_least_g": "1500",
    "sire_least_g": "600",
}
PERCENT = {"sure_percent": "97", "likely_percent": "80", "not_percent": "3", "label_percent": "10"}
REFUSED = (
    (f"{W7}record/rounds/", {"sire": ""}),
    (f"{W7}record/rounds/", {"sire": "Marram"}),
    (f"{W7}record/rounds/", {"sire": "Dabble", "on": "2027-01-01"}),
    (f"{W7}record/events/", {"event": "danced_on"}),
    (f"{W7}record/events/", {"event": "ovulated_on", "on": "2020-01-01"}),
    (f"{W7}record/laid/", {"eggs": "0"}),
    (f"{W7}record/laid/", {"eggs": "30"}),
    (f"{W7}record/laid/", {"eggs": "5", "on": "2020-01-01"}),
    (f"{W7}record/eggs/", {"number": "3"}),
    (f"{W4}record/laid/", {"eggs": "5"}),
    (f"{W4}record/rounds/", {"sire": "Fathom"}),
    (f"{W4}record/eggs/", {"number": "99"}),
    (f"{W4}record/signs/", {"sign": "full_moon"}),
    (f"{W4}record/all/", {"event": "sang"}),
    (f"{W4}record/all/", {"event": "shed_on"}),
    (f"{W2}record/log/", {}),
    (f"{W2}record/log/fetch/", {}),
    (f"{W2}1/record/state/", {"state": "flown"}),
    (f"{W2}2/record/state/", {"state": "out"}),
    (f"{W2}6/record/state/", {"state": "open", "on": "2026-06-12"}),
    (f"{W2}1/record/state/", {"state": "out", "on": "2020-01-01"}),
    (f"{W4}1/record/days/", {"event": "shed_on"}),
    (f"{W2}1/record/days/", {"event": "flew_on"}),
    (f"{W2}1/record/days/", {"event": "blue_on", "on": "2026-05-01"}),
    (f"{W4}1/record/sex/", {"sex": "female"}),
    (f"{W2}1/record/sex/", {"sex": "either"}),
    (f"{W2}1/record/weights/", {"grams": "999"}),
    (f"{W4}1/place/", {"across": "2", "down": "0"}),
    (f"{W4}1/place/", {"across": "left", "down": "0"}),
    (f"{W4}1/looks/", {"trait": "wings", "level": "two"}),
    (f"{W4}1/looks/", {"trait": "lobe_attach", "level": "upside_down"}),
    (f"{W4}1/looks/", {"trait": "lobe_attach", "level": "floating", "stage": "moon"}),
    (f"{W4}7/looks/", {"trait": "lobe_attach", "level": "floating", "stage": "egg"}),
    (f"{W4}1/calls/", {"verdict-mojave": "perhaps"}),
    (f"{W4}1/calls/", {"outside": "banana", "reason": ""}),
    (f"{W4}1/calls/", {}),
    (f"{W4}1/guess/", {"guess": ""}),
    (f"{W4}1/eyes/invite/", {"name": "", "days": "7"}),
    (f"{W4}1/eyes/invite/", {"name": "a friend", "days": "400"}),
    (f"{W4}1/proof/", {"copies-mojave": "1", "on": "2027-01-01", "how": "bred"}),
    (f"{W4}1/proof/", {"copies-mojave": "1", "how": "hearsay"}),
    ("/schools/", FEW | PERCENT | {"opening_days": "20"}),
    ("/schools/", FEW | PERCENT | {"opening": "always"}),
    ("/schools/", FEW | PERCENT | {"likely_percent": "99"}),
    ("/schools/", FEW | PERCENT | {"label_percent": "0"}),
    ("{carrier}breedings/", {"partner": "visual", "hatchlings": "3", "visuals": "4"}),
    ("{carrier}breedings/", {"partner": "visual", "hatchlings": "0"}),
    ("{carrier}breedings/", {"partner": "friend", "hatchlings": "3"}),
    ("{carrier}breedings/", {"partner": "normal", "hatchlings": "3", "visuals": "1"}),
    ("{carrier}breedings/", {"partner": "possible", "hatchlings": "3", "chance": "often"}),
    ("{carrier}tests/", {"result": "maybe", "laboratory": "one"}),
    ("{carrier}tests/", {"result": "carrier"}),
    ("{carrier}tests/", {"result": "carrier", "laboratory": "one", "sensitivity": "1.5"}),
    ("{carrier}enter/", {}),
    ("/laboratory/order/", {"animal": ""}),
    ("/laboratory/order/", {"animal": "Marram", "genes": "mojave"}),
    ("/proving/", {"name": " "}),
    ("/proving/together/", {"hatchlings": "0"}),
    ("/proving/place/", {}),
    ("{trait}who/", {"who": ""}),
    ("{trait}who/", {"who": "Marram", "shows": "loudly"}),
    ("{trait}enter/", {}),
)
DONE = (
    (f"{W7}record/rounds/", {"sire": "Dabble", "on": "2026-06-10"}),
    (f"{W7}record/events/", {"event": "ovulated_on", "on": "2026-06-11"}),
    (f"{W7}record/laid/", {"eggs": "5", "slugs": "1", "on": "2026-06-12"}),
    (
        f"{W7}record/place/",
        {
            "place": "tub 3",
            "substrate": "perlite",
            "incubator": "Warm box",
            "note": "two stuck together",
            "note_shown": SPIDER,
        },
    ),
    (f"{W7}record/eggs/", {"number": "9"}),
    (f"{W7}9/state/", {"state": "dead", "on": "2026-06-12"}),
    (f"{W7}record/close/", {}),
    (f"{W7}record/close/", {}),
    (f"{W4}record/signs/", {"sign": "moist_box", "seen": "yes"}),
    (f"{W4}record/signs/", {"sign": "moist_box"}),
    (f"{W4}record/all/", {"event": "out", "on": "2026-06-12", "note": "all at night"}),
    (f"{W4}1/place/", {"across": "0.2", "down": "0.9", "on_top": "yes", "mark": "x"}),
    (f"{W2}1/record/days/", {"event": "first_meal_on", "on": "2026-06-11", "eaten": "rat pup"}),
    (f"{W2}1/record/days/", {"event": "blue_on", "on": "2026-05-28"}),
    (f"{W2}1/record/sex/", {"sex": "male", "how": "probed"}),
    (f"{W2}1/record/weights/", {"grams": "71,5", "on": "2026-06-12"}),
    (f"{W2}1/hold-back/", {"name": "Reedling"}),
    (f"{W4}2/guess/", {"guess": "mojave?", "stage": "egg"}),
    (f"{W4}2/cut/guess/", {"guess": "mojave leopard", "note": "pale"}),
    ("/schools/", FEW | PERCENT),
    (
        "{carrier}breedings/",
        {"partner": "possible", "hatchlings": "4", "visuals": "0", "chance": "2/3", "on": "2026-06-01"},
    ),
    ("{carrier}tests/", {"result": "clear", "laboratory": "a laboratory", "on": "2026-06-02"}),
    ("/laboratory/order/", {"animal": "Fescue", "genes": ["piebald", "clown"]}),
    ("/proving/", {"name": "Ripple", "note": "waves on the back"}),
    ("/proving/together/", {"first": "visual", "second": "het", "hatchlings": "6", "visuals": "0"}),
    ("/proving/place/", {"both": "0", "one": "7", "neither": "0"}),
    ("{trait}who/", {"who": "W-02 1", "shows": "yes"}),
)


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
    client_class = MembersClient
    collection: Collection

    @classmethod
    def setUpTestData(cls) -> None:
        cls.enterClassContext(patch("django.utils.timezone.now", return_value=EVENING))
        cls.collection = demo_collection()

    def setUp(self) -> None:
        users: Any = get_user_model().objects
        self.client.force_login(users.get(username="keeper"))
        marram, trait = self.collection.animals.get(name="Marram").pk, self.collection.new_traits.get().pk
        self.own = {"carrier": f"/hets/{marram}/piebald/", "trait": f"/proving/{trait}/"}

    def same(self, name: str, found: str) -> None:
        kept = FOLDER / f"{name.replace(' ', '_')}.txt"
        if os.environ.get(REWRITE):
            kept.write_text(found)
        self.maxDiff = 3000
        self.assertEqual(found, kept.read_text())

    def read_as_before(self, pages: dict[str, str]) -> None:
        for name, path in pages.items():
            with self.subTest(name):
                self.same(name, read(self.client.get(path).content.decode()))

    def test_the_season_and_records_read_as_they_did(self) -> None:
        self.read_as_before(SEASON)

    def test_clutches_and_what_is_read_across_them_read_as_they_did(self) -> None:
        self.read_as_before(CLUTCHES)

    def test_the_bench_reads_as_it_did(self) -> None:
        self.read_as_before(BENCH)

    def test_hets_read_as_they_did(self) -> None:
        self.read_as_before(HETS | self.own)

    def sent(self, path: str, given: dict[str, Any]) -> str:
        """What is answered: the status, what is told above the page, and beside fields."""
        answer = self.client.post(path.format(**self.own), given)
        text = answer.content.decode()
        told = re.findall(r'role="(?:alert|status)">(.*?)</p>|<span class="field-error"[^>]*>(.*?)</span>', text, re.S)
        words = [" ".join(unescape(first or second).split()) for first, second in told] or (
            [text] if "<html" not in text else []
        )
        return f"{path} {given}\n  {answer.status_code} " + " / ".join(words) + "\n"

    def test_what_cannot_be_is_refused_in_these_words_and_changes_nothing(self) -> None:
        self.client.get("/")  # the login knows the collection from here on
        before = Rows()
        self.same("refused", "".join(self.sent(path, given) for path, given in REFUSED))
        self.assertEqual(before, Rows())

    def test_what_is_done_is_kept_in_these_words(self) -> None:
        done = "".join(self.sent(path, given) for path, given in DONE)
        self.same("done", done)
        for name, path in (
            ("changes", "/history/"),
            ("record after", f"{W7}record/"),
            ("carrier after", self.own["carrier"]),
        ):
            self.same(name, read(self.client.get(path).content.decode()))
