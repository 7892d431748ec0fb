"""The reference: pages, search, own references, and a collection's own genes and opinions."""

from __future__ import annotations

import json
import re
from datetime import UTC, datetime
from html import unescape
from unittest import TestCase as PlainCase

from eyot_core.catalogue import builtin_catalogue
from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup, key_of

from eyot.bench.judgement import prepared
from eyot.bench.siblings import judged
from eyot.collection.actions import add_override, found_collection
from eyot.collection.catalogue import catalogue_of, lookup
from eyot.collection.models import Collection
from eyot.photos.models import Photo
from eyot.reference.comparisons import comparison_page, note_of
from eyot.reference.models import Pin
from eyot.reference.own import best_first, pin_photo
from tests.demo_rows import PASSWORD
from tests.web.season_data import SeasonCase


class Reading(PlainCase):
    names = Lookup(builtin_catalogue())

    def read(self, text: str) -> str:
        return key_of(understood(self.names, text).genes)

    def test_genes_as_breeders_write_them(self) -> None:
        for text, key in (
            ("pastel enchi", "pastel.enchi"),
            ("Super Pastel, het clown", "pastel.pastel.clown"),
            ("clown", "clown.clown"),
            ("coral glow YB", "banana.yellow_belly"),
            ("bumblebee", "pastel.spider"),
            ("killer bee + pied", "pastel.pastel.spider.piebald.piebald"),
            ("pastel x2", "pastel.pastel"),
            ("hypo (2) mojave", "hypo.hypo.mojave"),
            ("cinny", "cinnamon"),
            ("orange-dream", "orange_dream"),
            ("normal", "normal"),
        ):
            with self.subTest(text):
                self.assertEqual(self.read(text), key)

    def test_the_order_typed_is_the_order_of_the_ladder(self) -> None:
        self.assertEqual(self.read("enchi pastel"), "enchi.pastel")

    def test_spelling_that_is_nearly_right_is_taken_and_told(self) -> None:
        read = understood(self.names, "bumbelbee pintripe")
        self.assertEqual(key_of(read.genes), "pastel.spider.pinstripe")
        self.assertEqual([word for word, _ in read.guessed], ["bumbelbee", "pintripe"])

    def test_what_is_not_known_is_named_and_the_rest_stands(self) -> None:
        read = understood(self.names, "mojave wibblefish")
        self.assertEqual((key_of(read.genes), read.unknown[0][0]), ("mojave", "wibblefish"))

    def test_finding_knows_synonyms_and_trade_names(self) -> None:
        self.assertEqual(self.names.find("coral glow")[0].id, "banana")
        self.assertEqual(self.names.find("firefly")[0].id, "pastel.fire")
        self.assertIn("L03", [hit.id for hit in self.names.find("fire and vanila")])
        self.assertEqual(self.names.find("  "), [])


class Pages(SeasonCase):
    def test_every_gene_has_a_page(self) -> None:
        for gene in builtin_catalogue().genes:
            answer = self.client.get(f"/reference/genes/{gene}/")
            self.assertEqual(answer.status_code, 200, gene)

    def test_a_gene_page_says_what_the_field_knows(self) -> None:
        text = self.client.get("/reference/genes/spider/").content.decode().lower()
        for words in ("neurological fault", "spider and woma", "bumblebee", "dominant", "established"):
            self.assertIn(words, text)

    def test_a_combination_shows_its_plate_its_ladder_and_why(self) -> None:
        text = self.client.get("/reference/combinations/mojave.leopard/").content.decode()
        plate = self.client.get("/drawings/plate/mojave.leopard.svg")
        self.assertIn('id="p-head-above"', plate.content.decode())
        self.assertIn("Long linked lobes all free of the belly", text)
        self.assertLess(text.index("Normal</p>"), text.index(">Mojave</a>"))
        self.assertIn("+ Leopard: lobe shape joined", text)
        siblings = {self.client.get(f"/drawings/sibling/{n}/mojave.leopard.svg").content for n in (1, 2, 3)}
        self.assertEqual(len(siblings), 3)
        self.assertEqual(self.client.get("/drawings/sibling/99/mojave.svg").status_code, 404)

    def test_what_is_rendered_once_leads_into_the_readers_own_collection(self) -> None:
        paths = (
            "/reference/genes/mojave/",
            "/reference/combinations/mojave.leopard/",
            "/reference/look-alikes/fire~vanilla/",
        )
        self.log_in_the_neighbour()
        theirs = [self.client.get(path).content.decode() for path in paths]
        _, owner = found_collection("sedge", PASSWORD, "Sedge End")
        self.client.force_login(owner)
        self.client.prefix = "/in/sedge-end"
        for path, before in zip(paths, theirs, strict=True):
            now = self.client.get(path).content.decode()
            self.assertGreater(now.count("/in/sedge-end/reference/"), 2, path)
            self.assertEqual(
                now.replace("/in/sedge-end/", "/in/far-bank/").count("/in/far-bank/"), before.count("/in/far-bank/")
            )
            self.assertNotIn("/in/far-bank", now, path)

    def test_a_pair_that_must_not_be_is_cautioned(self) -> None:
        text = self.client.get("/reference/combinations/champagne.spider/").content.decode()
        self.assertIn("Champagne with spider: reported lethal", text)

    def test_what_no_animal_can_have_is_not_found(self) -> None:
        for key in ("mojave.lesser.butter", "mojave.mojave.mojave", "nothing", "spider..pastel"):
            self.assertEqual(self.client.get(f"/reference/combinations/{key}/").status_code, 404, key)
            self.assertEqual(self.client.get(f"/drawings/strip/{key}.svg").status_code, 404, key)

    def test_a_strip_is_a_picture_that_is_kept(self) -> None:
        answer = self.client.get("/drawings/strip/mojave.svg?stage=blue")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/svg+xml"))
        again = self.client.get("/drawings/strip/mojave.svg?stage=blue", headers={"If-None-Match": answer["ETag"]})
        self.assertEqual((again.status_code, again.content), (304, b""))
        self.assertNotEqual(answer.content, self.client.get("/drawings/strip/mojave.svg").content)

    def test_what_a_page_draws_is_asked_for_once_until_the_catalogue_changes(self) -> None:
        def shown() -> str:
            page = self.client.get("/reference/combinations/special/").content.decode()
            return unescape(re.findall(r'src="/in/withy-bed(/drawings/plate/special.svg[^"]*)"', page)[0])

        first = shown()
        self.assertEqual(self.client.get(first)["Cache-Control"], "private, max-age=31536000, immutable")
        self.assertEqual(shown(), first)
        for other in ("/drawings/plate/special.svg", first[:-1] + "-"):
            self.assertEqual(self.client.get(other)["Cache-Control"], "private, no-cache", other)
        weight = {"kind": "weight", "gene": "special", "copies": 1, "trait": "contrast", "level": "high", "push": 1.5}
        add_override(self.collection, self.keeper, weight)
        then = shown()
        self.assertNotEqual(then, first)
        self.assertEqual(self.client.get(then)["Cache-Control"], "private, max-age=31536000, immutable")
        self.assertEqual(self.client.get(first)["Cache-Control"], "private, no-cache", "a page of before stands open")

    def test_look_alikes_carry_the_keepers_notes_where_there_are_some(self) -> None:
        answer = self.client.get("/reference/notes/L03/", follow=True)
        text = answer.content.decode()
        self.assertIn("Fire and vanilla", text)
        self.assertIn("every baby is one or the other", text)
        self.assertIn("Blush on the crown", text)
        unnoted = self.client.get("/reference/look-alikes/enchi~mojave.pastel/").content.decode()
        self.assertNotIn("Keepers’ notes", unnoted)

    def test_every_note_leads_to_a_page(self) -> None:
        for note in builtin_catalogue().document["lookalikes"]:
            self.assertEqual(
                self.client.get(f"/reference/notes/{note['id']}/", follow=True).status_code, 200, note["id"]
            )

    def test_a_note_is_found_in_any_order(self) -> None:
        for keys in (("fire", "vanilla"), ("vanilla", "fire")):
            self.assertEqual(note_of(builtin_catalogue(), keys)["id"], "L03")  # type: ignore[index]

    def test_what_settles_a_double_is_breeding(self) -> None:
        page = comparison_page(builtin_catalogue(), ("pastel", "pastel.pastel"), "shed")
        self.assertIn("One baby without it ends the claim", " ".join(page.settling))

    def test_typed_genes_lead_to_their_page_and_doubtful_ones_to_the_search(self) -> None:
        self.assertRedirects(
            self.client.get("/reference/typed/?q=pastel+enchi"), "/reference/combinations/pastel.enchi/"
        )
        doubtful = self.client.get("/reference/typed/?q=pastl", follow=True).content.decode()
        self.assertIn("“pastl” was taken for pastel", doubtful)
        impossible = self.client.get("/reference/?q=mojave+lesser+butter").content.decode()
        self.assertIn("No animal can be so", impossible)

    def test_two_lines_typed_are_compared(self) -> None:
        answer = self.client.get("/reference/compare/?with=fire&with=vanilla")
        self.assertRedirects(answer, "/reference/look-alikes/fire~vanilla/")

    def test_pages_ask_little_of_the_database(self) -> None:
        for path in ("/reference/", "/reference/genes/mojave/", "/reference/combinations/pastel.enchi/"):
            self.client.get(path)
            with self.subTest(path), self.assertNumQueries(5 if path != "/reference/" else 4):
                self.client.get(path)


class OwnReferences(SeasonCase):
    def photo(self, number: int = 1, stage: str = "shed", light: str = "") -> Photo:
        when = datetime(2026, 6, number, tzinfo=UTC)
        return Photo.objects.create(
            egg=self.egg(number), stage=stage, taken_at=when, light=light, width=9, height=9, added_by_id=self.keeper.pk
        )

    def pin(self, photo: Photo, **sent: str) -> int:
        return self.client.post(
            f"/reference/pin/{photo.pk}/", {"genes": "pastel enchi", "confirmed": "seen", **sent}
        ).status_code

    def test_a_pinned_photo_stands_beside_its_combination_and_its_genes(self) -> None:
        self.assertEqual(self.pin(self.photo(), confirmed="bred"), 302)
        for path in ("combinations/enchi.pastel", "combinations/pastel.enchi", "genes/enchi"):
            self.assertIn("confirmed by its offspring", self.client.get(f"/reference/{path}/").content.decode(), path)
        self.assertNotIn("confirmed by", self.client.get("/reference/combinations/enchi/").content.decode())

    def test_the_surest_then_those_in_known_light_then_the_newest(self) -> None:
        seen, tested, lit, new = self.photo(1), self.photo(2), self.photo(3, light="grey card"), self.photo(4)
        pins = [
            pin_photo(self.collection, self.keeper, photo, "pastel", confirmed)
            for photo, confirmed in ((seen, "seen"), (tested, "tested"), (lit, "seen"), (new, "seen"))
        ]
        self.assertEqual([pin.photo for pin in best_first(pins)], [tested, lit, new, seen])

    def test_what_cannot_be_pinned_says_why_and_pins_nothing(self) -> None:
        photo = self.photo()
        for sent, words in (({"genes": "wibble"}, "names no gene"), ({"confirmed": "dreamt"}, "how it is confirmed")):
            answer = self.client.post(f"/reference/pin/{photo.pk}/", {"genes": "pastel", "confirmed": "seen", **sent})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.content.decode())
        self.assertEqual(Pin.objects.count(), 0)

    def test_a_pin_can_be_taken_off_and_the_photo_stays(self) -> None:
        photo = self.photo()
        self.pin(photo)
        self.client.post(f"/reference/pins/{Pin.objects.get().pk}/take-off/")
        self.assertEqual((Pin.objects.count(), Photo.objects.count()), (0, 1))

    def test_another_collections_photos_and_pins_are_not_there(self) -> None:
        photo = self.photo()
        self.pin(photo)
        pin = Pin.objects.get()
        self.log_in_the_neighbour()
        self.assertEqual(self.client.get(f"/reference/pin/{photo.pk}/").status_code, 404)
        self.assertEqual(self.client.post(f"/reference/pins/{pin.pk}/take-off/").status_code, 404)
        self.assertNotIn("confirmed by", self.client.get("/reference/combinations/pastel.enchi/").content.decode())


class OwnGenesAndOpinions(SeasonCase):
    def fresh(self) -> Collection:
        return Collection.objects.get(pk=self.collection.pk)

    def hold(self, **sent: str) -> str:
        answer = self.client.post("/reference/opinions/hold/", sent, follow=True)
        return answer.content.decode()

    def test_the_demo_has_an_own_gene_and_a_renamed_line(self) -> None:
        self.assertIn("tidemark", catalogue_of(self.fresh()).genes)
        self.assertIn("Axanthic, Sluice line", self.client.get("/animals/").content.decode())
        self.assertIn("not in the built-in catalogue", self.client.get("/reference/genes/tidemark/").content.decode())

    def test_search_understands_one_against_another_and_looks(self) -> None:
        for asked, keys in (("fire or vanilla", "fire~vanilla"), ("black pastel vs cinnamon", "black_pastel~cinnamon")):
            self.assertContains(self.client.get("/reference/", {"q": asked}), f"/reference/look-alikes/{keys}/")
        for asked, gene in (("green eyes", "pastel"), ("flames", "yellow_belly"), ("ringer", "champagne")):
            page = self.client.get("/reference/", {"q": asked})
            self.assertContains(page, "look-found")
            self.assertContains(page, f'/reference/genes/{gene}/">')
        page = self.client.get("/reference/", {"q": "green eyes"})
        self.assertContains(page, "What colour is the iris in good light?")
        self.assertNotContains(page, "is not known")
        self.assertNotContains(page, "queen bee")
        self.assertContains(self.client.get("/reference/", {"q": "flaems"}), "is not known")

    def test_an_own_gene_has_synonyms_welfare_many_looks_and_a_trade_name(self) -> None:
        looks = {f"look_{row}": "Contrast: low" if row == 1 else "Flames: strong" for row in (1, 9)}
        looks |= {"push_1": "1", "push_9": "2"}
        self.hold(
            kind="gene", name="Silt", inheritance="unknown", synonyms="mud, sludge", welfare="weak young.", **looks
        )
        names = lookup(catalogue_of(self.fresh()))
        self.assertEqual(understood(names, "sludge").genes, (("silt", 1),))
        entry = next(row for row in names.catalogue.document["genes"] if row["id"] == "silt")
        self.assertEqual((entry["unproven"], entry["welfare"]), (True, "weak young"))
        self.hold(kind="synonym", gene="pastel", name="gold dust")
        self.hold(kind="trade_name", name="marsh gold", genes="pastel, silt")
        names = lookup(catalogue_of(self.fresh()))
        self.assertEqual(understood(names, "gold dust").genes, (("pastel", 1),))
        self.assertEqual(dict(understood(names, "marsh gold").genes), {"pastel": 1, "silt": 1})

    def test_an_own_gene_is_added_from_the_form(self) -> None:
        text = self.hold(
            kind="gene", name="Silt", inheritance="dominant", look_1="Contrast: low", copies_1="1", push_1="2"
        )
        self.assertIn("Own gene Silt: dominant, 1 look", text)
        catalogue = catalogue_of(self.fresh())
        self.assertEqual([effect.shift for effect in catalogue.effects if effect.own_gene == "silt"], [-4.0])
        self.assertNotIn("silt", builtin_catalogue().genes)

    def test_what_is_wrong_is_told_and_what_was_typed_stands(self) -> None:
        for sent, words in (
            ({"kind": "gene", "name": ""}, "needs a name"),
            ({"kind": "gene", "name": "Mojave", "inheritance": "dominant"}, "already"),
            ({"kind": "gene", "name": "Silt", "inheritance": "dominant", "look_2": "shiny"}, "Look 2"),
            ({"kind": "name", "gene": "nowhere", "name": "x"}, "must be one of"),
            ({"kind": "weight", "gene": "pastel", "look": "Contrast: low", "push": "much"}, "is a number"),
            ({"kind": "wish"}, "Say what to add"),
        ):
            with self.subTest(words):
                self.assertIn(words, self.hold(**sent))
        self.assertEqual(self.collection.overrides.count(), 2)

    def test_a_switched_point_changes_the_odds_on_the_bench(self) -> None:
        before = prepared(self.clutch("W-02")).model.catalogue
        add_override(self.collection, self.keeper, {"kind": "switch", "dispute": "D03"})
        after = prepared(self.clutch("W-02")).model.catalogue
        self.assertEqual((before.genes["enchi"].locus, after.genes["enchi"].locus), ("enc", "blk"))
        self.assertEqual(judged(self.clutch("W-02")).naming.catalogue, after)

    def test_a_gene_page_says_in_what_it_is_seen_otherwise(self) -> None:
        self.assertIn("Built in as Axanthic line A", self.client.get("/reference/genes/axanthic_a/").content.decode())
        weight = {"kind": "weight", "gene": "special", "copies": 1, "trait": "contrast", "level": "high", "push": 1.5}
        add_override(self.collection, self.keeper, weight)
        self.assertIn("Own weight: contrast high +1.5", self.client.get("/reference/genes/special/").content.decode())
        self.assertNotIn("Seen otherwise", self.client.get("/reference/genes/mojave/").content.decode())

    def test_an_opinion_taken_back_is_kept_in_the_record(self) -> None:
        override = self.collection.overrides.get(value__kind="name")
        self.client.post(f"/reference/opinions/{override.pk}/withdraw/")
        override.refresh_from_db()
        self.assertIsNotNone(override.withdrawn_at)
        self.assertIn("Axanthic line A", self.client.get("/animals/").content.decode())

    def test_one_that_no_longer_fits_is_kept_and_told(self) -> None:
        self.collection.overrides.create(value={"kind": "name", "gene": "gone", "name": "Gone"}, held_by=self.keeper)
        text = self.client.get("/reference/opinions/").content.decode()
        self.assertIn("Does not fit the catalogue now", text)
        self.assertIn("Own gene Tidemark", text)

    def test_the_layer_is_exported_in_the_open_format(self) -> None:
        answer = self.client.get("/reference/opinions.json")
        layer = json.loads(answer.content)
        self.assertEqual((layer["format"], layer["opinions"][0]["id"]), ("eyot-overlay/1", "tidemark"))

    def test_a_drawing_follows_an_opinion_at_once(self) -> None:
        before = self.client.get("/drawings/strip/special.svg")
        for trait, level in (("lobe_tone", "orange"), ("dark_pigment", "faded")):
            weight = {"kind": "weight", "gene": "special", "copies": 1, "trait": trait, "level": level, "push": 3}
            add_override(self.fresh(), self.keeper, weight)
        after = self.client.get("/drawings/strip/special.svg", headers={"If-None-Match": before["ETag"]})
        self.assertEqual(after.status_code, 200)
        self.assertNotEqual(after.content, before.content)

    def test_what_was_refused_stands_in_the_form(self) -> None:
        text = self.hold(
            kind="gene",
            name="Silt",
            inheritance="dominant",
            locus="yb",
            look_1="shiny",
            copies_1="2",
            push_1="3",
            note="seen twice",
        )
        for kept in (
            'value="Silt"',
            'value="dominant" selected',
            'value="yb" selected',
            'value="shiny"',
            'value="2" selected',
            'value="seen twice"',
        ):
            self.assertIn(kept, text)
        self.assertIn(
            'value="Contrast: low"', self.hold(kind="weight", gene="pastel", look="Contrast: low", push="much")
        )

    def test_another_collection_sees_the_built_in_catalogue(self) -> None:
        override = self.collection.overrides.first()
        self.log_in_the_neighbour()
        self.assertEqual(self.client.get("/reference/genes/tidemark/").status_code, 404)
        self.assertEqual(self.client.post(f"/reference/opinions/{override.pk}/withdraw/").status_code, 404)  # type: ignore[union-attr]
