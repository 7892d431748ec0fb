"""The animal's paper: what it says, its seal, and how it is read in another collection."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any
from uuid import uuid4

import jsonschema
import pypdfium2
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from eyot.bench.actions import make_call
from eyot.bench.models import Proof, SellersClaim
from eyot.bench.siblings import judged
from eyot.collection.models import Animal, CarriedGene
from eyot.homes.models import Issued
from eyot.papers.actions import hand_out
from eyot.papers.document import seal_of, sealed
from eyot.papers.models import PaperIn, PaperOut
from eyot.season.models import EggEvent
from eyot.shared.refusal import Refused
from tests.web.test_homes import HomesCase

SCHEMA = Path(__file__).parents[2] / "docs/formats/paper.schema.json"


class PapersCase(HomesCase):
    def paper(self, number: int = 1, code: str = "V-05", *, photos: bool = False) -> dict[str, Any]:
        return hand_out(self.row(number, code), self.keeper, timezone.now(), photos=photos)

    def read(self, document: object, **said: str) -> Any:
        data = document if isinstance(document, bytes) else json.dumps(document).encode()
        return self.client.post("/papers/read/", {"paper": SimpleUploadedFile("a.paper.json", data), **said})

    def taken_over(self, document: dict[str, Any], name: str = "Guest", **said: str) -> Animal:
        self.log_in_the_neighbour()
        answer = self.read(document, **said)
        self.assertEqual(answer.status_code, 302, answer.content[:2000])
        self.client.post(f"{answer['Location']}take/", {"name": name})
        return Animal.objects.get(collection__key="far-bank", name=name)


class HandedOut(PapersCase):
    def test_it_is_as_the_schema_says_and_sealed(self) -> None:
        document = self.paper()
        jsonschema.validate(document, json.loads(SCHEMA.read_text()), format_checker=jsonschema.FormatChecker())
        self.assertEqual(document["sha256"], seal_of(document))
        self.assertNotEqual(seal_of(document | {"keeper": "Somebody"}), document["sha256"])

    def test_each_gene_says_how_it_is_known(self) -> None:
        Proof.objects.filter(egg=self.egg(1, "V-05")).delete()
        genes = {one["gene"]: one for one in self.paper()["genes"]}
        self.assertEqual((genes["pinstripe"]["known"], genes["mojave"]["known"]), ("seen", "possible"))
        self.assertEqual((genes["piebald"]["known"], genes["piebald"]["chance"]), ("parents", "1/2"))
        self.assertIn("visual Piebald", genes["piebald"]["to_settle"])

    def test_what_is_proven_later_is_a_later_version_of_the_same_paper(self) -> None:
        Proof.objects.filter(egg=self.egg(1, "V-05")).delete()
        first, again = self.paper(), self.paper()
        self.assertEqual((first["number"], first["version"]), (again["number"], again["version"]))
        Proof.objects.create(egg=self.egg(1, "V-05"), gene="piebald", copies=1, how="bred", on=self.today)
        later = self.paper()
        self.assertEqual((later["number"], later["version"]), (first["number"], 2))
        found = next(one for one in later["genes"] if one["gene"] == "piebald")
        self.assertEqual((found["known"], found["chance"]), ("proven", "1"))
        self.assertEqual(PaperOut.objects.count(), 1)

    def test_a_gene_that_was_proven_not_to_be_there_is_not_in_it(self) -> None:
        Proof.objects.filter(egg=self.egg(1, "V-05")).delete()
        Proof.objects.create(egg=self.egg(1, "V-05"), gene="mojave", copies=0, how="tested", on=self.today)
        self.assertNotIn("mojave", [one["gene"] for one in self.paper()["genes"]])

    def test_what_is_not_sound_and_who_refused_stands_in_it(self) -> None:
        self.assertEqual(self.paper(8, "V-06")["health"], "small kink near the tail, felt since hatching")
        self.assertEqual([one["taken"] for one in self.paper(6, "V-06")["meals"]].count(False), 5)

    def test_as_page_it_is_one_and_says_all_that_counts(self) -> None:
        answer = self.client.post("/clutches/V-05/1/home/paper/", {"as": "page"})
        document = pypdfium2.PdfDocument(answer.content)
        self.assertEqual(len(document), 1)
        text = " ".join(document[0].get_textpage().get_text_bounded().split())
        for words in ("25-V05-1", "Pinstripe", "Fescue", "Culm", "Opinion and proof", "version 1", "meals 8 taken"):
            self.assertIn(words, text)
        self.assertEqual(Issued.objects.filter(kind="paper").count(), 1)

    def test_without_a_call_there_is_none(self) -> None:
        answer = self.client.post("/clutches/W-02/3/home/paper/", {"as": "file"})
        self.assertContains(answer, "no call yet", status_code=422)


class ReadElsewhere(PapersCase):
    def test_the_animal_arrives_with_everything_declared(self) -> None:
        Proof.objects.filter(egg=self.egg(1, "V-05")).delete()
        document = self.paper()
        animal = self.taken_over(document)
        genes = {gene.gene: gene for gene in animal.genes.all()}
        self.assertEqual({gene.known for gene in genes.values()}, {CarriedGene.Known.DECLARED})
        self.assertEqual((genes["pinstripe"].chance, genes["piebald"].chance), ("1", "1/2"))
        self.assertEqual(animal.code, "25-V05-1")
        self.assertEqual(animal.weighings.count(), len(document["weights"]))
        egg = animal.hatched_from  # type: ignore[attr-defined]
        self.assertEqual(egg.events.filter(kind=EggEvent.Kind.MEAL).count(), 8)
        self.assertEqual(egg.looks.count(), 0, "the looks stay theirs")
        self.assertIn("Pinstripe", SellersClaim.objects.get(egg=egg).line)

    def test_what_it_says_is_shown_before(self) -> None:
        document = self.paper()
        self.log_in_the_neighbour()
        page = self.client.get(self.read(document)["Location"])
        for words in ("by Withy Bed", "declared by", "Fescue", "Take the animal over"):
            self.assertContains(page, words)
        self.assertEqual(Animal.objects.filter(collection__key="far-bank").count(), 2)

    def test_a_gene_that_is_not_known_is_kept_as_text_and_asked_about(self) -> None:
        document = self.paper()
        own = {"gene": "moss", "name": "Moss", "copies": 1, "known": "seen", "chance": "1", "ground": "called by eye"}
        document = sealed(document | {"genes": [*document["genes"], own]})
        self.log_in_the_neighbour()
        answer = self.read(document)
        self.assertContains(self.client.get(answer["Location"]), "Not known in your catalogue")
        self.client.post(f"{answer['Location']}take/", {"name": "Guest"})
        animal = Animal.objects.get(collection__key="far-bank", name="Guest")
        self.assertIn("Moss (seen: called by eye)", animal.note)
        self.assertNotIn("moss", [gene.gene for gene in animal.genes.all()])

    def test_one_that_was_changed_by_hand_is_told_and_read_only_knowingly(self) -> None:
        document = self.paper() | {"keeper": "Another"}
        self.log_in_the_neighbour()
        self.assertContains(self.read(document), "not as it was made", status_code=422)
        answer = self.read(document, knowing="yes")
        self.assertContains(self.client.get(answer["Location"]), "Not as it was made")

    def test_the_same_twice_is_told_and_a_later_version_brings_it_up_to_date(self) -> None:
        Proof.objects.filter(egg=self.egg(1, "V-05")).delete()
        first = self.paper()
        Proof.objects.create(egg=self.egg(1, "V-05"), gene="piebald", copies=1, how="bred", on=self.today)
        later = self.paper()
        animal = self.taken_over(first)
        self.assertContains(self.read(first), "Guest is here already", status_code=422)
        animal.genes.filter(gene="pinstripe").update(known=CarriedGene.Known.BRED)
        answer = self.read(later)
        self.assertContains(self.client.get(answer["Location"]), "An earlier version came with")
        self.client.post(f"{answer['Location']}take/", {})
        genes = {gene.gene: (gene.chance, gene.known) for gene in animal.genes.all()}
        self.assertEqual(genes["piebald"], ("1", "declared"))
        self.assertEqual(genes["pinstripe"][1], "bred", "what the keeper knows himself stays")
        self.assertEqual(animal.weighings.count(), len(later["weights"]), "nothing is there twice")
        self.assertContains(self.read(first), "here already, by version 2", status_code=422)

    def test_a_name_that_is_taken_is_told_and_nothing_came(self) -> None:
        document = self.paper()
        self.log_in_the_neighbour()
        answer = self.read(document)
        again = self.client.post(f"{answer['Location']}take/", {"name": "Rudd"})
        self.assertContains(again, "There is a Rudd already", status_code=422)
        self.assertIsNone(PaperIn.objects.get().egg)
        self.assertEqual(self.client.post(f"{answer['Location']}away/").status_code, 302)
        self.assertEqual(PaperIn.objects.count(), 0)

    def test_own_papers_are_not_read(self) -> None:
        self.assertContains(self.read(self.paper()), "your own paper", status_code=422)

    def test_what_is_no_paper_is_told_with_its_place(self) -> None:
        good = self.paper()
        self.log_in_the_neighbour()
        for document, words in (
            (b"", "Choose the paper"),
            (b"{", "JSON"),
            ([1], "must be an object"),
            ({"format": "other"}, "no paper"),
            (good | {"format": "eyot-paper/2"}, "of a later Eyot"),
            (good | {"number": "x"}, "no number of a paper"),
            (good | {"weights": [{"on": "yesterday", "grams": 3}]}, "weights[0].on"),
            (good | {"genes": [good["genes"][0] | {"chance": "3/2"}]}, "genes[0].chance"),
            (good | {"genes": [good["genes"][0]] * 2}, "stands twice"),
            (
                good | {"photos": [{"kind": "back", "stage": "shed", "taken": "2026-01-01", "jpeg": "%"}]},
                "photos[0].jpeg",
            ),
        ):
            with self.subTest(words=words):
                self.assertContains(self.read(document), words, status_code=422)
        self.assertEqual(PaperIn.objects.count(), 0)

    def test_three_alleles_at_one_place_cannot_be(self) -> None:
        document = self.paper()
        entry = {"copies": 2, "known": "seen", "chance": "1", "ground": "x"}
        genes = [{"gene": "mojave", "name": "Mojave", **entry}, {"gene": "butter", "name": "Butter", **entry}]
        document = sealed(document | {"genes": genes})
        self.log_in_the_neighbour()
        answer = self.read(document)
        taken = self.client.post(f"{answer['Location']}take/", {"name": "Guest"})
        self.assertContains(taken, "more than two alleles", status_code=422)
        self.assertFalse(Animal.objects.filter(name="Guest").exists())


class Older(PapersCase):
    def test_a_call_that_changed_marks_the_paper(self) -> None:
        self.call(2)
        self.paper(2, "W-02")
        said = {"fire": ("sure", 1), "vanilla": ("sure", 1)}
        make_call(
            judged(self.clutch("W-02")), self.egg(2, "W-02"), self.keeper, said, "shed", "", uuid4(), timezone.now()
        )
        self.assertEqual([one.kind for one in self.row(2).outdated], ["paper"])
        with self.assertRaises(Refused):
            hand_out(self.row(3), self.keeper, timezone.now(), photos=False)
