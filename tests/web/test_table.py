"""Animals of any origin: their photos, the table with its claims, and one that turns out to be a hatchling."""

from __future__ import annotations

from datetime import date, timedelta
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from eyot.animals.individuals import individual_of, merge, seen_as, stage_of
from eyot.animals.queries import Asked, hatchling_named, listed, photos_of
from eyot.bench.actions import Answer, OnGene, make_call, prove, record_look
from eyot.bench.claim_actions import make_claim
from eyot.bench.claims import claim_view, latest_claim, photos_to_ask, read_claim
from eyot.bench.judgement import ClutchJudgement
from eyot.bench.models import Call, Look
from eyot.bench.siblings import judged_one
from eyot.bench.table_judgement import TableJudgement
from eyot.collection.history import changes_of, take_back
from eyot.collection.models import Animal
from eyot.photos.models import Photo
from eyot.season.models import Clutch, Egg
from eyot.season.queries import clutch_of, clutch_of_any, egg_of, open_calls_by_clutch
from eyot.shared.refusal import Refused
from tests.web.test_photos import encoded
from tests.web.test_strips import StripCase

NOW = timezone.now()


class TableCase(StripCase):
    """Wherry is the demo's animal on the table; Alder has never been photographed."""

    def setUp(self) -> None:
        super().setUp()
        self.wherry = self.collection.animals.get(name="Wherry")
        self.alder = self.collection.animals.get(name="Alder")

    def egg(self, animal: Animal) -> Egg:
        egg = individual_of(animal)
        return egg_of(clutch_of_any(self.collection, egg.clutch.code), 1)

    def judged(self, animal: Animal) -> TableJudgement:
        judgement = judged_one(clutch_of_any(self.collection, self.egg(animal).clutch.code))
        assert isinstance(judgement, TableJudgement)
        return judgement

    def look(self, animal: Animal, trait: str, level: str) -> Look:
        return record_look(self.egg(animal), self.keeper, Answer(trait, level, "adult", "sure", uuid4()), NOW)


class Individuals(TableCase):
    def test_an_animal_is_the_same_individual_each_time_and_stands_in_no_list_of_clutches(self) -> None:
        before = self.collection.clutches.count(), open_calls_by_clutch(self.collection)
        one, again = individual_of(self.alder), individual_of(self.alder)
        self.assertEqual(one.pk, again.pk)
        self.assertEqual((str(one), one.words, one.stage), ("Alder", "Alder", "months"))
        self.assertEqual((self.collection.clutches.count(), open_calls_by_clutch(self.collection)), before)
        self.assertEqual(Clutch.everything.get(pk=one.clutch_id).elsewhere, True)
        self.assertNotContains(self.client.get("/"), one.clutch.code)
        self.assertEqual(self.client.get(f"/clutches/{one.clutch.code}/").status_code, 404)

    def test_one_that_hatched_here_keeps_its_egg(self) -> None:
        quillet = self.collection.animals.get(name="Quillet")
        self.assertEqual(individual_of(quillet), egg_of(clutch_of(self.collection, "V-09"), 1))

    def test_an_animal_of_months_is_no_adult(self) -> None:
        today = date(2026, 6, 1)
        self.assertEqual(stage_of(Animal(hatched_on=today - timedelta(days=200)), today), "months")
        self.assertEqual(stage_of(Animal(hatched_on=today - timedelta(days=900)), today), "adult")
        self.assertEqual(stage_of(Animal(), today), "adult")

    def test_photos_of_an_animal_of_any_age_even_of_one_that_was_sold(self) -> None:
        Animal.objects.filter(pk=self.alder.pk).update(archived_on=date(2026, 1, 1))
        good = SimpleUploadedFile("a.jpg", encoded(), "image/jpeg")
        bad = SimpleUploadedFile("b.jpg", b"no picture", "image/jpeg")
        sent = {"photos": [good, bad], "stage": "months", "kind": "belly", "on": "2026-02-03"}
        answer = self.client.post(f"/animals/{self.alder.pk}/photos/", sent, follow=True)
        self.assertContains(answer, "b.jpg")
        self.assertContains(answer, "The other pictures were added.")
        (photo,) = Photo.objects.filter(egg__kept_as=self.alder)
        self.assertEqual((photo.stage, photo.kind), ("months", "belly"))
        self.assertEqual(timezone.localdate(photo.taken_at), date(2026, 2, 3))
        Photo.objects.filter(pk=photo.pk).update(sizes_done=1)
        self.assertEqual(photos_of(Animal.objects.get(pk=self.alder.pk)), [photo])
        self.assertContains(self.client.get(f"/animals/{self.alder.pk}/"), f"/photos/{photo.pk}/thumb-1.jpg")

    def test_what_is_no_photo_of_it_is_told_and_changes_nothing(self) -> None:
        path = f"/animals/{self.alder.pk}/photos/"
        self.assertContains(self.client.post(path, {}), "No picture came through", status_code=422)
        file = SimpleUploadedFile("a.jpg", encoded(), "image/jpeg")
        ahead = (timezone.localdate() + timedelta(days=3)).isoformat()
        sent = {"photos": [file], "stage": "adult", "kind": "back", "on": ahead}
        self.assertContains(self.client.post(path, sent), "lies ahead", status_code=422)
        file.seek(0)
        self.assertContains(
            self.client.post(path, sent | {"on": "", "kind": "song"}), "not understood", status_code=422
        )
        self.assertIsNone(seen_as(Animal.objects.get(pk=self.alder.pk)))

    def test_the_list_shows_its_picture_or_what_its_genes_mostly_show(self) -> None:
        egg = individual_of(self.alder)
        photo = self.photo(drawn=True)
        Photo.objects.filter(pk=photo.pk).update(egg=egg)
        page = self.client.get("/animals/?q=Alder")
        self.assertContains(page, f"/photos/{photo.pk}/{photo.strip}.png")
        self.assertContains(self.client.get("/animals/?q=Marram"), "/drawings/strip/mojave.yellow_belly.svg")
        self.assertIn("Alder", [one.name for one in listed(self.collection, Asked(role="table")).page])

    def test_a_parents_photos_stand_on_the_clutchs_page(self) -> None:
        egg = individual_of(self.collection.animals.get(name="Sallow"))
        photo = self.photo()
        Photo.objects.filter(pk=photo.pk).update(egg=egg, stage="adult")
        page = self.client.get("/clutches/W-02/")
        self.assertContains(page, f"/photos/{photo.pk}/{photo.thumb}.jpg")
        self.assertNotContains(self.client.get("/clutches/W-04/"), str(photo.pk))

    def test_an_animal_with_photos_is_archived_not_deleted_and_one_without_goes_whole(self) -> None:
        egg = individual_of(self.alder)
        Photo.objects.filter(pk=self.photo().pk).update(egg=egg)
        path = f"/animals/{self.alder.pk}/delete/"
        self.assertContains(self.client.post(path), "it has photos or looks", status_code=422)
        Photo.everything.filter(egg=egg).delete()
        self.assertEqual(self.client.post(path).status_code, 302)
        self.assertFalse(Clutch.everything.filter(pk=egg.clutch_id).exists())
        take_back(changes_of(self.collection)[0], self.keeper, NOW)
        self.assertEqual(Egg.objects.get(pk=egg.pk).kept_as_id, self.alder.pk)


class Claims(TableCase):
    def test_the_demos_claim_is_doubtful_for_a_reason(self) -> None:
        judgement = self.judged(self.wherry)
        claim = latest_claim(judgement.eggs[0])
        assert claim is not None
        view = claim_view(judgement, claim, read_claim(self.collection, claim.line))
        rows = {row.gene: row for row in view.rows}
        self.assertEqual([row.name for row in view.rows], ["Pastel", "Enchi", "possible Fire", "het Clown"])
        self.assertEqual((rows["pastel"].kind, rows["enchi"].kind, rows["clown"].kind), ("borne", "doubtful", "unseen"))
        self.assertTrue(view.summary.startswith("The claim is doubtful: Enchi"))
        self.assertIn("because bands over the back: normal", view.summary)
        self.assertTrue(any("DNA test" in words for words in rows["clown"].settles))

    def test_the_page_says_so_and_what_to_ask_the_seller_for(self) -> None:
        page = self.client.get(f"/clutches/{self.egg(self.wherry).clutch.code}/1/")
        self.assertContains(page, "The claim is doubtful")
        self.assertContains(page, "Ask the seller for")
        self.assertContains(page, "before looks")
        self.assertNotContains(page, "Siblings")
        asked = photos_to_ask(self.judged(self.wherry).next_looks(self.egg(self.wherry), "adult"))
        self.assertEqual(len({one.what for one in asked}), len(asked))
        self.assertTrue(all(one.looks for one in asked))

    def test_a_look_moves_a_claim_and_is_taken_back(self) -> None:
        make_claim(self.egg(self.alder), self.keeper, "pastel", "50", NOW)
        (before,) = self.judged(self.alder).standings()
        look = self.look(self.alder, "eye_color", "green")
        (after,) = self.judged(self.alder).standings()
        self.assertGreater(after.factor, 2)
        self.assertGreater(after.after, before.after)
        self.client.post(f"/clutches/{self.egg(self.alder).clutch.code}/1/looks/{look.pk}/withdraw/")
        (again,) = self.judged(self.alder).standings()
        self.assertAlmostEqual(again.after, before.after)

    def test_what_no_animal_can_be_and_what_nobody_understands_is_refused_with_the_words_kept(self) -> None:
        path = f"/clutches/{self.egg(self.alder).clutch.code}/1/claim/"
        for line, wrong in (
            ("mojave lesser butter phantom", "Nothing was changed"),
            ("quite pretty", "No gene was understood"),
        ):
            answer = self.client.post(path, {"line": line, "trust": "80"})
            self.assertContains(answer, wrong, status_code=422)
            self.assertContains(answer, line, status_code=422)
        self.assertContains(self.client.post(path, {"line": "pastel", "trust": "100"}), "trusted", status_code=422)
        self.assertIsNone(latest_claim(self.egg(self.alder)))

    def test_unknown_words_count_for_nothing_and_are_told(self) -> None:
        self.client.post(
            f"/clutches/{self.egg(self.alder).clutch.code}/1/claim/", {"line": "pastel zorblat", "trust": "80"}
        )
        page = self.client.get(f"/clutches/{self.egg(self.alder).clutch.code}/1/")
        self.assertContains(page, "Not known here, and counted for nothing: “zorblat”.")
        self.assertEqual([row.claim.gene for row in self.judged(self.alder).standings()], ["pastel"])

    def test_an_empty_line_takes_the_claim_off(self) -> None:
        make_claim(self.egg(self.alder), self.keeper, "pastel", "80", NOW)
        make_claim(self.egg(self.alder), self.keeper, "", "80", NOW)
        self.assertIsNone(latest_claim(self.egg(self.alder)))
        self.assertEqual(self.judged(self.alder).standings(), [])

    def test_a_hatchling_of_the_record_has_no_claim(self) -> None:
        with self.assertRaisesMessage(Refused, "parents are entered"):
            make_claim(egg_of(clutch_of(self.collection, "W-02"), 1), self.keeper, "pastel", "80", NOW)


class OnTheTable(TableCase):
    def test_a_known_parent_moves_what_may_come_and_both_make_a_pairing_of_it(self) -> None:
        plain = self.judged(self.alder)._before("mojave", 1)
        marram, fathom = (self.collection.animals.get(name=name) for name in ("Marram", "Fathom"))
        Animal.objects.filter(pk=self.alder.pk).update(dam=marram)
        self.alder.refresh_from_db()
        one = self.judged(self.alder)
        self.assertGreater(one._before("mojave", 1), 0.5)
        self.assertLess(plain, 0.2)
        Animal.objects.filter(pk=self.alder.pk).update(sire=fathom)
        both = judged_one(clutch_of_any(self.collection, self.egg(self.alder).clutch.code))
        assert isinstance(both, ClutchJudgement)
        self.assertEqual(set(both.given_genes), {"mojave", "yellow_belly", "leopard", "black_pastel", "piebald"})
        page = self.client.get(f"/clutches/{self.egg(self.alder).clutch.code}/1/")
        self.assertContains(page, "Marram × Fathom")

    def test_parents_are_typed_by_name_or_by_a_name_and_genes(self) -> None:
        path = f"/animals/{self.alder.pk}/parents/"
        self.assertEqual(self.client.post(path, {"dam": "Marram", "sire": "Rudd: pastel het clown"}).status_code, 302)
        alder = Animal.objects.get(pk=self.alder.pk)
        assert alder.sire is not None
        self.assertEqual((str(alder.dam), alder.sire.name, alder.sire.elsewhere), ("Marram", "Rudd", True))
        self.assertEqual({row.gene for row in alder.sire.genes.all()}, {"pastel", "clown"})
        self.assertNotIn("Rudd", [one.name for one in listed(self.collection, Asked()).page])
        for sent, wrong in (
            ({"dam": "Nobody"}, "There is no animal “Nobody” here."),
            ({"dam": "Fathom"}, "can&#x27;t be the dam"),
            ({"sire": "Roach: mojave lesser butter"}, "room for two"),
            ({"sire": "Alder"}, "own parent" if alder.sex != "female" else "can&#x27;t be the sire"),
        ):
            self.assertContains(self.client.post(path, sent), wrong, status_code=422)
        quillet = self.collection.animals.get(name="Quillet")
        hatched = self.client.post(f"/animals/{quillet.pk}/parents/", {"dam": "Marram"})
        self.assertContains(hatched, "hatched here", status_code=422)

    def test_a_photo_of_any_animal_is_pinned_as_a_reference(self) -> None:
        photo = self.photo()
        Photo.objects.filter(pk=photo.pk).update(egg=individual_of(self.alder), stage="adult")
        photo.refresh_from_db()
        self.client.post(f"/reference/pin/{photo.pk}/", {"genes": "pastel", "confirmed": "tested"})
        self.assertContains(self.client.get("/reference/combinations/pastel/"), "<b>Alder</b>, adult")

    def test_a_look_a_call_a_proof_and_a_guess_as_on_the_bench(self) -> None:
        path = f"/clutches/{self.egg(self.alder).clutch.code}/1"
        sent = {"trait": "eye_color", "level": "green", "stage": "adult", "confidence": "sure", "key": str(uuid4())}
        self.assertEqual(self.client.post(f"{path}/looks/", sent).status_code, 302)
        judgement = self.judged(self.alder)
        verdicts = {"pastel": OnGene("likely", 1), "fire": OnGene("possible", 1), "clown": OnGene("not", 2)}
        call = make_call(judgement, judgement.eggs[0], self.keeper, verdicts, "adult", "by eye", uuid4(), NOW)
        self.assertEqual(call.label, "likely Pastel")
        after, before = judgement.shown_chances(judgement.eggs[0], "pastel", 1)
        kept = call.genes.get(gene="pastel")
        self.assertEqual((kept.chance, kept.from_parents), (after, before))
        self.assertGreater(after, before)
        prove(judgement.eggs[0], self.keeper, {"pastel": 1}, "tested", timezone.localdate(), NOW)
        for part in ("", "/why/pastel/", "/proof/", "/eyes/", "/more-looks/"):
            with self.subTest(part):
                self.assertEqual(self.client.get(f"{path}{part or '/'}").status_code, 200)
        self.assertContains(self.client.get(f"{path}/"), "Called: likely Pastel")
        for page in ("/scores/", "/scores/tuning/", "/hets/", "/", "/relook/", "/clutches/W-02/line-up/"):
            self.assertEqual(self.client.get(page).status_code, 200, page)
        self.assertContains(self.client.get(f"/animals/{self.alder.pk}/"), "Alder: proven by a test")

    def test_its_changes_stand_on_its_own_page_and_it_lies_in_a_line_up_under_its_name(self) -> None:
        photo = self.photo(drawn=True)
        Photo.objects.filter(pk=photo.pk).update(egg=individual_of(self.alder))
        code = self.egg(self.alder).clutch.code
        page = self.client.get(f"/clutches/W-02/line-up/?with={code}.1")
        self.assertContains(page, 'aria-label="Strip of Alder"')
        self.assertNotContains(page, f">{code}")
        self.client.post(f"/photos/{photo.pk}/away/")
        self.assertContains(
            self.client.get(f"/animals/{self.alder.pk}/"), "Alder: a photo after the first shed taken away"
        )

    def test_why_weighs_each_look_beside_the_leading_combination_and_asks_what_if(self) -> None:
        code = self.egg(self.wherry).clutch.code
        page = self.client.get(f"/clutches/{code}/1/why/enchi/")
        self.assertContains(page, "Bands over the back")
        self.assertContains(page, "beside the leading combination")
        other = self.client.get(f"/clutches/{code}/1/why/enchi/", {"banding.adult": "strong"})
        self.assertContains(other, "if it were so")
        self.assertEqual(self.client.get(f"/clutches/{code}/1/why/never_heard/").status_code, 404)

    def test_what_no_animal_shows_is_told_and_the_looks_stay(self) -> None:
        judgement = self.judged(self.alder)
        self.assertFalse(judgement.contradicts(judgement.eggs[0]))
        self.assertEqual(judgement.combinations(judgement.eggs[0], 1)[0].genotype, {})
        self.assertGreater(judgement.combinations(judgement.eggs[0], 1)[0].before, 0.01)

    def test_candidates_before_looks_are_as_common_as_the_population_has_them(self) -> None:
        judgement = self.judged(self.alder)
        for combination in judgement.combinations(judgement.eggs[0], 3):
            self.assertAlmostEqual(combination.chance, combination.before, delta=0.01)

    def test_it_is_put_on_the_table_by_a_helper_and_claimed_by_a_keeper(self) -> None:
        answer = self.client.post(f"/animals/{self.alder.pk}/table/")
        self.assertEqual(answer["Location"], f"/clutches/{self.egg(self.alder).clutch.code}/1/")
        self.assertContains(self.client.get(f"/animals/{self.alder.pk}/"), "On the table")
        self.client.force_login(self.collection.memberships.get(user__username="helper").user)
        self.assertEqual(self.client.post(f"/animals/{self.alder.pk}/table/").status_code, 302)
        denied = self.client.post(
            f"/clutches/{self.egg(self.alder).clutch.code}/1/claim/", {"line": "pastel", "trust": "80"}
        )
        self.assertEqual(denied.status_code, 403)


class TurnsOutToBe(TableCase):
    def hatchling(self) -> Egg:
        return egg_of(clutch_of(self.collection, "W-02"), 1)

    def test_everything_of_both_lies_with_the_hatchling_and_comes_apart_again(self) -> None:
        photo = self.photo()
        Photo.objects.filter(pk=photo.pk).update(egg=individual_of(self.alder))
        look = self.look(self.alder, "eye_color", "green")
        make_claim(self.egg(self.alder), self.keeper, "pastel", "80", NOW)
        own, calls = self.egg(self.alder), self.hatchling().calls.count()
        Animal.objects.filter(pk=self.alder.pk).update(sex="")
        self.alder.refresh_from_db()
        answer = self.client.post(f"/animals/{self.alder.pk}/same-as/", {"hatchling": "W-02/1"})
        self.assertEqual(answer.status_code, 302)
        egg = self.hatchling()
        self.assertEqual(egg.kept_as_id, self.alder.pk)
        self.assertEqual({Photo.objects.get(pk=photo.pk).egg_id, Look.objects.get(pk=look.pk).egg_id}, {egg.pk})
        self.assertEqual((egg.claims.count(), egg.calls.count()), (1, calls))
        self.assertEqual(Animal.objects.get(pk=self.alder.pk).dam, egg.clutch.dam)
        gone = self.client.get(f"/clutches/{own.clutch.code}/1/", follow=True)
        self.assertContains(gone, "joined with a hatchling")
        take_back(changes_of(self.collection)[0], self.keeper, NOW)
        self.assertEqual(Photo.objects.get(pk=photo.pk).egg_id, own.pk)
        self.assertEqual(Egg.objects.get(pk=own.pk).kept_as_id, self.alder.pk)
        self.assertIsNone(self.hatchling().kept_as)

    def test_what_can_not_be_the_same_is_refused_and_nothing_moves(self) -> None:
        egg = self.hatchling()
        quillet = self.collection.animals.get(name="Quillet")
        with self.assertRaisesMessage(Refused, "hatched here"):
            merge(quillet, egg, self.keeper, NOW)
        with self.assertRaisesMessage(Refused, "stays already"):
            merge(self.alder, egg_of(clutch_of(self.collection, "V-09"), 1), self.keeper, NOW)
        male = self.collection.animals.get(name="Brook")
        with self.assertRaisesMessage(Refused, "Correct one of the two first"):
            merge(male, egg, self.keeper, NOW)
        with self.assertRaisesMessage(Refused, "is not a hatchling that is out"):
            merge(self.alder, egg_of(clutch_of(self.collection, "W-04"), 1), self.keeper, NOW)
        Animal.objects.filter(pk=self.alder.pk).update(dam=self.collection.animals.get(name="Marram"))
        self.alder.refresh_from_db()
        with self.assertRaisesMessage(Refused, "other parents"):
            merge(self.alder, egg, self.keeper, NOW)
        self.assertIsNone(self.hatchling().kept_as)

    def test_proofs_that_contradict_one_another_are_told(self) -> None:
        egg = self.hatchling()
        prove(egg, self.keeper, {"fire": 1}, "tested", timezone.localdate(), NOW)
        prove(self.egg(self.alder), self.keeper, {"fire": 0}, "tested", timezone.localdate(), NOW)
        with self.assertRaisesMessage(Refused, "fire is proven otherwise"):
            merge(self.alder, egg, self.keeper, NOW)

    def test_a_hatchling_is_named_as_keepers_write_it(self) -> None:
        egg = self.hatchling()
        for words in ("W-02/1", "w-02 1", egg.code):
            self.assertEqual(hatchling_named(self.collection, words), egg)
        for words in ("", "W-02", "W-02/99", "Marram", "W-99/1"):
            with self.assertRaises(Refused):
                hatchling_named(self.collection, words)
        answer = self.client.post(f"/animals/{self.alder.pk}/same-as/", {"hatchling": "W-99/1"})
        self.assertContains(answer, "is no hatchling here", status_code=422)

    def test_the_call_of_the_table_stays_in_the_trail_of_the_hatchling(self) -> None:
        judgement = self.judged(self.alder)
        make_call(judgement, judgement.eggs[0], self.keeper, {"pastel": OnGene("likely", 1)}, "adult", "", uuid4(), NOW)
        merge(self.alder, self.hatchling(), self.keeper, NOW)
        self.assertTrue(Call.objects.filter(egg=self.hatchling(), label="likely Pastel").exists())
        self.assertContains(self.client.get("/clutches/W-02/1/"), "Called: likely Pastel")
