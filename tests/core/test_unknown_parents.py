"""Animals of unknown parents: against the twin where all can be searched, and the proven bound where not."""

from __future__ import annotations

import random
from typing import Any
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from eyot_core.catalogue import builtin_catalogue, catalogue_from
from eyot_core.catalogue.model import GeneLoad
from eyot_core.errors import InputError
from eyot_core.genetics.population import population
from eyot_core.identify import estimation, search, unknown_parents
from eyot_core.identify.answer import identify
from eyot_core.identify.evidence import Hatchling, Observation, hatchlings_from
from eyot_core.identify.unknown_parents import OpenIdentification
from eyot_core.parsing import Node

from tests.core.pairings import animal, catalogue_of, gene, hatchling, identified, look
from tests.core.random_documents import random_catalogue, random_hatchling, tied_document
from tests.core.reference_implementation import Twin
from tests.core.test_against_reference import key

PLACES = 9
MOJAVE = (Observation("lobe_attach", "floating", "shed"), Observation("head_stamp", "washed_out", "shed"))


def answered(document: dict[str, Any]) -> dict[str, Any]:
    return identify(Node(document), catalogue_from(Node(document["catalogue"])))


def open_document(seed: int) -> dict[str, Any]:
    r = random.Random(seed)
    catalogue = random_catalogue(r)
    for entry in catalogue["genes"]:
        if r.random() < 0.7:
            entry["frequency"] = r.choice([0, 0.02, 0.2])
    one = random_hatchling(r, catalogue, "1", 1)
    one.pop("sire", None)
    options: dict[str, Any] = {"top": 10_000} | ({"look_stage": "shed"} if r.random() < 0.3 else {})
    if r.random() < 0.6:
        where = options if r.random() < 0.7 else catalogue
        where["population"] = [{"weight": r.choice([1, 0.3]), "times": r.choice([0, 0.2, 1, 2])} for _ in range(3)]
    return {"catalogue": catalogue, "dam": None, "sires": [], "hatchlings": [one], "options": options}


class AgainstTwin(TestCase):
    def test_open_identification_agrees(self) -> None:
        for seed in range(60):
            document = open_document(seed)
            with self.subTest(seed=seed):
                twin = Twin(document["catalogue"])
                wanted = twin.identify_open(document["hatchlings"][0], document["options"])
                got = answered(document)
                one = got["hatchlings"][0]
                self.assertEqual(one["missed"], 0)
                self.assertEqual(one.get("contradiction", False), "contradiction" in wanted)
                if "contradiction" in wanted:
                    self.assertIsNone(one["log_evidence"])
                    self.assertNotIn("odd", one)
                    continue
                self.assertNotIn("parents", got)
                self.assertFalse({"sires", "unlisted"} & one.keys())
                self.assertAlmostEqual(one["log_evidence"], wanted["log_evidence"], PLACES)
                self.assertAlmostEqual(got["log_evidence"], wanted["log_evidence"], PLACES)
                named = {key(row["genotype"]): row["probability"] for row in one["combos"]}
                for genotype, chance in wanted["genotypes"].items():
                    self.assertAlmostEqual(named.get(key(twin.named(genotype)), 0.0), chance, PLACES)
                for row in one["genes"]:
                    self.assertNotIn("prior", row)
                    for count in range(3):
                        self.assertAlmostEqual(row["copies"][str(count)], wanted["genes"][row["gene"]][count], PLACES)
                for row in one["looks"]:
                    self.assertAlmostEqual(row["gain"], wanted["looks"][row["trait"]], PLACES)
                self.assertEqual({row["trait"] for row in one["odd"]}, set(wanted["odd"]))
                for row in one["odd"]:
                    self.assertAlmostEqual(row["expected"], wanted["odd"][row["trait"]], PLACES)

    def test_a_search_that_gives_up_misses_no_more_than_it_says(self) -> None:
        """The same documents searched with a handful of prefixes: bounds hold, and proven combinations are the best."""
        tight = 0
        for seed in range(60):
            document = open_document(seed)
            with self.subTest(seed=seed):
                whole = answered(document)["hatchlings"][0]
                best = [row["probability"] for row in whole["combos"]]
                log_all = whole["log_evidence"]
                if log_all is None:
                    continue
                with patch.multiple(search, ALL_OF=0, FOLLOWED=12, FEWEST=12, GOOD_ENOUGH=1.0):
                    part = answered(document)["hatchlings"][0]
                found_mass = 0.0 if part["log_evidence"] is None else np.exp(part["log_evidence"] - log_all)
                true_missed = 1 - found_mass
                self.assertLessEqual(true_missed, part["missed"] + 1e-9)
                found = {key(row["genotype"]): row["probability"] for row in whole["combos"]}
                for place, row in enumerate(part["combos"][: part.get("proven_combos", 10_000)]):
                    self.assertAlmostEqual(found[key(row["genotype"])], best[place], PLACES)
                tight += part["missed"] < 0.5
        self.assertGreater(tight, 20)


class Population(TestCase):
    def test_hardy_weinberg_by_hand(self) -> None:
        found = population(catalogue_of([gene("a", "A", frequency=0.1), gene("b", "A", frequency=0.2)])).loci[0]
        chances = dict(zip(found.genotypes, found.chances[0], strict=True))
        wanted = {(): 0.49, ("a",): 0.14, ("b",): 0.28, ("a", "a"): 0.01, ("a", "b"): 0.04, ("b", "b"): 0.04}
        self.assertEqual(chances.keys(), wanted.keys())
        for genotype, chance in wanted.items():
            self.assertAlmostEqual(float(chances[genotype]), chance, 12)

    def test_the_dead_are_not_counted(self) -> None:
        found = population(catalogue_of([gene("a", "A", frequency=0.5, viability={"2": 0})])).loci[0]
        self.assertEqual(found.genotypes, ((), ("a",)))
        self.assertAlmostEqual(float(found.chances[0, 1]), 2 / 3, 12)

    def test_gene_load_ties_loci_together_by_hand(self) -> None:
        """Half of all animals carry nothing: who carries one gene is likelier to carry the other."""
        catalogue = catalogue_of([gene("a", "A", frequency=0.25), gene("b", "B", frequency=0.25)])
        loads = [{"weight": 1, "times": 0}, {"weight": 1, "times": 2}]
        answer = identified(None, [], [hatchling("1")], catalogue, population=loads, top=9)
        found = {key(row["genotype"]): row["probability"] for row in answer["hatchlings"][0]["combos"]}
        self.assertAlmostEqual(found[key({"A": ["a"]})], 0.5 * 0.5 * 0.25, 12)
        self.assertAlmostEqual(found[key({"A": ["a"], "B": ["b", "b"]})], 0.5 * 0.5 * 0.25, 12)
        self.assertAlmostEqual(found[()], 0.5 + 0.5 / 16, 12)
        self.assertAlmostEqual(answer["hatchlings"][0]["genes"][0]["copies"]["0"], 0.5 + 0.5 / 4, 12)

    def test_a_load_under_which_few_live_weighs_less(self) -> None:
        """Half of the animals of the heavy load die, a quarter of a quarter of the light one does."""
        found = population(
            catalogue_of([gene("a", "A", frequency=0.25, viability={"1": 0, "2": 1})]), (GeneLoad(1, 0), GeneLoad(1, 2))
        )
        self.assertEqual([round(float(weight), 12) for weight in found.weights], [round(2 / 3, 12), round(1 / 3, 12)])

    def test_wrong_populations_are_refused_with_their_place(self) -> None:
        catalogue = catalogue_of([gene("a", "A", frequency=0.7)])
        for population_, at in (
            ([], "options.population"),
            ([{"weight": 0, "times": 1}], "options.population"),
            ([{"weight": 1}], "options.population[0].times"),
            ([{"weight": -1, "times": 1}], "options.population[0].weight"),
        ):
            with self.assertRaises(InputError) as caught:
                identified(None, [], [hatchling("1")], catalogue, population=population_)
            self.assertEqual(caught.exception.at, at)
        with self.assertRaisesRegex(InputError, "sum to 1.4"):
            identified(None, [], [hatchling("1")], catalogue, population=[{"weight": 1, "times": 2}])
        with self.assertRaisesRegex(InputError, "the parents are known"):
            identified(animal(), [animal()], [hatchling("1")], catalogue, population=[{"weight": 1, "times": 1}])

    def test_frequencies_above_one_are_refused(self) -> None:
        with self.assertRaisesRegex(InputError, "sum to 1.4"):
            population(catalogue_of([gene("a", "A", frequency=0.7), gene("b", "A", frequency=0.7)]))

    def test_a_locus_at_which_nothing_lives_is_refused(self) -> None:
        with self.assertRaisesRegex(InputError, "no animal could live"):
            population(catalogue_of([gene("a", "A", frequency=1, viability={"2": 0})]))


class Estimated(TestCase):
    """Where rules tie everything together: against the same documents gone through whole."""

    def chances(self, one: OpenIdentification) -> np.ndarray:
        return np.array([[*one.copies(gene).values()] for gene in one.catalogue.genes])

    def both(self, seed: int, **options: Any) -> tuple[OpenIdentification, OpenIdentification]:
        """An animal searched whole, and with so little kept that draws have to find much of it."""
        document = tied_document(seed, 12, loci=9, genes=13, traits=14, most=8)
        catalogue = catalogue_from(Node(document["catalogue"] | options))
        [animal_] = hatchlings_from(Node(document["hatchlings"]), catalogue, 0)
        with patch.object(search, "ALL_OF", 10_000_000):
            whole = OpenIdentification.of(catalogue, animal_)
        with (
            patch.multiple(search, ALL_OF=0, GOOD_ENOUGH=0.0, FOLLOWED=1_000),
            patch.multiple(estimation, MOST_KEPT=25, FOLLOWED=25),
        ):
            estimated_ = OpenIdentification.of(catalogue, animal_)
        self.assertEqual((whole.missed, whole.is_estimated, estimated_.is_estimated), (0, False, True))
        return whole, estimated_

    def test_chances_and_evidence_are_those_of_all_genotypes(self) -> None:
        for seed in range(8):
            with self.subTest(seed=seed):
                whole, estimated_ = self.both(seed)
                off = np.abs(self.chances(whole) - self.chances(estimated_)).max()
                self.assertTrue(0.00002 < estimated_.standard_error < 0.005, estimated_.standard_error)
                self.assertLess(off, 4 * estimated_.standard_error)
                self.assertAlmostEqual(estimated_.log_evidence, whole.log_evidence, delta=0.03)
                self.assertEqual(estimated_.combos(1)[0][0], whole.combos(1)[0][0])
                for (_, chance), (_, true) in zip(estimated_.combos(5), whole.combos(5), strict=True):
                    self.assertAlmostEqual(chance, true, delta=0.04 * true)

    def test_what_is_missed_is_what_lies_outside_of_what_was_found(self) -> None:
        whole, estimated_ = self.both(11)
        found = float(np.exp(np.log(estimated_.parts[0].found[0]) - whole.log_evidence))
        self.assertAlmostEqual(estimated_.missed, 1 - found, delta=0.02)
        self.assertGreater(estimated_.missed, 0.03, "else there was nothing to estimate")

    def test_gene_loads_are_weighed_as_they_are(self) -> None:
        loads = [{"weight": 0.5, "times": 0.2}, {"weight": 0.5, "times": 3}]
        whole, estimated_ = self.both(3, population=loads)
        self.assertTrue(np.allclose(estimated_.loads, whole.loads, atol=0.03), (estimated_.loads, whole.loads))
        self.assertGreater(abs(float(whole.loads[0]) - 0.5), 0.1, "else any answer would do")
        self.assertLess(np.abs(self.chances(whole) - self.chances(estimated_)).max(), 0.02)

    def test_what_a_look_would_tell_and_what_is_odd(self) -> None:
        whole, estimated_ = self.both(13)
        true = {look_.trait: look_.gain for look_ in whole.looks("adult")}
        self.assertGreater(max(true.values()), 0.05)
        for look_ in estimated_.looks("adult"):
            self.assertAlmostEqual(look_.gain, true[look_.trait], delta=0.02)
        with patch.multiple(unknown_parents, ALL_CASES=1):
            for look_ in whole.looks("adult"):
                self.assertAlmostEqual(look_.gain, true[look_.trait], delta=0.02)
        with patch.object(unknown_parents, "ODD_BELOW", 0.7):
            odd, found = ({row.trait: row.expected for row in one.surprises()} for one in (whole, estimated_))
        self.assertGreater(len(odd), 2)
        for trait in odd.keys() & found.keys():
            self.assertAlmostEqual(found[trait], odd[trait], delta=0.1 * odd[trait])
        self.assertGreaterEqual(len(odd.keys() & found.keys()), len(odd) - 1)

    def test_sixty_loci_with_fourteen_looks_tied_by_up_to_fifteen(self) -> None:
        document = tied_document(4, 14)
        answer = answered(document)
        [one] = answer["hatchlings"]
        self.assertTrue(0 < one["missed"] < 0.5)
        self.assertTrue(0 < one["estimated"]["standard_error"] < 0.01)
        self.assertFalse({"proven_combos", "bound_is_useful"} & one.keys())
        self.assertEqual(len({key(row["genotype"]) for row in one["combos"]}), 20)
        self.assertEqual(answered(document), answer, "the same again, whoever asks")
        with patch.multiple(estimation, SEED=5, DRAWN=40_960, MOST_KEPT=40_000, FOLLOWED=200):
            [other] = answered(document)["hatchlings"]
        for row, true in zip(one["genes"], other["genes"], strict=True):
            self.assertAlmostEqual(row["copies"]["0"], true["copies"]["0"], delta=0.02)
        self.assertLess(other["missed"], one["missed"])

    def test_with_many_animals_at_once_less_is_done_for_each_and_said(self) -> None:
        document = tied_document(4, 14)
        alone = answered(document)["hatchlings"][0]["estimated"]["standard_error"]
        document["hatchlings"] = [document["hatchlings"][0] | {"id": str(number)} for number in range(3)]
        document["options"]["top"] = 1
        many = answered(document)["hatchlings"]
        self.assertTrue(all(one["estimated"]["standard_error"] > alone for one in many))


class BuiltIn(TestCase):
    def test_the_best_combination_and_how_surely(self) -> None:
        one = OpenIdentification.of(builtin_catalogue(), Hatchling("1", MOJAVE))
        self.assertEqual(one.combos(1)[0][0], {"bel": ["mojave"]})
        self.assertTrue(0 < one.missed < 0.6)
        self.assertLess(one.standard_error, 0.01)
        self.assertGreater(one.copies("mojave")["1"], 0.25)

    def test_red_eyes_without_any_black_are_an_albinos(self) -> None:
        looks = [look("eye_color", "red", stage="adult"), look("dark_pigment", "absent", stage="adult")]
        [one] = identified(None, [], [hatchling("1", *looks)])["hatchlings"]  # type: ignore[arg-type]
        none = next(row["copies"]["0"] for row in one["genes"] if row["gene"] == "albino")
        self.assertLess(none, 0.02)
        self.assertEqual(one["combos"][0]["genotype"], {"tyr": ["albino", "albino"]})

    def test_looks_at_nothing_leave_the_frequencies(self) -> None:
        one = OpenIdentification.of(builtin_catalogue(), Hatchling("1"))
        loads = builtin_catalogue().population
        living = population(builtin_catalogue()).weights
        wanted = sum(
            float(weight) * 2 * 0.01 * load.times * (1 - 0.01 * load.times)
            for load, weight in zip(loads, living, strict=True)
        )
        self.assertAlmostEqual(one.copies("pastel")["1"], wanted, 12)
        self.assertAlmostEqual(wanted, 0.0551, 4)

    def test_a_bound_that_is_of_no_use_says_so(self) -> None:
        with patch.multiple(search, FOLLOWED=3, FEWEST=3, GOOD_ENOUGH=1.0):
            answer = identified(None, [], [hatchling("1", look("lobe_attach", "floating"))])  # type: ignore[arg-type]
        self.assertFalse(answer["hatchlings"][0]["bound_is_useful"])
        self.assertGreater(answer["hatchlings"][0]["missed"], 0.05)


class ManyAlleles(TestCase):
    def test_a_locus_of_twenty_genes_keeps_all_its_states_apart(self) -> None:
        """231 genotypes at one locus and a look that tells each gene; without an answer the copies are those of Hardy and Weinberg."""
        names = [f"g{number}" for number in range(20)]
        document = catalogue_of([gene(name, "A", frequency=0.02) for name in names]).document
        levels = [{"id": "none", "base": 6.0}, *({"id": name} for name in names)]
        clear = dict.fromkeys(("egg", "wet", "blue", "shed", "months", "adult"), 1)
        effects = [{"when": [{"gene": n, "copies": [1, 2]}], "trait": "which", "push": {n: 12.0}} for n in names]
        trait = {"id": "which", "region": "flank", "levels": levels, "clarity": clear}
        catalogue = catalogue_from(Node(document | {"traits": [trait], "effects": effects}))
        answer = identified(None, [], [hatchling("1", look("which", "g19"))], catalogue)["hatchlings"][0]
        chances = {row["gene"]: row["copies"] for row in answer["genes"]}
        self.assertGreater(chances["g19"]["1"] + chances["g19"]["2"], 0.9)
        self.assertAlmostEqual(chances["g3"]["1"], chances["g7"]["1"], 12)
        unseen = identified(None, [], [hatchling("1")], catalogue)["hatchlings"][0]
        for row in unseen["genes"]:
            self.assertAlmostEqual(row["copies"]["1"], 2 * 0.02 * 0.98, 12)


class BadInput(TestCase):
    def test_a_known_sire_is_refused(self) -> None:
        with self.assertRaises(InputError) as caught:
            identified(None, [], [hatchling("1", sire=0)])  # type: ignore[arg-type]
        self.assertEqual(caught.exception.at, "hatchlings[0].sire")

    def test_a_dam_alone_is_refused(self) -> None:
        with self.assertRaises(InputError) as caught:
            identified(animal(), [], [])
        self.assertEqual(caught.exception.at, "sires")
