"""Practice: exercises are made, answered once, scored; drills are spaced; races go on; an eye's figures are offered to the bench."""

from __future__ import annotations

import re
from datetime import timedelta
from unittest.mock import patch
from uuid import uuid4

from django.utils import timezone

from eyot_core.drawing import camera
from eyot_core.exercises.made_up import MadeUp
from eyot_core.exercises.reliability import LEAST_ANSWERS
from eyot_core.exercises.scores import SAID
from eyot_core.identify.evidence import Observation, reliability
from eyot_core.identify.looks import likeliest_looks, telling_looks

from eyot.bench.actions import make_call
from eyot.bench.models import Proof
from eyot.bench.siblings import judged
from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.photos.models import Photo
from eyot.practice import answering, evenings, making
from eyot.practice.answering import genotype_of_side
from eyot.practice.eye import own_eye, take_over
from eyot.practice.knowing import could_be_known, known_of, shown_looks, true_genes
from eyot.practice.making import hardships, new_animal
from eyot.practice.models import Drill, Evening, EveningEgg, Exercise, MadeUpAnimal, MadeUpPhoto, Race
from eyot.practice.pairs import can_be_told, due, mixed_up, next_pair, noted_pairs
from eyot.practice.racing import EGGS, standings
from eyot.season.queries import clutch_of
from eyot.shared.refusal import Refused
from tests.jobs import do_jobs
from tests.web.test_homes import HomesCase


class PracticeCase(HomesCase):
    def setUp(self) -> None:
        """Without what the demo's keeper has practised."""
        super().setUp()
        MadeUpAnimal.objects.all().delete()

    def begun(self, address: str, **sent: str) -> Exercise:
        answer = self.client.post(f"/practice/{address}/", sent)
        self.assertEqual(answer.status_code, 302, answer.content[:300])
        number = int(answer["Location"].rstrip("/").rsplit("/", 1)[1])
        return Exercise.objects.get(pk=number)

    def named(self, exercise: Exercise, said: dict[str, str]) -> Exercise:
        self.client.post(f"/practice/{exercise.pk}/answer/", said)
        exercise.refresh_from_db()
        return exercise


class NameIt(PracticeCase):
    def of_two_genes(self) -> Exercise:
        """An animal that has both genes which its parents can give."""
        genes = {catalogue_of(self.collection).genes[gene].locus: [gene] for gene in ("pastel", "pinstripe")}
        looks = telling_looks(catalogue_of(self.collection), genes, "shed")
        dam, sire = ([{"gene": gene, "copies": 1}] for gene in ("pastel", "pinstripe"))
        animal = making.kept(self.collection, MadeUp(dam, sire, genes, "shed", looks), timezone.now())
        return making.put_name(animal, self.keeper, "strip", timezone.now())

    def test_an_animal_is_named_and_scored_against_what_could_be_known(self) -> None:
        exercise = self.begun("name", picture="strip", parents="given")
        page = self.client.get(f"/practice/{exercise.pk}/")
        self.assertContains(page, "That is it")
        self.assertContains(page, "made-up animals, not real ones")
        self.assertNotContains(page, "Truth")
        self.assertEqual(self.client.get(f"/practice/{exercise.pk}/picture/")["Content-Type"], "image/svg+xml")
        could = could_be_known(exercise)
        said = {gene: min(SAID, key=lambda word: abs(SAID[word] - chance)) for gene, chance in could.items()}
        self.named(exercise, said)
        scores = {row["gene"]: row for row in exercise.answer["scores"]}
        self.assertEqual(set(scores), set(could))
        for gene, row in scores.items():
            self.assertAlmostEqual(row["could"], could[gene], places=5)
            self.assertEqual(row["is_there"], gene in true_genes(exercise))
        lost = sum((SAID[said[gene]] - chance) ** 2 for gene, chance in could.items())
        assert exercise.lost is not None
        self.assertAlmostEqual(exercise.lost, lost, places=9)
        page = self.client.get(f"/practice/{exercise.pk}/")
        for words in ("Truth", "Could be known", f"{exercise.answer['points']} of 100", "The next one"):
            self.assertContains(page, words)

    def test_looks_that_were_read_stand_beside_what_is_drawn(self) -> None:
        exercise = self.begun("name", picture="strip", parents="given")
        assert exercise.animal
        page = self.client.get(f"/practice/{exercise.pk}/").content.decode()
        look = page.split('name="look-', 1)[1].split('"', 1)[0]
        levels = list(catalogue_of(self.collection).traits[look].level_index)
        wrong = next(level for level in levels if level != exercise.animal.looks[look])
        refused = self.client.post(f"/practice/{exercise.pk}/answer/", {f"look-{look}": "blurred"})
        self.assertContains(refused, "no level of a look", status_code=422)
        self.named(exercise, {f"look-{look}": wrong})
        self.assertEqual(exercise.answer["looks"], {look: wrong})
        true = exercise.animal.looks[look].replace("_", " ")
        self.assertContains(self.client.get(f"/practice/{exercise.pk}/"), f"it is {true}")

    def test_what_was_answered_is_not_answered_again(self) -> None:
        """In another tab, or after the solution was shown."""
        exercise = self.named(self.begun("name", picture="head", parents="given"), {})
        answer = self.client.post(f"/practice/{exercise.pk}/answer/", {"fire": "sure"})
        self.assertContains(answer, "the first answer stands", status_code=422)
        before = exercise.said
        exercise.refresh_from_db()
        self.assertEqual(exercise.said, before)

    def test_without_parents_genes_are_written(self) -> None:
        exercise = self.begun("name", picture="strip", parents="unknown")
        self.assertContains(self.client.get(f"/practice/{exercise.pk}/"), "Its parents are not known")
        answer = self.client.post(f"/practice/{exercise.pk}/answer/", {"sure": "sunburst"})
        self.assertContains(answer, "Not known here", status_code=422)
        answer = self.client.post(f"/practice/{exercise.pk}/answer/", {"sure": "het clown"})
        self.assertContains(answer, "A het of Clown shows nothing", status_code=422)
        self.named(exercise, {"sure": "pastel", "hint": "enchi"})
        self.assertEqual(exercise.answer["genes"], {"pastel": "sure", "enchi": "hint"})
        self.assertGreaterEqual({row["gene"] for row in exercise.answer["scores"]}, {"pastel", "enchi"})

    def test_never_the_same_animal_twice_and_what_was_left_is_gone_on_with(self) -> None:
        first, second = (self.begun("name", picture="strip", parents="given") for _ in range(2))
        self.assertNotEqual(first.animal_id, second.animal_id)
        page = self.client.get("/practice/")
        self.assertContains(page, f'href="/in/{self.collection.key}/practice/{second.pk}/"')

    def test_other_members_see_neither_the_exercise_nor_its_solution(self) -> None:
        exercise = self.begun("name", picture="strip", parents="given")
        self.client.force_login(self.helper)
        for path in ("", "picture/", "otherwise/as-it-is/crown/"):
            self.assertEqual(self.client.get(f"/practice/{exercise.pk}/{path}").status_code, 404)

    def test_the_solution_is_drawn_only_once_it_is_answered(self) -> None:
        exercise = self.begun("name", picture="strip", parents="given")
        address = f"/practice/{exercise.pk}/otherwise/fire/crown/"
        self.assertEqual(self.client.get(address).status_code, 404)
        self.named(exercise, {})
        self.assertEqual(self.client.get(address)["Content-Type"], "image/svg+xml")
        self.assertEqual(self.client.get(f"/practice/{exercise.pk}/otherwise/nothing/crown/").status_code, 404)
        as_it_is = self.client.get(f"/practice/{exercise.pk}/otherwise/as-it-is/strip/").content
        self.assertEqual(as_it_is, self.client.get(f"/practice/{exercise.pk}/picture/").content)

    def test_pictures_of_cues_keep_the_room_that_they_take(self) -> None:
        exercise = self.of_two_genes()
        self.named(exercise, {})
        page = self.client.get(f"/practice/{exercise.pk}/").content.decode()
        pictures = re.findall(r'<img loading="lazy" width="(\d+)" height="(\d+)" src="([^"]+)"', page)
        self.assertGreater(len(pictures), 1)
        for width, height, address in pictures:
            *_, wide, high = re.findall(r'viewBox="([^"]+)"', self.client.get(address).content.decode())[0].split()
            self.assertEqual((width, height), (wide, high), address)

    def test_what_somebody_loses_by_comes_oftener(self) -> None:
        exercise = self.of_two_genes()
        could = could_be_known(exercise)
        gene = min(could, key=lambda one: could[one])
        self.named(exercise, {gene: "sure"})
        hard, lost = hardships(self.collection, self.keeper), (0.97 - round(could[gene], 6)) ** 2
        self.assertAlmostEqual(hard.genes[gene], 1 + making.HARDER * lost, places=6)
        assert exercise.animal
        exercise.refresh_from_db()
        self.assertAlmostEqual(hard.stages[exercise.animal.stage], 1 + (exercise.lost or 0), places=6)
        self.assertEqual((hard.poses, hard.lights), ({}, {}), "a strip has neither")
        mean = sum((row["said"] - row["could"]) ** 2 for row in exercise.answer["scores"]) / 2
        self.assertEqual(list(hard.company), [frozenset({"pastel", "pinstripe"})])
        self.assertAlmostEqual(hard.company[frozenset({"pastel", "pinstripe"})], 1 + making.HARDER * mean, places=6)

    def test_a_photos_pose_and_light_are_counted_and_come_oftener(self) -> None:
        for pose in making.POSES:
            for light in making.LIGHTS:
                seed = making.seed_of(pose, light)
                self.assertEqual((making.pose_of(seed), making.light_of(seed)), (pose, light))
        animal = making.new_animal(self.collection, self.keeper, timezone.now())
        exercise = making.put_name(animal, self.keeper, "photo", timezone.now())
        answering.name(exercise, {}, timezone.now())
        exercise.refresh_from_db()
        hard, oftener = hardships(self.collection, self.keeper), 1 + (exercise.lost or 0)
        self.assertEqual(hard.poses, {making.pose_of(animal.seed): oftener})
        self.assertEqual(hard.lights, {making.light_of(animal.seed): oftener})
        dim, warm, even = (making.lamp_of(making.seed_of("loose", light)) for light in ("dim", "warm", "even"))
        self.assertLess(dim.exposure, even.exposure)
        self.assertLess(warm.cast[2] / warm.cast[0], even.cast[2] / even.cast[0])

    def test_what_was_lost_is_told_by_the_place_that_told_most(self) -> None:
        exercise = self.of_two_genes()
        self.named(exercise, {})
        exercise.refresh_from_db()
        telling, catalogue = exercise.answer["telling"], catalogue_of(self.collection)
        assert exercise.animal
        self.assertEqual(set(telling), {"pastel", "pinstripe"})
        known = known_of(exercise.animal, "strip", catalogue)
        for gene, look in telling.items():
            heaviest = max(known.cues(gene), key=lambda cue: abs(cue.weight))
            self.assertAlmostEqual(
                abs(next(cue.weight for cue in known.cues(gene) if cue.look == look)), abs(heaviest.weight)
            )
        places = own_eye(self.collection, self.keeper).places
        self.assertEqual(sum(count for _, count, _ in places), len(telling))
        lost = {row["gene"]: (row["said"] - row["could"]) ** 2 for row in exercise.answer["scores"]}
        self.assertAlmostEqual(
            sum(count * mean for _, count, mean in places), sum(lost[gene] for gene in telling), places=5
        )


class Photos(PracticeCase):
    def test_photos_are_made_ahead_and_asked_about_once(self) -> None:
        first = self.begun("name", picture="photo", parents="given")
        self.assertEqual(first.picture, "strip", "none lies ready yet")
        self.assertEqual(MadeUpPhoto.objects.count(), making.AHEAD)
        with patch.object(making, "LARGE", (240, 180)):
            do_jobs()
        second, third = (self.begun("name", picture="photo", parents="given") for _ in range(2))
        self.assertEqual((second.picture, third.picture), ("photo", "photo"))
        self.assertNotEqual(second.animal_id, third.animal_id)
        shown = self.client.get(f"/practice/{second.pk}/picture/")
        self.assertEqual((shown["Content-Type"], shown.content[:2]), ("image/jpeg", b"\xff\xd8"))

    def test_a_photo_that_cannot_be_made_is_never_offered(self) -> None:
        self.begun("name", picture="photo", parents="given")
        with patch.object(making, "photographed", side_effect=ValueError("no pose")):
            do_jobs()
        self.assertEqual(MadeUpPhoto.objects.filter(failed=True).count(), making.AHEAD)
        self.assertEqual(self.begun("name", picture="photo", parents="given").picture, "strip")
        self.assertIn("loose", camera.SHOTS)


class Looks(PracticeCase):
    def read(self, exercise: Exercise, level: str) -> Exercise:
        self.client.post(f"/practice/{exercise.pk}/read/", {"level": level, "confidence": "sure"})
        exercise.refresh_from_db()
        return exercise

    def test_what_another_look_hides_is_neither_asked_nor_counted(self) -> None:
        animal, catalogue = self.begun("look", picture="drawing").animal, catalogue_of(self.collection)
        assert animal
        animal.looks = likeliest_looks(catalogue, {}, "shed") | {"lobe_attach": "absent"}
        for picture in ("strip", "photo"):
            shown = shown_looks(animal, picture, catalogue)
            self.assertEqual({"lobe_spots", "banding"} & set(shown), set(), "no lobes, no spots in them")
            self.assertLessEqual({"lobe_attach", "flank_flames"}, set(shown))
        animal.looks["lobe_spots"] = "many"
        counted = known_of(animal, "strip", catalogue).chances
        animal.looks["lobe_spots"] = "none"
        self.assertEqual(counted, known_of(animal, "strip", catalogue).chances)
        animal.looks["lobe_attach"] = "attached"
        self.assertIn("lobe_spots", shown_looks(animal, "strip", catalogue))

    def test_a_look_is_read_and_told(self) -> None:
        exercise = self.begun("look", picture="drawing")
        assert exercise.animal
        true = exercise.animal.looks[exercise.look]
        others = [one for one in catalogue_of(self.collection).traits[exercise.look].level_index if one != true]
        self.assertContains(self.client.get(f"/practice/{exercise.pk}/"), 'name="level"')
        self.read(exercise, others[0])
        self.assertEqual((exercise.is_right, exercise.answer["true"]), (False, true))
        self.assertContains(self.client.get(f"/practice/{exercise.pk}/"), "it for")
        answer = self.client.post(f"/practice/{exercise.pk}/read/", {"level": true})
        self.assertContains(answer, "the first answer stands", status_code=422)
        right = self.begun("look", picture="drawing")
        assert right.animal
        self.assertTrue(self.read(right, right.animal.looks[right.look]).is_right)

    def test_what_is_no_level_is_refused(self) -> None:
        exercise = self.begun("look", picture="drawing")
        answer = self.client.post(f"/practice/{exercise.pk}/read/", {"level": "blurred"})
        self.assertContains(answer, "Choose one of the levels", status_code=422)
        exercise.refresh_from_db()
        self.assertIsNone(exercise.said)


class LookAlikes(PracticeCase):
    def test_a_pair_is_told_apart_and_comes_again_when_it_is_due(self) -> None:
        exercise = self.begun("pairs")
        self.assertIn(exercise.pair, noted_pairs(catalogue_of(self.collection)))
        assert exercise.animal
        true = next(
            side for side in exercise.pair.split("~") if genotype_of_side(exercise, side) == exercise.animal.genotype
        )
        self.client.post(f"/practice/{exercise.pk}/choose/", {"level": true})
        exercise.refresh_from_db()
        self.assertTrue(exercise.is_right)
        drill = Drill.objects.get()
        now = timezone.now()
        self.assertEqual(due(self.collection, self.keeper, now), [])
        self.assertEqual(due(self.collection, self.keeper, drill.due_at + timedelta(minutes=1)), [exercise.pair])
        self.assertNotEqual(next_pair(self.collection, self.keeper, now), exercise.pair)
        again = next_pair(self.collection, self.keeper, drill.due_at + timedelta(minutes=1))
        self.assertEqual(again, exercise.pair)

    def test_what_looks_cannot_tell_apart_is_not_drilled(self) -> None:
        catalogue = catalogue_of(self.collection)
        self.assertLessEqual({"fire~vanilla", "banana.banana~banana"}, set(noted_pairs(catalogue)))
        for pair in ("banana~banana", "lesser~butter", "fire~gone"):
            self.assertFalse(can_be_told(pair, catalogue), pair)
            self.assertNotIn(pair, noted_pairs(catalogue))
            Drill.objects.create(
                collection=self.collection, member=self.keeper, pair=pair, card={}, due_at=self.now - timedelta(days=1)
            )
        self.assertEqual(due(self.collection, self.keeper, self.now), [])

    def test_a_mistake_comes_again_sooner_than_what_was_right(self) -> None:
        waits = {}
        for is_right in (True, False):
            Drill.objects.all().delete()
            exercise = self.begun("pairs")
            assert exercise.animal
            sides = exercise.pair.split("~")
            true = next(side for side in sides if genotype_of_side(exercise, side) == exercise.animal.genotype)
            chosen = true if is_right else next(side for side in sides if side != true)
            self.client.post(f"/practice/{exercise.pk}/choose/", {"level": chosen})
            exercise.refresh_from_db()
            assert exercise.answered_at
            waits[is_right] = Drill.objects.get().due_at - exercise.answered_at
        self.assertLess(waits[False], waits[True])

    def test_what_was_mixed_up_twice_is_drilled(self) -> None:
        for _ in range(2):
            exercise = self.begun("name", picture="strip", parents="given")
            exercise.said = {
                "genes": {},
                "scores": [
                    {"gene": "fire", "said": 0.97, "could": 0.1, "is_there": False},
                    {"gene": "vanilla", "said": 0.03, "could": 0.9, "is_there": True},
                ],
            }
            exercise.save()
        self.assertEqual(mixed_up(self.collection, self.keeper), ["fire~vanilla"])
        self.assertEqual(next_pair(self.collection, self.keeper, timezone.now()), "fire~vanilla")


class OwnAnimals(PracticeCase):
    def test_proven_ones_are_asked_about_apart_from_drawn_ones(self) -> None:
        egg = Proof.objects.order_by("pk")[0].egg
        Photo.objects.create(
            egg=egg, stage="shed", kind="back", taken_at=self.now, width=4, height=3, added_by=self.keeper
        )
        exercise = self.begun("own")
        assert exercise.egg
        page = self.client.get(f"/practice/{exercise.pk}/")
        self.assertContains(page, "your own photo")
        proofs = {proof.gene: proof.copies for proof in exercise.egg.proofs.all()}
        self.assertTrue(proofs)
        there = true_genes(exercise)
        self.named(exercise, dict.fromkeys(there, "sure"))
        self.assertEqual(exercise.answer["points"], 100 if proofs else 0)
        self.assertEqual(own_eye(self.collection, self.keeper).animals, 0)

    def test_without_any_it_is_told(self) -> None:
        Proof.objects.all().delete()
        self.assertContains(self.client.get("/practice/"), "None of your proven hatchlings")
        self.assertContains(self.client.post("/practice/own/"), "None of your animals", status_code=422)


class OwnEye(PracticeCase):
    def answered(self, count: int, right: int, picture: str, look: str = "lobe_tone") -> None:
        now = timezone.now()
        animal = new_animal(self.collection, self.keeper, now, "shed")
        true, other = list(catalogue_of(self.collection).traits[look].level_index)[:2]
        for number in range(count):
            Exercise.objects.create(
                collection=self.collection,
                member=self.keeper,
                kind="look",
                animal=animal,
                picture=picture,
                look=look,
                asked_at=now,
                answered_at=now,
                is_right=number < right,
                said={
                    "level": true if number < right else other,
                    "true": true,
                    "confidence": "sure",
                    "stage": "shed",
                },
            )

    def test_enough_answers_on_photos_are_offered_taken_over_and_taken_back(self) -> None:
        self.answered(LEAST_ANSWERS + 10, 20, "photo")
        before = catalogue_of(self.collection).traits["lobe_tone"].clarity["shed"]
        (row,) = own_eye(self.collection, self.keeper).looks
        self.assertTrue(row.is_offered)
        self.assertLess(row.reliability.after, before)
        self.assertContains(self.client.get("/practice/eye/"), "tan taken for yellow: 20 of 40")
        self.client.post("/practice/eye/lobe_tone/shed/", {"use": "mine"})
        now = catalogue_of(Collection.objects.get(pk=self.collection.pk)).traits["lobe_tone"].clarity
        self.assertAlmostEqual(now["shed"], row.reliability.after, places=2)
        self.assertContains(self.client.get("/practice/eye/"), "take back")
        self.assertContains(self.client.get("/reference/opinions/"), "after 40 answers on photos")
        self.client.post("/practice/eye/lobe_tone/shed/", {"use": "catalogue"})
        again = catalogue_of(Collection.objects.get(pk=self.collection.pk)).traits["lobe_tone"].clarity["shed"]
        self.assertEqual(again, before)

    def test_drawings_and_few_answers_are_offered_nothing(self) -> None:
        self.answered(LEAST_ANSWERS + 10, 20, "strip")
        self.answered(LEAST_ANSWERS - 1, 5, "photo", "banding")
        self.assertEqual([row.is_offered for row in own_eye(self.collection, self.keeper).looks], [False, False])
        for look in ("lobe_tone", "banding"):
            with self.assertRaisesMessage(Refused, "not enough answers on photos"):
                take_over(self.collection, self.keeper, look, "shed")
        self.assertContains(self.client.get("/practice/eye/"), "drawings: for practice only")

    def test_a_word_is_worth_what_it_was_and_counts_so_if_it_is_taken_over(self) -> None:
        self.answered(LEAST_ANSWERS + 10, 20, "photo")
        row = next(one for one in own_eye(self.collection, self.keeper).words if one.worth.word == "sure")
        self.assertEqual(row.worth.answers, LEAST_ANSWERS + 10)
        for word in ("hint", "likely"):
            self.client.post(f"/practice/eye/word/{word}/", {"use": "mine"})
        self.assertFalse(self.collection.overrides.filter(value__kind="sureness").exists(), "nothing was said so")
        self.client.post("/practice/eye/word/sure/", {"use": "mine"})
        now = catalogue_of(Collection.objects.get(pk=self.collection.pk))
        look = now.traits["banding"]
        self.assertAlmostEqual(look.sureness["sure"], row.worth.after, places=2)
        seen = Observation("banding", "strong", "shed")
        self.assertAlmostEqual(reliability(look, seen), look.clarity["shed"] * look.sureness["sure"])
        self.assertContains(self.client.get("/reference/opinions/"), "“sure” is worth")
        self.client.post("/practice/eye/word/sure/", {"use": "catalogue"})
        self.assertEqual(catalogue_of(Collection.objects.get(pk=self.collection.pk)).traits["banding"].sureness, {})

    def test_words_are_held_against_what_was_there(self) -> None:
        exercise = self.begun("name", picture="strip", parents="given")
        could = could_be_known(exercise)
        self.named(exercise, dict.fromkeys(could, "likely"))
        eye = own_eye(self.collection, self.keeper)
        row = next(one for one in eye.calibration if one.word == "likely")
        self.assertEqual((row.said, row.there), (len(could), len(set(could) & set(true_genes(exercise)))))
        self.assertAlmostEqual(row.could, sum(could.values()) / len(could), places=5)
        self.assertEqual(eye.animals, 1)


class Wished(PracticeCase):
    def test_due_pairs_are_told_on_today_only_to_those_who_want_it(self) -> None:
        now = timezone.now()
        Drill.objects.create(
            collection=self.collection,
            member=self.keeper,
            pair="fire~vanilla",
            card={},
            due_at=now - timedelta(hours=1),
        )
        self.assertNotContains(self.client.get("/practice/today/"), "due")
        self.client.post("/practice/eye/wished/", {"on_today": "yes"})
        self.assertContains(self.client.get("/practice/today/"), "1 pair of look-alikes due")
        self.client.post("/practice/eye/wished/", {})
        self.assertNotContains(self.client.get("/practice/today/"), "due")

    def test_figures_stand_beside_others_only_if_both_want_it(self) -> None:
        for member in (self.keeper, self.helper):
            self.client.force_login(member)
            self.named(self.begun("name", picture="strip", parents="given"), {})
        self.client.post("/practice/eye/wished/", {"shares": "yes"})
        self.assertEqual([row.name for row in own_eye(self.collection, self.helper).others], ["helper"])
        self.assertEqual(own_eye(self.collection, self.keeper).others, [])
        self.client.force_login(self.keeper)
        self.client.post("/practice/eye/wished/", {"shares": "yes"})
        self.assertEqual({row.name for row in own_eye(self.collection, self.keeper).others}, {"keeper", "helper"})
        self.assertContains(self.client.get("/practice/eye/"), "Beside others")


class Races(PracticeCase):
    def begin_race(self, first: str, second: str) -> Race:
        answer = self.client.post("/practice/race/", {"first": first, "second": second})
        self.assertEqual(answer.status_code, 302)
        return Race.objects.get()

    def test_two_on_one_device_name_the_same_animals(self) -> None:
        race = self.begin_race("Moss", "Reed")
        for egg in range(EGGS):
            rows = list(race.exercises.filter(said__isnull=True))
            self.assertEqual({row.player for row in rows}, {"Moss", "Reed"})
            self.assertEqual(len({row.animal_id for row in rows}), 1)
            early = self.client.post(f"/practice/race/{race.pk}/next/")
            self.assertContains(early, "Not everybody has named this one", status_code=422)
            could = could_be_known(rows[0])
            best = {gene: min(SAID, key=lambda word: abs(SAID[word] - chance)) for gene, chance in could.items()}
            worst = {gene: max(SAID, key=lambda word: abs(SAID[word] - chance)) for gene, chance in could.items()}
            for row, said in zip(rows, (best, worst), strict=True):
                self.named(row, said)
            if egg < EGGS - 1:
                self.client.post(f"/practice/race/{race.pk}/next/")
        first, second = standings(race)
        self.assertEqual((first.player, second.player, first.eggs), ("Moss", "Reed", EGGS))
        self.assertLess(first.lost, second.lost)
        self.assertContains(self.client.get(f"/practice/race/{race.pk}/"), "lost least")
        after = self.client.post(f"/practice/race/{race.pk}/next/")
        self.assertContains(after, "All eggs of this race are named", status_code=422)

    def test_members_play_on_their_own_devices_and_wait_for_one_another(self) -> None:
        race = self.begin_race(self.keeper.get_username(), self.helper.get_username())
        mine, theirs = race.exercises.order_by("pk")
        self.assertEqual((mine.member_id, theirs.member_id), (self.keeper.pk, self.helper.pk))
        self.named(mine, {})
        page = self.client.get(f"/practice/race/{race.pk}/")
        self.assertContains(page, "has not named it yet")
        self.assertNotContains(page, "Truth")
        self.client.force_login(self.helper)
        self.assertContains(self.client.get(f"/practice/race/{race.pk}/"), "name egg 1")
        self.named(theirs, {})
        self.client.force_login(self.keeper)
        self.assertContains(self.client.get(f"/practice/race/{race.pk}/"), "The next egg")

    def test_two_need_two_names(self) -> None:
        answer = self.client.post("/practice/race/", {"first": "Moss", "second": " moss "})
        self.assertContains(answer, "need two names", status_code=422)
        self.assertFalse(MadeUpAnimal.objects.exists())


class WholeEvening(PracticeCase):
    def setUp(self) -> None:
        super().setUp()
        answer = self.client.post("/practice/evening/begin/")
        self.made = Collection.objects.get(name__startswith="Practice evening")
        self.base = f"/in/{self.made.key}"
        self.assertEqual(answer["Location"], f"{self.base}/practice/evening/")

    def test_a_clutch_of_its_own_is_made_with_photos_of_its_eggs(self) -> None:
        clutch = self.made.clutches.get()
        self.assertEqual(clutch.eggs.count(), 7)
        self.assertNotEqual(self.made, self.collection)
        first = EveningEgg.objects.order_by("pk")[0]
        evenings.photograph_egg(first.pk, "egg")
        evenings.photograph_egg(first.pk, "egg")
        self.assertEqual([photo.stage for photo in first.egg.photos.all()], ["egg"])
        for page in ("practice/evening/", f"clutches/{clutch.code}/", f"clutches/{clutch.code}/cutting/"):
            self.assertEqual(self.client.get(f"{self.base}/{page}").status_code, 200, page)
        self.assertNotContains(self.client.get(f"{self.base}/practice/evening/"), '<th scope="col">Truth</th>')

    def test_they_shed_once(self) -> None:
        self.client.post(f"{self.base}/practice/evening/shed/")
        self.assertEqual({egg.stage for egg in self.made.clutches.get().eggs.all()}, {"shed"})
        again = self.client.post(f"{self.base}/practice/evening/shed/")
        self.assertContains(again, "have shed already", status_code=422)

    def test_the_truth_scores_what_was_called_before_it_was_shown(self) -> None:
        clutch, genes = clutch_of(self.made, "P-01"), catalogue_of(self.made).genes
        first, second = EveningEgg.objects.order_by("pk")[:2]
        for row, said in ((first, True), (second, False)):
            judgement = judged(clutch)
            could = known_of(row.animal, "photo", catalogue_of(self.made)).chances
            verdicts = {
                gene: ("sure" if (could.get(gene, 0) > 0.5) == said else "not", 2 if genes[gene].is_recessive else 1)
                for gene in judgement.given_genes
            }
            make_call(judgement, row.egg, self.keeper, verdicts, "shed", "", uuid4(), timezone.now())
        self.client.post(f"{self.base}/practice/evening/shown/")
        evening = Evening.objects.get()
        rows = evenings.told(evening)
        points = [row.score.points if row.score else None for row in rows]
        assert points[0] is not None and points[1] is not None
        self.assertGreater(points[0], points[1])
        self.assertEqual(points[2:], [None] * 5, "not called")
        late = judged(clutch)
        make_call(
            late,
            second.egg,
            self.keeper,
            dict.fromkeys(late.given_genes, ("sure", 1)),
            "shed",
            "",
            uuid4(),
            timezone.now(),
        )
        after = [row.score.points if row.score else None for row in evenings.told(Evening.objects.get())]
        self.assertEqual(after, points)
        page = self.client.get(f"{self.base}/practice/evening/")
        self.assertContains(page, rows[0].truth)

    def test_elsewhere_there_is_no_evening(self) -> None:
        self.assertEqual(self.client.get("/practice/evening/").status_code, 404)
