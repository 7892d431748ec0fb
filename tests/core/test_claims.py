"""Claims of animals whose clutch nobody has seen, one known parent, and what combinations show: against small cases summed by hand."""

from __future__ import annotations

from itertools import product
from typing import Any
from unittest import TestCase

import numpy as np

from eyot_core.catalogue import builtin_catalogue
from eyot_core.catalogue.model import Catalogue, GeneLoad
from eyot_core.genetics.animals import parent_from
from eyot_core.genetics.population import Population, population
from eyot_core.genetics.shown import shown_at
from eyot_core.identify.claims import Claim, claimed, open_cues, share_of, standings
from eyot_core.identify.evidence import CONFIDENCE, Hatchling, Observation, answering
from eyot_core.identify.traits import chances_of_look
from eyot_core.identify.unknown_parents import OpenIdentification
from eyot_core.parsing import Node
from eyot_core.wording.label import Called, by_gene, parts_alone
from eyot_core.wording.names import Naming

from tests.core.pairings import animal, catalogue_of, gene, trait

LOADS = (GeneLoad(0.6, 0.5), GeneLoad(0.4, 3.0))
TRUST = 0.8


def effect(name: str, copies: list[int], look: str, **push: float) -> dict[str, Any]:
    return {"when": [{"gene": name, "copies": copies}], "trait": look, "push": push}


def small() -> Catalogue:
    """Two complexes of two alleles and a recessive, three looks that tie them."""
    return catalogue_of(
        [
            gene("mojave", "bel", frequency=0.05),
            gene("lesser", "bel", frequency=0.04),
            gene("pastel", "pas", frequency=0.06),
            gene("clown", "cln", "recessive", frequency=0.1),
        ],
        traits=[trait("lobes", "attached", "floating"), trait("light", "plain", "pale"), trait("stripe", "no", "yes")],
        effects=[
            effect("mojave", [1, 2], "lobes", floating=2.5),
            effect("lesser", [1, 2], "lobes", floating=0.7),
            effect("lesser", [1, 2], "light", pale=1.2),
            effect("pastel", [1, 2], "light", pale=1.8),
            effect("clown", [2], "stripe", yes=4.0),
        ],
    )


def by_hand(
    catalogue: Catalogue, among: Population, looks: tuple[Observation, ...]
) -> list[tuple[dict[str, tuple[str, ...]], float]]:
    """Every genotype with its posterior chance: the mixture over gene loads, look by look."""
    rows = []
    for states in product(*(range(len(one.genotypes)) for one in among.loci)):
        genotype = {one.locus: one.genotypes[at] for one, at in zip(among.loci, states, strict=True)}
        prior = sum(
            float(weight) * float(np.prod([one.chances[load, at] for one, at in zip(among.loci, states, strict=True)]))
            for load, weight in enumerate(among.weights)
        )
        for look in looks:
            one = catalogue.traits[look.trait]
            shown = chances_of_look(
                catalogue, look.trait, {name: list(alleles) for name, alleles in genotype.items() if alleles}, ("shed",)
            )[0]
            channel = answering(one, one.clarity["shed"] * CONFIDENCE[look.confidence])
            prior *= float(shown @ channel[:, one.level_index[look.level]])
        rows.append((genotype, prior))
    total = sum(chance for _, chance in rows)
    return [(genotype, chance / total) for genotype, chance in rows]


class Claims(TestCase):
    def setUp(self) -> None:
        self.catalogue = small()
        self.plain = population(self.catalogue, LOADS)
        self.claims = (Claim("pastel", 1), Claim("mojave", 1, 0.5), Claim("clown", 1))
        self.believed = claimed(self.plain, self.catalogue, self.claims, TRUST)
        self.looks = (Observation("lobes", "floating", "shed"), Observation("light", "plain", "shed"))
        self.one = OpenIdentification.of(self.catalogue, Hatchling("1", self.looks), self.believed)

    def test_a_claim_is_as_likely_as_its_trust_and_the_population_make_it(self) -> None:
        for claim in self.claims:
            locus = self.catalogue.genes[claim.gene].locus
            for load in range(2):
                plain, believed = (
                    next(one for one in among.loci if one.locus == locus) for among in (self.plain, self.believed)
                )
                holds = [genotype.count(claim.gene) >= claim.copies for genotype in plain.genotypes]
                share = float(plain.chances[load] @ holds)
                self.assertAlmostEqual(
                    float(believed.chances[load] @ holds), TRUST * claim.chance + (1 - TRUST) * share
                )
                self.assertAlmostEqual(float(believed.chances[load].sum()), 1)

    def test_the_rest_of_a_locus_keeps_its_proportions(self) -> None:
        plain, believed = (
            next(one for one in among.loci if one.locus == "bel") for among in (self.plain, self.believed)
        )
        at = {genotype: place for place, genotype in enumerate(plain.genotypes)}
        for first, second in ((("mojave",), ("mojave", "mojave")), ((), ("lesser",))):
            before = plain.chances[0, at[first]] / plain.chances[0, at[second]]
            self.assertAlmostEqual(believed.chances[0, at[first]] / believed.chances[0, at[second]], before)

    def test_two_alleles_of_one_complex_are_one_claim(self) -> None:
        both = (Claim("mojave", 1), Claim("lesser", 1))
        among = claimed(self.plain, self.catalogue, both, TRUST)
        bel = next(one for one in among.loci if one.locus == "bel")
        share = next(one for one in self.plain.loci if one.locus == "bel").chances
        at = bel.genotypes.index(("lesser", "mojave"))
        for load in range(2):
            self.assertAlmostEqual(float(bel.chances[load, at]), TRUST + (1 - TRUST) * float(share[load, at]))

    def test_without_trust_nothing_is_claimed(self) -> None:
        among = claimed(self.plain, self.catalogue, self.claims, 0.0)
        for one, other in zip(among.loci, self.plain.loci, strict=True):
            np.testing.assert_allclose(one.chances, other.chances)

    def test_standings_are_those_of_all_genotypes_gone_through(self) -> None:
        rows = by_hand(self.catalogue, self.believed, self.looks)
        for standing in standings(self.one, self.plain, self.believed, self.claims):
            claim = standing.claim
            locus = self.catalogue.genes[claim.gene].locus
            after = sum(chance for genotype, chance in rows if genotype[locus].count(claim.gene) >= claim.copies)
            self.assertAlmostEqual(standing.after, after)
            self.assertAlmostEqual(standing.stated, share_of(self.believed, self.catalogue, claim))
            self.assertAlmostEqual(standing.among_all, share_of(self.plain, self.catalogue, claim))
            odds = after / (1 - after) / (standing.stated / (1 - standing.stated))
            self.assertAlmostEqual(standing.factor, odds)
        self.assertEqual(
            [row.factor > 1 for row in standings(self.one, self.plain, self.believed, self.claims)][:2], [False, True]
        )

    def test_a_cue_is_the_ratio_beside_the_leading_combination(self) -> None:
        leading = self.one.combos(1)[0][0]
        (cue,) = open_cues(self.one, "pastel", 1)
        self.assertEqual((cue.trait, cue.stage), ("light", "shed"))
        having = {**leading, "pas": ["pastel"]}
        without = {locus: alleles for locus, alleles in leading.items() if locus != "pas"}
        one = self.catalogue.traits["light"]
        channel = answering(one, one.clarity["shed"] * CONFIDENCE["sure"])[:, one.level_index["plain"]]
        ratio = [
            float(chances_of_look(self.catalogue, "light", own, ("shed",))[0] @ channel) for own in (having, without)
        ]
        self.assertAlmostEqual(cue.factor, ratio[0] / ratio[1])

    def test_where_a_locus_is_full_there_is_no_cue(self) -> None:
        sure = claimed(self.plain, self.catalogue, (Claim("mojave", 2),), 0.99)
        one = OpenIdentification.of(self.catalogue, Hatchling("1", self.looks), sure)
        self.assertEqual(one.combos(1)[0][0]["bel"], ["mojave", "mojave"])
        self.assertEqual(open_cues(one, "lesser", 1), [])

    def test_a_look_settles_what_going_through_all_says(self) -> None:
        rows = by_hand(self.catalogue, self.believed, self.looks)
        stripe = self.catalogue.traits["stripe"]
        channel = answering(stripe, stripe.clarity["shed"] * CONFIDENCE["sure"])
        joint = np.zeros((2, 2))
        for genotype, chance in rows:
            named = {name: list(alleles) for name, alleles in genotype.items() if alleles}
            answers = chances_of_look(self.catalogue, "stripe", named, ("shed",))[0] @ channel
            joint[int(genotype["cln"].count("clown") == 2)] += chance * answers
        settling = self.one.settling("stripe", "shed", ["clown", "pastel"])
        assert settling is not None
        self.assertEqual(settling.gene, "clown")
        self.assertAlmostEqual(settling.before, float(joint[1].sum()))
        after = joint / joint.sum(axis=0)
        self.assertAlmostEqual(settling.chance, float(joint.sum(axis=0)[after.max(axis=0) >= 0.95].sum()))
        self.assertIsNone(self.one.settling("stripe", "shed", ["pastel"]))

    def test_what_shows_is_summed_over_what_is_carried(self) -> None:
        shown: dict[tuple[tuple[str, ...], ...], float] = {}
        for genotype, chance in by_hand(self.catalogue, self.believed, self.looks):
            key = tuple(shown_at(genotype[one.locus], self.catalogue) for one in self.plain.loci)
            shown[key] = shown.get(key, 0.0) + chance
        best = sorted(shown.values(), reverse=True)
        combos = self.one.shown_combos(3)
        self.assertNotIn(["clown"], [alleles for genotype, _ in combos for alleles in genotype.values()])
        for (_, chance), wanted in zip(combos, best[:3], strict=True):
            self.assertAlmostEqual(chance, wanted, delta=0.01)


class OneKnownParent(TestCase):
    def test_one_allele_comes_from_it_and_one_from_the_population(self) -> None:
        catalogue = small()
        parent = parent_from(Node(animal("mojave", "clown*2")), catalogue, is_sire=False)
        one = population(catalogue, (GeneLoad(1.0, 1.0),), parent)
        bel = next(states for states in one.loci if states.locus == "bel")
        wild = 1 - 0.05 - 0.04
        wanted = {
            (): 0.5 * wild,
            ("mojave",): 0.5 * wild + 0.5 * 0.05,
            ("lesser",): 0.5 * 0.04,
            ("mojave", "mojave"): 0.5 * 0.05,
            ("lesser", "mojave"): 0.5 * 0.04,
        }
        for genotype, chance in zip(bel.genotypes, bel.chances[0], strict=True):
            self.assertAlmostEqual(float(chance), wanted[genotype], msg=str(genotype))
        self.assertAlmostEqual(share_of(one, catalogue, Claim("clown", 1)), 1)
        self.assertAlmostEqual(share_of(one, catalogue, Claim("clown", 2)), 0.1)

    def test_a_sires_gene_on_his_y_goes_to_half_of_his_young(self) -> None:
        catalogue = builtin_catalogue()
        sire = parent_from(Node(animal({"gene": "banana", "copies": 1, "on": "Y"}, weight=1)), catalogue, is_sire=True)
        one, plain = population(catalogue, parent=sire), population(catalogue)
        frequency = share_of(plain, catalogue, Claim("banana", 1))
        share = share_of(one, catalogue, Claim("banana", 1))
        self.assertGreater(share, 0.5)
        self.assertLess(share, 0.5 + frequency)

    def test_without_a_parent_it_is_the_population(self) -> None:
        catalogue = builtin_catalogue()
        normal = parent_from(Node({"genes": []}), catalogue, is_sire=False)
        one, plain = population(catalogue, parent=normal), population(catalogue)
        self.assertLess(share_of(one, catalogue, Claim("pastel", 1)), share_of(plain, catalogue, Claim("pastel", 1)))
        self.assertEqual(share_of(one, catalogue, Claim("clown", 2)), 0)


class LabelsAlone(TestCase):
    def test_only_what_is_called_stands_on_it(self) -> None:
        catalogue = builtin_catalogue()
        call = [
            Called("pastel", "sure", 2),
            Called("enchi", "likely"),
            Called("fire", "possible"),
            Called("spider", "possible"),
            Called("clown", "sure", 1),
            Called("albino", "not", 2),
        ]
        parts = parts_alone(catalogue, call, {"fire": 0.5, "spider": 0.04})
        self.assertEqual(by_gene(parts, Naming(catalogue)), "Super pastel, likely Enchi, possible Fire, het Clown")
