"""Cutting: what is asked, what a device sends (late, twice, wrong), and the sheet of all eggs."""

from __future__ import annotations

from datetime import timedelta
from tempfile import TemporaryDirectory
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse
from django.test import override_settings
from django.utils import timezone

from eyot.bench.actions import Answer, record_look
from eyot.bench.models import Look
from eyot.bench.siblings import judged
from eyot.collection.models import Change
from eyot.cutting.queries import genes_to_guess, looks_of_genes, sheet_of
from eyot.photos.models import Photo
from eyot.season.egg_actions import guess_first
from tests.jobs import stored_in
from tests.web.season_data import SeasonCase
from tests.web.test_pages import FewerThan
from tests.web.test_photos import encoded


class Asked(SeasonCase):
    def test_each_gene_is_asked_by_the_look_that_tells_most_of_it(self) -> None:
        asked = looks_of_genes(judged(self.clutch()))
        self.assertEqual(asked[0], ("white_layout", "piebald"))
        self.assertEqual(len({trait for trait, _ in asked}), len(asked))
        self.assertGreaterEqual(len({gene for _, gene in asked}), 4)

    def test_a_first_guess_names_what_the_parents_can_give(self) -> None:
        words = [words for _, words in genes_to_guess(judged(self.clutch()))]
        self.assertEqual(set(words), {"Mojave", "Black Pastel", "Yellow Belly", "Piebald", "Leopard"})

    def test_the_page_holds_every_egg_in_box_order_and_starts_at_the_first_shut_one(self) -> None:
        page = self.client.get("/clutches/W-04/cutting/")
        self.assertEqual([entry.egg.number for entry in page.context["eggs"]], list(range(1, 8)))
        self.assertContains(page, 'data-first="6"')
        self.assertContains(page, "can’t see")

    def test_queries_do_not_grow_with_the_eggs(self) -> None:
        self.client.get("/clutches/W-04/cutting/")
        with self.assertNumQueries(FewerThan(18)):
            self.client.get("/clutches/W-04/cutting/")


class FromTheDevice(SeasonCase):
    def send(self, what: str, number: int = 7, **given: object) -> HttpResponse:
        return self.client.post(f"/clutches/W-04/{number}/cut/{what}/", {"key": str(uuid4()), **given})  # type: ignore[return-value]

    def test_cut_look_guess_and_note(self) -> None:
        self.assertEqual(self.send("state", state="open").status_code, 204)
        self.assertEqual(self.send("look", trait="head_stamp", level="busy").status_code, 204)
        self.assertEqual(self.send("guess", guess="Mojave Leopard?", note="pale head").status_code, 204)
        egg = self.egg(7)
        self.assertEqual((egg.state, egg.first_guess, egg.note), ("open", "Mojave Leopard?", "pale head"))
        look = egg.looks.get()
        self.assertEqual((look.trait, look.level, look.stage, look.light), ("head_stamp", "busy", "egg", "lamp"))

    def test_what_is_sent_twice_counts_once(self) -> None:
        key = str(uuid4())
        for _ in range(2):
            self.send("state", key=key, state="open")
        keys = [str(uuid4()) for _ in range(3)]
        with TemporaryDirectory() as folder, override_settings(STORAGES=stored_in(folder)):
            for _ in range(2):
                self.send("look", key=keys[0], trait="head_stamp", level="busy")
                self.send("guess", key=keys[1], guess="Mojave", note="once")
                self.send("photo", key=keys[2], photo=SimpleUploadedFile("window.jpg", encoded()))
        egg = self.egg(7)
        self.assertEqual((egg.events.filter(value="open").count(), egg.looks.count(), egg.photos.count()), (1, 1, 1))
        self.assertEqual((egg.note, str(egg.photos.get().pk)), ("once", keys[2]))

    def test_the_moment_is_the_one_at_which_it_was_entered(self) -> None:
        entered = timezone.now() - timedelta(hours=3)
        self.send("state", state="open", entered=entered.isoformat())
        self.assertEqual(Change.objects.first().at, entered)  # type: ignore[union-attr]
        ahead = timezone.now() + timedelta(days=2)
        self.send("look", trait="head_stamp", level="busy", entered=ahead.isoformat())
        self.assertLessEqual(self.egg(7).looks.get().seen_at, timezone.now())

    def test_what_can_not_be_is_refused_in_words(self) -> None:
        for what, given, words in (
            ("look", {"trait": "head_stamp", "level": "busy"}, "is not open"),
            ("state", {"state": "flown"}, "not a state of an egg"),
            ("photo", {}, "No picture came through"),
            ("photo", {"photo": SimpleUploadedFile("a.jpg", b"no picture")}, "a.jpg"),
        ):
            with self.subTest(words):
                answer = self.send(what, **given)  # type: ignore[arg-type]
                self.assertContains(answer, words, status_code=422)
        self.assertFalse(Look.objects.filter(egg=self.egg(7)).exists())
        self.assertFalse(Photo.objects.filter(egg=self.egg(7)).exists())


class Sheet(SeasonCase):
    def look(self, number: int, trait: str, level: str) -> None:
        answer = Answer(trait, level, "egg", "sure", uuid4())
        record_look(self.egg(number), self.keeper, answer, timezone.now())

    def test_a_visual_sibling_moves_the_others_and_is_named_as_the_reason(self) -> None:
        before = {row.egg.number: row.moved for row in sheet_of(self.clutch())}
        self.assertFalse(any(before.values()))
        self.look(3, "white_layout", "saddles")
        rows = {row.egg.number: row for row in sheet_of(self.clutch())}
        moved = {one.name: one for one in rows[1].moved}
        self.assertEqual((moved["Piebald"].alone, moved["Piebald"].with_siblings), ("11\u00a0%", "17\u00a0%"))
        self.assertIn("egg 3 shows Piebald", moved["Piebald"].why)
        self.assertIn("a parent carries Piebald", moved["Piebald"].why)
        self.assertIn("Piebald", rows[3].own)
        self.assertContains(self.client.get("/clutches/W-04/sheet/"), "egg 3 shows Piebald")

    def test_a_guess_against_the_looks_is_named(self) -> None:
        self.look(3, "white_layout", "saddles")
        guess_first(self.egg(4), self.keeper, "Piebald", "", timezone.now(), None)
        self.assertIn(
            "Piebald was not guessed", next(row.odd for row in sheet_of(self.clutch()) if row.egg.number == 3)
        )

    def test_eggs_that_are_not_open_say_so(self) -> None:
        rows = {row.egg.number: row for row in sheet_of(self.clutch())}
        self.assertEqual((rows[6].own, rows[6].moved), ("shut, dented", []))


class Fathers(SeasonCase):
    def test_which_egg_by_which_sire_with_the_chances(self) -> None:
        page = self.client.get("/clutches/W-03/")
        fathers = page.context["fathers"]
        self.assertEqual([name for name, _ in fathers.rows], ["Tarn", "Rill"])
        self.assertEqual(fathers.numbers, [3, 6])
        self.assertContains(page, "Which egg by which sire")
        self.assertIsNone(self.client.get("/clutches/W-04/").context["fathers"])

    def test_a_gene_from_nowhere_raises_the_question_with_ordinary_causes_first(self) -> None:
        self.assertEqual(self.client.get("/clutches/W-06/strangers/").context["strangers"], [])
        for trait, level in (("white_layout", "saddles"), ("white_share", "mid")):
            record_look(self.egg(4, "W-02"), self.keeper, Answer(trait, level, "shed", "sure", uuid4()), timezone.now())
        page = self.client.get("/clutches/W-02/strangers/")
        found = {one.number: one for one in page.context["strangers"]}
        self.assertIn(4, found)
        self.assertTrue(found[4].causes[0].startswith("A slip or odd light"))
        self.assertTrue(any("Piebald" in cause for cause in found[4].causes))
        self.assertIn("new gene", found[4].causes[-1])
        self.assertContains(page, "not from these parents")
        self.assertContains(self.client.get("/clutches/W-02/4/"), "/clutches/W-02/strangers/?egg=4")
        self.assertContains(self.client.get("/clutches/W-02/strangers/?egg=4"), "A slip or odd light")
        self.assertNotContains(self.client.get("/clutches/W-02/strangers/?egg=1"), "A slip or odd light")
        self.assertEqual(self.client.get("/clutches/X-01/strangers/").status_code, 404)
