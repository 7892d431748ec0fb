"""Animals: the list and its search, an animal's page, entering and changing, and files in and out."""

from __future__ import annotations

from datetime import date, timedelta
from io import BytesIO
from typing import Any

from django.http import HttpResponse
from django.utils import timezone

from eyot.animals.csv_files import exported, imported, previewed
from eyot.animals.queries import Asked, animal_of, listed, naming_of, stated_genes
from eyot.collection.actions import add_override
from eyot.collection.history import changes_of, take_back
from eyot.collection.models import Animal
from eyot.demo.scenario import OVERRIDES
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase
from tests.web.test_pages import FewerThan


class Lists(SeasonCase):
    def names(self, **asked: str) -> list[str]:
        return [animal.name for animal in listed(self.collection, Asked(**asked)).page]  # type: ignore[arg-type]

    def test_search_by_name_id_gene_sex_and_role(self) -> None:
        self.assertEqual(self.names(words="marr"), ["Marram"])
        marram = self.collection.animals.get(name="Marram")
        self.assertEqual(self.names(words=marram.code), ["Marram"])
        self.assertIn("Culm", self.names(words="coral glow"))
        self.assertEqual(self.names(words="mojave yb"), ["Marram"])
        self.assertEqual(self.names(words="banana", sex="female"), [])
        self.assertIn("Fescue", self.names(role="dam"))
        self.assertIn("Fathom", self.names(role="sire"))
        self.assertNotIn("Marram", self.names(role="sire"))
        self.assertEqual(self.names(role="young"), ["Bract", "Quillet"])
        self.assertEqual(self.names(words="nobody at all"), [])

    def test_archived_animals_are_listed_only_when_asked_for(self) -> None:
        self.collection.animals.filter(name="Alder").update(archived_on=date(2026, 1, 1))
        self.assertNotIn("Alder", self.names())
        self.assertEqual(self.names(role="archived"), ["Alder"])

    def test_long_lists_come_in_pages(self) -> None:
        for number in range(130):
            Animal.objects.create(collection=self.collection, name=f"Zz {number:03}")
        first, last = listed(self.collection, Asked()), listed(self.collection, Asked(page="99"))
        self.assertEqual((first.page.paginator.count, first.page.paginator.num_pages, len(first.page)), (190, 4, 60))
        self.assertEqual((last.page.number, last.page[-1].name), (4, "Zz 129"))

    def test_the_fragment_is_the_pages_own_part(self) -> None:
        whole = self.client.get("/animals/?q=fathom").content.decode()
        part = self.client.get("/animals/?q=fathom", headers={"HX-Request": "true"}).content.decode()
        self.assertIn(part.strip(), whole)
        self.assertNotIn("<html", part)

    def test_another_collections_animals_are_not_here(self) -> None:
        self.assertNotContains(self.client.get("/animals/?q=rudd"), "Rudd</a>")
        rudd = Animal.objects.get(name="Rudd")
        for path in ("", "edit/"):
            self.assertEqual(self.client.get(f"/animals/{rudd.pk}/{path}").status_code, 404)
        self.assertEqual(self.client.post(f"/animals/{rudd.pk}/archive/").status_code, 404)


class Page(SeasonCase):
    def test_the_page_has_genes_parents_pairings_weights(self) -> None:
        marram = self.collection.animals.get(name="Marram")
        page = self.client.get(f"/animals/{marram.pk}/")
        for words in ("Mojave (seen)", "66 % het Piebald (possible)", "Fescue", "Drake", "W-04", "1950 g"):
            self.assertContains(page, words)

    def test_a_hatchling_that_stayed_shows_where_it_hatched(self) -> None:
        quillet = self.collection.animals.get(name="Quillet")
        self.assertContains(self.client.get(f"/animals/{quillet.pk}/"), "V-09, egg 1")
        sedge = self.collection.animals.get(name="Sedge")
        self.assertContains(self.client.get(f"/animals/{sedge.pk}/"), "Quillet")

    def maker(self, name: str) -> str:
        animal = animal_of(self.collection, self.collection.animals.get(name=name).pk)
        return next(gene.maker for gene in stated_genes(animal, naming_of(self.collection)) if gene.gene == "banana")

    def test_a_maker_is_stated_worked_out_from_the_parents_or_open(self) -> None:
        self.assertEqual(self.maker("Culm"), "male maker, as stated")
        culm = self.collection.animals.get(name="Culm")
        culm.genes.filter(gene="banana").update(on_chromosome="")
        self.assertEqual(self.maker("Culm"), "male maker >99\u00a0%, female maker <1\u00a0%, by its parents")
        self.collection.animals.filter(name="Culm").update(sire=None)
        self.assertIn("open", self.maker("Culm"))

    def test_queries_do_not_grow_with_weights_and_clutches(self) -> None:
        number = self.collection.animals.get(name="Sallow").pk
        self.client.get(f"/animals/{number}/")
        with self.assertNumQueries(FewerThan(17)):
            self.client.get(f"/animals/{number}/")


class Entering(SeasonCase):
    def enter(self, **given: str) -> HttpResponse:
        return self.client.post("/animals/new/", given)  # type: ignore[return-value]

    def test_one_line_is_enough(self) -> None:
        self.enter(line="Sandbar: super pastel 66% het clown banana (male maker) male")
        made = self.collection.animals.get(name="Sandbar")
        self.assertEqual(made.sex, "male")
        found = {gene.gene: (gene.copies, gene.chance, gene.known, gene.on_chromosome) for gene in made.genes.all()}
        self.assertEqual(
            found,
            {
                "pastel": (2, "1", "seen", ""),
                "clown": (1, "2/3", "possible", ""),
                "banana": (1, "1", "seen", "Y"),
            },
        )
        change = changes_of(self.collection)[0]
        self.assertEqual((change.what, change.subject), ("Sandbar entered", f"animal:{made.pk}"))

    def test_one_or_two_copies_go_to_the_core_as_chances(self) -> None:
        self.enter(line="Sandbar: pastel poss super")
        gene = self.collection.animals.get(name="Sandbar").genes.get()
        self.assertEqual(gene.as_entry(), {"gene": "pastel", "copies": {"1": "1/2", "2": "1/2"}})

    def test_what_is_understood_is_shown_while_it_is_typed(self) -> None:
        page = self.client.get("/animals/line/?line=super+pastel+poss+yb+wibblefish")
        for words in (
            "Super pastel",
            "50% Yellow Belly",
            "Of Yellow Belly no figure was given",
            "“wibblefish” is not known here",
            'data-line="super pastel poss yb"',
            "as an own gene",
        ):
            self.assertContains(page, words)

    def test_what_can_mean_two_things_is_asked_and_each_choice_writes_the_line(self) -> None:
        page = self.client.get("/animals/line/?line=axanthic+66%25+het+pied")
        self.assertContains(page, "Which line of axanthic?")
        self.assertContains(page, 'data-line="some axanthic 66% het pied"')
        self.assertNotContains(page, "visual Axanthic line A <span")

    def test_what_is_not_understood_refuses_nothing_and_is_kept_in_the_note(self) -> None:
        self.enter(line="Sandbar: burn yellow belly, mojave or special")
        animal = self.collection.animals.get(name="Sandbar")
        self.assertEqual([gene.gene for gene in animal.genes.all()], ["yellow_belly"])
        self.assertIn("Not known here: “burn”", animal.note)
        self.assertIn("“mojave or special”: Which of them is it?", animal.note)

    def test_an_unknown_word_is_one_press_from_being_an_own_gene(self) -> None:
        page = self.client.post("/reference/opinions/by-name/", {"word": "burn", "line": "burn pastel"}, follow=True)
        self.assertContains(page, "Burn")
        self.assertNotContains(page, "is not known here")
        self.assertTrue(self.collection.overrides.get(value__id="burn").value["unproven"])
        again = self.client.post("/reference/opinions/by-name/", {"word": "pastel", "line": "pastel"})
        self.assertEqual(again.status_code, 422)

    def test_bad_input_is_refused_with_what_is_wrong_and_what_was_typed(self) -> None:
        for given, words in (
            ({"line": "Marram: pastel"}, "There is a Marram already"),
            ({"line": "pastel"}, "needs a name"),
            ({"line": "New: mojave lesser butter"}, "one locus"),
            ({"line": "New: pastel", "hatched_on": "31.2.2026"}, "not a day"),
            ({"line": "New: pastel", "hatched_on": "2100-01-01"}, "lies ahead"),
            ({"line": "New: pastel", "dam": "Fathom"}, "Fathom is male and can&#x27;t be the dam"),
            ({"line": "New: pastel", "sire": "Marram"}, "Marram is female and can&#x27;t be the sire"),
            ({"line": "New: pastel", "sire": "Nobody"}, "no animal “Nobody” here"),
            ({"line": "New: pastel", "sire": "Bream"}, "no animal “Bream” here"),
            ({"line": "New: pastel", "dam": "Marram", "hatched_on": "1999-05-05"}, "not before New"),
        ):
            with self.subTest(words):
                before = self.collection.animals.count()
                answer = self.enter(**given)
                self.assertContains(answer, words, status_code=422)
                self.assertContains(answer, given["line"], status_code=422)
                self.assertEqual(self.collection.animals.count(), before)

    def test_nobody_is_their_own_ancestor(self) -> None:
        fescue, marram = (self.collection.animals.get(name=name) for name in ("Fescue", "Marram"))
        self.collection.animals.filter(pk__in=[fescue.pk, marram.pk]).update(hatched_on=None)
        answer = self.client.post(
            f"/animals/{fescue.pk}/edit/", {"name": "Fescue", "sex": "female", "dam": "Marram", "line": "mojave"}
        )
        self.assertContains(answer, "nobody is their own ancestor", status_code=422)

    def test_a_parents_sex_is_not_turned_round(self) -> None:
        fathom = self.collection.animals.get(name="Fathom")
        answer = self.client.post(f"/animals/{fathom.pk}/edit/", {"name": "Fathom", "sex": "female", "line": "leopard"})
        self.assertContains(answer, "stands as a sire in the record", status_code=422)

    @staticmethod
    def stated(page: Any) -> dict[str, str]:
        """What the fields of an animal's form hold."""
        return {field.name: str(field.value() or "") for field in page.context["form"]}

    def test_the_form_comes_with_the_line_that_stands_and_keeping_it_changes_nothing(self) -> None:
        for name in ("Marram", "Culm", "Teasel", "Bittern"):
            animal = self.collection.animals.get(name=name)
            page = self.client.get(f"/animals/{animal.pk}/edit/")
            given = self.stated(page)
            self.client.post(f"/animals/{animal.pk}/edit/", given)
        self.assertEqual(changes_of(self.collection), [])

    def test_changing_the_line_changes_only_what_differs(self) -> None:
        marram = self.collection.animals.get(name="Marram")
        mojave = marram.genes.get(gene="mojave").pk
        given = self.stated(self.client.get(f"/animals/{marram.pk}/edit/"))
        self.client.post(f"/animals/{marram.pk}/edit/", given | {"line": "mojave, het pied (proven), enchi"})
        found = {gene.gene: gene.known for gene in marram.genes.all()}
        self.assertEqual(found, {"mojave": "seen", "piebald": "bred", "enchi": "seen"})
        self.assertEqual(marram.genes.get(gene="mojave").pk, mojave)

    def test_an_animal_with_offspring_is_archived_not_deleted(self) -> None:
        fescue = self.collection.animals.get(name="Fescue")
        answer = self.client.post(f"/animals/{fescue.pk}/delete/")
        self.assertContains(answer, "it is a parent of 1 animal", status_code=422)
        self.client.post(f"/animals/{fescue.pk}/archive/")
        fescue.refresh_from_db()
        self.assertEqual(fescue.archived_on, timezone.localdate())

    def test_weights_are_kept_and_bad_ones_refused(self) -> None:
        alder = self.collection.animals.get(name="Alder")
        self.client.post(f"/animals/{alder.pk}/weights/", {"grams": "1 410,5".replace(" ", "")})
        self.assertEqual(alder.weighings.last().grams, 1410.5)  # type: ignore[union-attr]
        for grams, words in (("-5", "above 0"), ("heavy", "not a number of grams"), ("50000", "at most 10,000")):
            answer = self.client.post(f"/animals/{alder.pk}/weights/", {"grams": grams})
            self.assertContains(answer, words, status_code=422)
        ahead = {"grams": "1400", "on": (timezone.localdate() + timedelta(days=3)).isoformat()}
        self.assertContains(self.client.post(f"/animals/{alder.pk}/weights/", ahead), "lies ahead", status_code=422)


class Files(SeasonCase):
    def preview(self, text: str, encoding: str = "utf-8") -> list[tuple[int, str, str]]:
        found = previewed(self.collection, text.encode(encoding), timezone.now())
        return [(trouble.row, trouble.column, trouble.words) for trouble in found.troubles]

    def test_what_goes_out_comes_in_as_the_same(self) -> None:
        text = exported(self.collection)
        genes = {
            a.name: sorted((g.gene, g.copies, g.chance, g.known, g.on_chromosome) for g in a.genes.all())
            for a in self.collection.animals.all()
        }
        other = self.neighbours.collection
        for override in OVERRIDES:
            add_override(other, self.stranger, dict(override))
        imported(other, self.stranger, text.encode(), timezone.now())
        for animal in other.animals.exclude(name__in=["Rudd", "Bream"]):
            found = sorted((g.gene, g.copies, g.chance, g.known, g.on_chromosome) for g in animal.genes.all())
            self.assertEqual(found, genes[animal.name], animal.name)
        self.assertEqual(other.animals.count(), len(genes) + 2)
        self.assertEqual(other.animals.get(name="Marram").sire.name, "Drake")  # type: ignore[union-attr]

    def test_a_file_is_taken_back_as_one(self) -> None:
        before = self.collection.animals.count()
        imported(self.collection, self.keeper, b"name,genes\nA,pastel\nB,enchi\n", timezone.now())
        self.assertEqual(self.collection.animals.count(), before + 2)
        take_back(changes_of(self.collection)[0], self.keeper, timezone.now())
        self.assertEqual(self.collection.animals.count(), before)

    def test_troubles_are_told_by_row_and_column(self) -> None:
        text = (
            "name,sex,hatched,genes,dam,sire\n"
            "Marram,female,,pastel,,\n"
            "New,purple,31.2.2026,pastle wibblefish,Fathom,Nobody\n"
            "New,male,2100-01-01,mojave lesser butter,,\n"
            ",male,,,,\n"
            "Wide,male,,,,,more\n"
        )
        found = self.preview(text)
        self.assertEqual(
            [(row, column) for row, column, _ in found],
            [
                (2, "name"),
                (3, "sex"),
                (3, "hatched"),
                (4, "name"),
                (4, "genes"),
                (4, "hatched"),
                (5, "name"),
                (6, "row"),
                (3, "dam"),
                (3, "sire"),
            ],
        )
        with self.assertRaisesMessage(Refused, "Nothing was entered"):
            imported(self.collection, self.keeper, text.encode(), timezone.now())
        self.assertFalse(self.collection.animals.filter(name="New").exists())

    def test_a_circle_of_parents_is_found(self) -> None:
        found = self.preview("name,dam\nA,B\nB,C\nC,A\n")
        self.assertEqual({row for row, _, words in found if "ancestor of itself" in words}, {2, 3, 4})

    def test_only_those_in_the_circle_are_named_not_who_stems_from_it_or_stands_above(self) -> None:
        found = self.preview(
            "name,dam,sire\nA,B,\nB,A,\nYoung,A,Old\nOld,,\nBetween,A,\nC,D,\nD,C,Between\nItself,Itself,\n"
        )
        self.assertEqual({row for row, _, words in found if "ancestor of itself" in words}, {2, 3, 7, 8, 9})

    def test_parents_may_stand_below_their_young(self) -> None:
        imported(self.collection, self.keeper, b"name,dam,sire\nYoung,Mother,Fathom\nMother,,\n", timezone.now())
        young = self.collection.animals.get(name="Young")
        self.assertEqual((young.dam.name, young.sire.name), ("Mother", "Fathom"))  # type: ignore[union-attr]

    def test_encodings_and_separators(self) -> None:
        text = "Name;Sex;Morph\nWießenmühle;1.0;pastel\n"
        for encoding, message in (
            ("utf-8", "UTF-8"),
            ("utf-8-sig", "UTF-8"),
            ("cp1252", "Windows Latin"),
            ("utf-16", "UTF-16"),
        ):
            with self.subTest(encoding):
                found = previewed(self.collection, text.encode(encoding), timezone.now())
                self.assertEqual(
                    (found.table.encoding, found.table.separator_name, found.troubles), (message, "semicolon", [])
                )
                self.assertEqual((found.rows[0].details.name, found.rows[0].details.sex), ("Wießenmühle", "male"))
                self.assertEqual(found.rows[0].statements[0].gene, "pastel")

    def test_formulas_are_written_safe_and_read_back(self) -> None:
        Animal.objects.create(collection=self.collection, name="=1+2", note="-3")
        line = next(row for row in exported(self.collection).splitlines() if "1+2" in row)
        self.assertTrue(line.startswith("'=1+2,"), line)
        self.assertTrue(line.endswith(",'-3"), line)
        found = previewed(self.neighbours.collection, f"name,note\n{line.split(',')[0]},'-3\n".encode(), timezone.now())
        self.assertEqual((found.rows[0].details.name, found.rows[0].details.note), ("=1+2", "-3"))

    def test_five_thousand_rows_are_one_file(self) -> None:
        rows = "".join(
            f"A{number},pastel het clown,{f'A{number - 1}' if number % 10 else ''}\n" for number in range(5000)
        )
        with self.assertNumQueries(FewerThan(400)):  # for 15,000 rows written
            done = imported(self.collection, self.keeper, f"name,genes,dam\n{rows}".encode(), timezone.now())
        self.assertEqual(done, 5000)
        self.assertEqual(self.collection.animals.get(name="A4999").dam.name, "A4998")  # type: ignore[union-attr]

    def test_many_generations_are_taken_back_and_come_again(self) -> None:
        before = self.collection.animals.count()
        rows = "".join(f"A{number},pastel,{f'A{number - 1}' if number % 5 else ''}\n" for number in range(200))
        imported(self.collection, self.keeper, f"name,genes,dam\n{rows}".encode(), timezone.now())
        back = take_back(changes_of(self.collection)[0], self.keeper, timezone.now())
        self.assertEqual(self.collection.animals.count(), before)
        take_back(back, self.keeper, timezone.now())
        self.assertEqual(self.collection.animals.get(name="A199").dam.name, "A198")  # type: ignore[union-attr]
        self.assertEqual(self.collection.animals.get(name="A199").genes.get().gene, "pastel")

    def test_changes_stand_by_when_they_were_made_also_those_that_came_later(self) -> None:
        """As from a phone that had no signal."""
        now = timezone.now()
        for name, at in (("Before", now - timedelta(hours=2)), ("Last", now), ("Between", now - timedelta(hours=1))):
            imported(self.collection, self.keeper, f"name\n{name}\n".encode(), at)
        self.assertEqual(
            [change.at for change in changes_of(self.collection, most=3)],
            [now - timedelta(hours=hours) for hours in (0, 1, 2)],
        )

    def test_what_others_rest_on_is_not_taken_back(self) -> None:
        imported(self.collection, self.keeper, b"name,genes\nMother,pastel\n", timezone.now())
        change = changes_of(self.collection)[0]
        imported(self.collection, self.keeper, b"name,dam\nYoung,Mother\n", timezone.now())
        with self.assertRaisesMessage(Refused, "others in the record rest on it"):
            take_back(change, self.keeper, timezone.now())
        self.assertEqual(self.collection.animals.get(name="Mother").genes.count(), 1)

    def test_what_is_no_table_of_animals_is_refused(self) -> None:
        for data, words in (
            (b"", "empty"),
            (b"morph,sex\npastel,m\n", "no column “name”"),
            (b"name\n" + b"x\n" * 20_001, "at most 20,000"),
        ):
            with self.subTest(words), self.assertRaisesMessage(Refused, words):
                previewed(self.collection, data, timezone.now())

    def test_the_page_shows_first_and_enters_on_confirmation(self) -> None:
        file = BytesIO(b"name,genes\nSandbar,pastel poss yb\n")
        file.name = "animals.csv"
        page = self.client.post("/animals/import/", {"file": file})
        self.assertContains(page, "50% Yellow Belly")
        self.assertContains(page, "Of Yellow Belly no figure was given")
        self.assertFalse(self.collection.animals.filter(name="Sandbar").exists())
        page = self.client.post("/animals/import/", {"text": page.context["text"], "confirmed": "yes"})
        self.assertContains(page, "1 animal entered")
        self.assertTrue(self.collection.animals.filter(name="Sandbar").exists())

    def test_export_is_a_download_of_this_collection_alone(self) -> None:
        answer = self.client.get("/animals/export/")
        self.assertIn("attachment", answer["Content-Disposition"])
        self.assertIn("Marram", answer.content.decode())
        self.assertNotIn("Rudd", answer.content.decode())
