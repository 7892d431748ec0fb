"""Practice's core: exact chances of what a picture tells, proper scores, and eyes of known reliability measured rightly."""

from __future__ import annotations

from itertools import product
from unittest import TestCase

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue import builtin_catalogue
from eyot_core.exercises.known import Known, clearly_read, overlap, shows
from eyot_core.exercises.made_up import made_up, pairing_of_two, young_of
from eyot_core.exercises.pictures import SHOWN, STRIP
from eyot_core.exercises.reliability import LEAST_ANSWERS, Reading, measured, taken_for, worth_of
from eyot_core.exercises.scores import SAID, calibration, scored
from eyot_core.generations.harm import Harm
from eyot_core.identify.evidence import CONFIDENCE, answering
from eyot_core.identify.looks import chances_of_looks

from tests.practice_study import held

CATALOGUE = builtin_catalogue()


class MadeUpAnimals(TestCase):
    def test_parents_can_have_such_young_and_none_suffers(self) -> None:
        random, harm = np.random.default_rng(4), Harm.of(CATALOGUE)
        for _ in range(40):
            made = made_up(CATALOGUE, random, "shed")
            dam, sire = (frozenset(one["gene"] for one in genes) for genes in (made.dam, made.sire))
            self.assertFalse(harm.forbids(dam - harm.dams, sire))
            given = pairing_of_two(CATALOGUE, made.dam, made.sire).given_genes
            self.assertLessEqual({gene for alleles in made.genotype.values() for gene in alleles}, set(given))
            self.assertEqual(set(made.looks), set(CATALOGUE.traits))

    def test_what_is_hard_comes_oftener(self) -> None:
        def share(hard: dict[str, float]) -> float:
            random = np.random.default_rng(7)
            made = [made_up(CATALOGUE, random, "shed", hard) for _ in range(70)]
            return float(np.mean(["fire" in {one["gene"] for one in (*each.dam, *each.sire)} for each in made]))

        self.assertGreater(share({"fire": 30.0}), share({}) + 0.3)

    def test_siblings_have_the_same_parents_and_looks_of_their_own(self) -> None:
        random = np.random.default_rng(5)
        young = young_of(made_up(CATALOGUE, random, "shed"), CATALOGUE, random, 5)
        self.assertEqual(len({str(one.dam) + str(one.sire) for one in young}), 1)
        self.assertEqual(len({str(one.looks) for one in young}), 5)


class Overlap(TestCase):
    def test_two_are_as_alike_as_their_looks(self) -> None:
        def alike(one: str, other: str) -> float:
            genotypes = [{CATALOGUE.genes[gene].locus: [gene]} for gene in (one, other)]
            return overlap(CATALOGUE, *genotypes, "shed")  # type: ignore[arg-type]

        self.assertAlmostEqual(alike("banana", "banana"), 1.0)
        self.assertAlmostEqual(alike("fire", "vanilla"), alike("vanilla", "fire"))
        each = [alike(*pair) for pair in (("lesser", "butter"), ("fire", "vanilla"), ("spider", "woma"))]
        self.assertEqual(each, sorted(each, reverse=True))
        self.assertTrue(0 < each[-1] < 0.3, each)


class WhatCouldBeKnown(TestCase):
    def test_chances_are_those_of_bayes_rule_by_hand(self) -> None:
        """One gene that one parent has: prior a half, and the product of its looks' ratios."""
        looks = {"lobe_tone": "yellow", "head_blush": "slight", "eye_color": "green"}
        pairing = pairing_of_two(CATALOGUE, [{"gene": "pastel", "copies": 1}], [])
        known = Known(pairing, looks, "shed")
        ratio = 1.0
        with_it, without = (chances_of_looks(CATALOGUE, genotype, "shed") for genotype in ({"pst": ["pastel"]}, {}))
        locus = CATALOGUE.genes["pastel"].locus
        with_it = chances_of_looks(CATALOGUE, {locus: ["pastel"]}, "shed")
        for look, level in looks.items():
            place = CATALOGUE.traits[look].level_index[level]
            ratio *= with_it[look][place] / without[look][place]
        self.assertAlmostEqual(known.chances["pastel"], ratio / (1 + ratio), places=12)
        cue = next(one for one in known.cues("pastel") if one.look == "eye_color")
        place = CATALOGUE.traits["eye_color"].level_index["green"]
        self.assertAlmostEqual(np.exp(cue.weight), with_it["eye_color"][place] / without["eye_color"][place], places=9)

    def test_over_many_animals_they_hold(self) -> None:
        """Of what is held 60 to 90 % likely as much is there."""
        random, held = np.random.default_rng(11), []
        for _ in range(100):
            made = made_up(CATALOGUE, random, "shed")
            known = Known(
                pairing_of_two(CATALOGUE, made.dam, made.sire),
                {look: made.looks[look] for look in SHOWN[STRIP]},
                "shed",
            )
            held += [
                (chance, shows(made.genotype, gene, CATALOGUE.genes[gene].is_recessive))
                for gene, chance in known.chances.items()
            ]
        likely = [(chance, there) for chance, there in held if 0.6 <= chance < 0.9]
        expected, found = np.mean([chance for chance, _ in likely]), np.mean([there for _, there in likely])
        self.assertLess(abs(expected - found), 3.5 * 0.5 / len(likely) ** 0.5)
        self.assertGreater(np.mean([there for chance, there in held if chance > 0.97]), 0.93)


class Scores(TestCase):
    def test_saying_what_could_be_known_costs_least(self) -> None:
        for could in (0.03, 0.5, 0.8, 0.97):
            lost = {word: scored({"fire": word}, {"fire": could}, []).lost for word in SAID}
            self.assertEqual(SAID[min(lost, key=lambda word: lost[word])], could)

    def test_a_guess_that_was_right_by_luck_earns_less_than_one_that_was_justified(self) -> None:
        lucky = scored({"fire": "sure"}, {"fire": 0.5}, ["fire"])
        justified = scored({"fire": "hint"}, {"fire": 0.5}, ["fire"])
        self.assertGreater(justified.points, lucky.points)
        self.assertGreater(lucky.luck, justified.luck)
        self.assertAlmostEqual(lucky.genes[0].lost, 0.47**2)

    def test_luck_is_nothing_on_average(self) -> None:
        could = 0.3
        luck = [scored({"fire": "likely"}, {"fire": could}, there).luck for there in ([], ["fire"])]
        self.assertAlmostEqual((1 - could) * luck[0] + could * luck[1], 0, places=12)

    def test_what_nobody_could_know_counts_as_not_there(self) -> None:
        score = scored({"enchi": "sure"}, {"fire": 0.9}, ["fire"])
        self.assertEqual({one.gene: one.could for one in score.genes}, {"fire": 0.9, "enchi": 0.0})

    def test_words_are_counted_with_their_intervals(self) -> None:
        score = scored({"fire": "sure"}, {"fire": 0.9}, ["fire"])
        rows = {row.word: row for row in calibration([("sure", score.genes[0])] * 9 + [("no", score.genes[0])])}
        self.assertEqual((rows["sure"].said, rows["sure"].there, rows["likely"].said), (9, 9, 0))
        low, high = rows["sure"].interval
        self.assertTrue(0.7 < low < 0.85 and high == 1.0, (low, high))


class Eyes(TestCase):
    """A simulated eye of known reliability."""

    def readings(self, look: str, clarity: float, count: int, seed: int, confidence: str = "sure") -> list[Reading]:
        random, trait = np.random.default_rng(seed), CATALOGUE.traits[look]
        channel = answering(trait, clarity * CONFIDENCE[confidence])
        true = random.integers(len(trait.levels), size=count)
        read = [int(random.choice(len(trait.levels), p=channel[one])) for one in true]
        return [
            Reading(trait.levels[a].id, trait.levels[b].id, confidence)
            for a, b in zip(true.tolist(), read, strict=True)
        ]

    def test_it_is_measured_rightly(self) -> None:
        """Of intervals at 90 % most hold the truth."""
        within = 0
        for seed, (look, clarity, confidence) in enumerate(
            product(("lobe_tone", "banding"), (0.5, 0.75, 0.9), ("sure", "likely"))
        ):
            found = measured(CATALOGUE.traits[look], "shed", self.readings(look, clarity, 600, seed, confidence))
            self.assertAlmostEqual(found.after, clarity, delta=0.09)
            within += found.low <= clarity <= found.high
        self.assertGreaterEqual(within, 9, "of twelve")

    def test_a_few_answers_move_little_and_are_not_enough(self) -> None:
        trait = CATALOGUE.traits["lobe_tone"]
        found = measured(trait, "shed", [Reading("tan", "yellow")] * 3)
        self.assertFalse(found.is_enough)
        self.assertTrue(0.4 < found.after < trait.clarity["shed"])
        self.assertTrue(measured(trait, "shed", [Reading("tan", "tan")] * LEAST_ANSWERS).is_enough)
        self.assertEqual(measured(trait, "shed", []).after, round(trait.clarity["shed"], 2))

    def test_a_word_is_worth_what_came_of_it(self) -> None:
        """An eye whose hints are right four times in five where it sees at all."""
        trait, random = CATALOGUE.traits["lobe_tone"], np.random.default_rng(8)
        channel = answering(trait, 0.9 * 0.8)
        own = []
        for true in random.integers(len(trait.levels), size=700).tolist():
            read = int(random.choice(len(trait.levels), p=channel[true]))
            own.append((trait, 0.9, Reading(trait.levels[true].id, trait.levels[read].id, "hint")))
        found = worth_of("hint", own)
        self.assertAlmostEqual(found.after, 0.8, delta=0.05)
        self.assertEqual(worth_of("likely", own).answers, 0)
        self.assertAlmostEqual(worth_of("likely", own).after, 0.85)

    def test_what_is_taken_for_what(self) -> None:
        own = [Reading("tan", "yellow")] * 3 + [Reading("tan", "tan")] * 5 + [Reading("grey", "tan")]
        first, second = taken_for(own)
        self.assertEqual((first.true, first.read, first.count, first.of), ("grey", "tan", 1, 1))
        self.assertEqual((second.true, second.count, second.of), ("tan", 3, 8))
        low, high = second.interval
        self.assertTrue(low < 3 / 8 < high)


class ClearlyRead(TestCase):
    def test_without_parents_the_drawn_levels_count_for_what_they_are(self) -> None:
        clear = clearly_read(CATALOGUE, "shed")
        for trait in clear.traits.values():
            channel = answering(trait, trait.clarity["shed"] * trait.sureness["sure"])
            self.assertGreater(channel.diagonal().min(), 0.99, trait.id)
        self.assertLess(CATALOGUE.traits["lobe_tone"].clarity["shed"], 1, "the catalogue itself stays as it is")


class Company(TestCase):
    def test_two_genes_that_are_hard_together_come_together_oftener(self) -> None:
        pair, animals = frozenset({"mojave", "pinstripe"}), range(60)

        def together(company: dict[frozenset[str], float]) -> int:
            made = (
                made_up(CATALOGUE, np.random.default_rng(seed), "shed", {"mojave": 40.0}, company) for seed in animals
            )
            return sum(pair <= {row["gene"] for parent in (one.dam, one.sire) for row in parent} for one in made)

        self.assertGreater(together({pair: 50.0}), 3 * max(1, together({})))


class TakenOver(TestCase):
    def test_a_keepers_own_figures_make_new_clutches_better_judged(self) -> None:
        """One keeper of the study in docs/judgement.md, over new clutches."""
        genes = [one for seed in range(10) for one in held((1, seed))]
        truths = np.array([one.there for one in genes])
        before, after = (np.array([getattr(one, key) for one in genes]) for key in ("before", "after"))
        self.assertLess(((after - truths) ** 2).mean(), ((before - truths) ** 2).mean())

        def over_confident(chances: NDArray[np.float64]) -> float:
            return float(np.maximum(chances, 1 - chances).mean() - ((chances >= 0.5) == truths).mean())

        self.assertLess(over_confident(after), over_confident(before))
