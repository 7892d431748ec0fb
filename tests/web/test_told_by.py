"""What would tell an open gene, the boxes of a season, and what was paired before."""

from __future__ import annotations

from datetime import timedelta

from django.utils import timezone

from eyot_core.body_places import place_of
from eyot_core.genetics.genotypes import genotype_of
from eyot_core.identify.compare import Comparison

from eyot.bench.judgement import Combination, trait_words
from eyot.bench.season_box import boxes_of
from eyot.bench.siblings import judged
from eyot.bench.told_by import OpenGene, told_by
from eyot.pairing.paired_before import paired_before
from eyot.photos.models import Photo
from eyot.season.models import Egg
from eyot.season.queries import clutch_of, clutches_of
from tests.web.season_data import SeasonCase
from tests.web.test_pages import FewerThan
from tests.web.test_strips import StripCase


class ToldBys(SeasonCase):
    def told(self, leading: dict[str, int], *genes: OpenGene, stage: str = "shed") -> list[tuple[str, str, str, str]]:
        judgement = judged(clutch_of(self.collection, "W-02"))
        combination = Combination(genotype_of(judgement.catalogue, leading), 0.5, 0.1)
        rows = told_by(judgement, combination, genes, stage)
        return [(row.name, row.trait, row.without, row.having) for row in rows]

    def test_it_is_the_look_that_parts_the_leading_combination_with_and_without_it(self) -> None:
        catalogue = judged(clutch_of(self.collection, "W-02")).catalogue
        for leading, without, having in (
            ({"pinstripe": 1}, {"pinstripe": 1}, {"pinstripe": 1, "fire": 1}),
            ({"pinstripe": 1, "fire": 1}, {"pinstripe": 1}, {"pinstripe": 1, "fire": 1}),
        ):
            pair = (genotype_of(catalogue, without), genotype_of(catalogue, having))
            best = Comparison(catalogue, pair).differences("shed")[0].trait
            ((_, trait, drawn_without, drawn_having),) = self.told(leading, OpenGene("fire", "Fire", 1, "40 %"))
            self.assertEqual((trait, drawn_without, drawn_having), (best, "pinstripe", "fire.pinstripe"))

    def test_a_recessive_is_drawn_with_both_copies(self) -> None:
        ((_, trait, without, having),) = self.told({}, OpenGene("piebald", "Piebald", 2, "25 %"))
        self.assertEqual((without, having), ("normal", "piebald.piebald"))
        self.assertTrue(trait)

    def test_three_are_drawn_and_what_no_look_tells_is_named(self) -> None:
        genes = [OpenGene(gene, gene, 1, "30 %") for gene in ("pastel", "enchi", "pinstripe", "fire")]
        self.assertEqual([row[0] for row in self.told({}, *genes)], ["pastel", "enchi", "pinstripe"])
        full = OpenGene("lesser", "lesser", 1, "10 %")
        on_white = self.told({"mojave": 2}, full, *genes)
        self.assertEqual([name for name, trait, _, _ in on_white if not trait], ["lesser", "enchi"])

    def test_the_bench_draws_one_combination_and_the_places(self) -> None:
        page = self.client.get("/clutches/W-02/2/?stage=shed").content.decode()
        self.assertEqual(page.count('class="candidate"'), 1)
        self.assertIn("without | with <b>Fire</b>", page)
        trait = self.told({"fire": 1}, OpenGene("enchi", "Enchi", 1, "20 %"))[0][1]
        self.assertIn(f"/drawings/at/{place_of(trait, trait_words(trait)['region'])}/", page)

    def test_looks_stand_in_the_order_of_what_they_tell(self) -> None:
        judgement = judged(clutch_of(self.collection, "W-02"))
        order = judgement.worth_asking("shed")
        page = self.client.get("/clutches/W-02/5/?stage=shed").content.decode()
        places = [page.index(f'id="row-{trait}"') for trait in order]
        self.assertEqual(places, sorted(places))
        self.assertGreater(len(order), 5)


class Boxes(StripCase):
    def test_a_season_shows_each_egg_with_its_newest_photo_and_what_it_was_called(self) -> None:
        photo = self.photo(2)
        belly = self.photo(1, kind="belly")
        clutches = list(clutches_of(self.collection).filter(code__in=("W-02", "W-06")))
        with self.assertNumQueries(2):
            boxes = {box.clutch.code: box.eggs for box in boxes_of(clutches)}
        by_number = {held.egg.number: held for held in boxes["W-02"]}
        self.assertEqual((by_number[2].photo, by_number[2].words), (photo, "to call"))
        self.assertIsNone(by_number[1].photo)
        self.assertTrue(by_number[1].is_called)
        self.assertIn("Fire", by_number[1].words)
        self.assertEqual({held.words for held in boxes["W-06"]}, {Egg.State.SHUT.label})
        page = self.client.get("/")
        self.assertContains(page, f"/photos/{photo.pk}/{photo.thumb}.jpg")
        self.assertNotContains(page, str(belly.pk))
        self.assertContains(page, "W-02, egg 6: slug")
        newer = self.photo(2)
        Photo.objects.filter(pk=photo.pk).update(taken_at=timezone.now() - timedelta(hours=1))
        self.assertContains(self.client.get("/"), str(newer.pk))


class PairedBefore(SeasonCase):
    def test_an_empty_planner_shows_what_was_paired_to_plan_it_again(self) -> None:
        rows = paired_before(self.collection)
        self.assertEqual(rows[0].clutch.code, "W-07")
        marram = next(row for row in rows if row.clutch.code == "W-04")
        self.assertEqual((marram.query, marram.came), ("dam=Marram&sire=Fathom", "5 of 7 eggs open or hatched"))
        self.assertEqual(dict(marram.parents)["Marram"], "mojave.yellow_belly")
        two = next(row for row in rows if row.clutch.code == "W-03")
        self.assertEqual(two.query, "dam=Osier&sire=Tarn&sire=Rill")
        self.assertContains(self.client.get("/pairings/"), "?dam=Marram&amp;sire=Fathom")
        self.assertNotContains(self.client.get("/pairings/?dam=Marram&sire=Fathom"), "Paired before")
        with self.assertNumQueries(FewerThan(9)):
            paired_before(self.collection)
