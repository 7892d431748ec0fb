"""What must hold for any input."""

from __future__ import annotations

import random
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from eyot_core.catalogue import catalogue_from
from eyot_core.genetics.cross import cross_answer
from eyot_core.genetics.pairing import pairing_from
from eyot_core.hatchery.luck import at_least_one
from eyot_core.identify.answer import identify
from eyot_core.parsing import Node
from eyot_core.wording.chances import odds, percent

from tests.core.random_documents import random_document

SEEDS = st.integers(min_value=10_000, max_value=99_999)
CHANCES = st.floats(min_value=0, max_value=1)
FEW = settings(max_examples=25)


class Properties(TestCase):
    @FEW
    @given(SEEDS)
    def test_outcomes_sum_to_one(self, seed: int) -> None:
        document = random_document(seed)
        answer = cross_answer(pairing_from(Node(document), catalogue_from(Node(document["catalogue"]))))
        total = sum(row["probability"] for row in answer["outcomes"])
        self.assertTrue(abs(total - 1) < 1e-12 or (not answer["outcomes"] and answer["loss"] == 1))

    @FEW
    @given(SEEDS)
    def test_parents_may_be_swapped_where_no_sex_locus_is_in_play(self, seed: int) -> None:
        document = random_document(seed)
        catalogue = catalogue_from(Node(document["catalogue"]))
        sex_linked = {gene["id"] for gene in document["catalogue"]["genes"] if gene["locus"] == "S"}
        dam, sire = (
            {
                "genes": [entry for entry in animal["genes"] if entry["gene"] not in sex_linked],
                "phase": animal.get("phase", []),
            }
            for animal in (document["dam"], document["sires"][0])
        )
        forth, back = (
            cross_answer(pairing_from(Node({"dam": one, "sires": [other]}), catalogue))
            for one, other in ((dam, sire), (sire, dam))
        )
        chances = [{str(row["genotype"]): row["probability"] for row in answer["outcomes"]} for answer in (forth, back)]
        self.assertEqual(chances[0].keys(), chances[1].keys())
        for genotype, chance in chances[0].items():
            self.assertAlmostEqual(chance, chances[1][genotype], 12)

    @FEW
    @given(SEEDS)
    def test_every_distribution_of_an_answer_sums_to_one(self, seed: int) -> None:
        document = random_document(seed)
        catalogue = catalogue_from(Node(document["catalogue"]))
        if not pairing_from(Node(document), catalogue).can_hatch:
            return
        for row in identify(Node(document), catalogue)["hatchlings"]:
            self.assertAlmostEqual(sum(row["sires"]), 1, 12)
            self.assertAlmostEqual(sum(combo["probability"] for combo in row["combos"]), 1, 12)
            for gene in row["genes"]:
                self.assertAlmostEqual(sum(gene["copies"].values()), 1, 12)
                self.assertAlmostEqual(sum(gene["prior"].values()), 1, 12)

    @FEW
    @given(SEEDS)
    def test_looks_of_no_reliability_change_nothing(self, seed: int) -> None:
        document = random_document(seed)
        for trait in document["catalogue"]["traits"]:
            trait["clarity"] = dict.fromkeys(trait["clarity"], 0)
            for level in trait["levels"]:
                level.pop("mistaken", None)
            if trait.pop("scale", None):  # on a scale even a mistake says what was nearby
                for effect in document["catalogue"]["effects"]:
                    if effect["trait"] == trait["id"] and effect.pop("shift", None):
                        effect.setdefault("push", {})
        catalogue = catalogue_from(Node(document["catalogue"]))
        if not pairing_from(Node(document), catalogue).can_hatch:
            return
        blind = document | {"hatchlings": [row | {"observations": []} for row in document["hatchlings"]]}
        with_looks, without = (identify(Node(d), catalogue)["hatchlings"] for d in (document, blind))
        for one, other in zip(with_looks, without, strict=True):
            for gene, same in zip(one["genes"], other["genes"], strict=True):
                self.assertAlmostEqual(gene["copies"]["1"], same["copies"]["1"], 12)

    @FEW
    @given(SEEDS, st.randoms(use_true_random=False))
    def test_order_of_siblings_does_not_matter(self, seed: int, order: random.Random) -> None:
        document = random_document(seed)
        catalogue = catalogue_from(Node(document["catalogue"]))
        if not pairing_from(Node(document), catalogue).can_hatch:
            return
        shuffled = order.sample(document["hatchlings"], len(document["hatchlings"]))
        forth, back = (
            identify(Node(document | {"hatchlings": rows}), catalogue) for rows in (document["hatchlings"], shuffled)
        )
        by_id = {row["id"]: row for row in back["hatchlings"]}
        for row in forth["hatchlings"]:
            self.assertAlmostEqual(row["female"], by_id[row["id"]]["female"], 10)
            for gene, same in zip(row["genes"], by_id[row["id"]]["genes"], strict=True):
                self.assertAlmostEqual(gene["copies"]["1"], same["copies"]["1"], 10)

    @given(CHANCES, st.integers(0, 60))
    def test_more_eggs_never_lower_the_chance_of_at_least_one(self, chance: float, eggs: int) -> None:
        self.assertGreaterEqual(at_least_one(chance, eggs + 1), at_least_one(chance, eggs))

    @given(CHANCES)
    def test_chances_are_never_shown_as_certain_by_rounding(self, chance: float) -> None:
        if 0 < chance < 1:
            self.assertNotIn(percent(chance), ("0\u00a0%", "100\u00a0%"))
            self.assertNotIn(odds(chance), ("certain", "none"))
