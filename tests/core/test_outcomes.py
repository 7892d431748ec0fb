"""What a pairing can give, how related parents are, and which pairings make a goal: by hand, and against slower ways."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from eyot_core.catalogue import builtin_catalogue
from eyot_core.genetics.animals import parent_from
from eyot_core.genetics.goals import goal_chances
from eyot_core.genetics.kinship import in_circles, kinship, paths
from eyot_core.genetics.makers import chance_on_y
from eyot_core.genetics.pairing import Pairing, pairing_from
from eyot_core.hatchery.outcomes import count_of_outcomes, having, outcomes
from eyot_core.identify.teaching import forecast
from eyot_core.parsing import Node

CATALOGUE = builtin_catalogue()
Entry = dict[str, object]


def gene(name: str, copies: int = 1, **more: object) -> Entry:
    return {"gene": name, "copies": copies, **more}


def paired(dam: list[Entry], *sires: list[Entry]) -> Pairing:
    return pairing_from(Node({"dam": {"genes": dam}, "sires": [{"genes": one} for one in sires]}), CATALOGUE)


class Outcomes(TestCase):
    def test_a_het_pairing_shows_three_quarters_and_a_quarter(self) -> None:
        found = outcomes(paired([gene("piebald")], [gene("piebald")]), 10)
        self.assertEqual([one.genotype for one in found], [{}, {"pie": ["piebald", "piebald"]}])
        self.assertEqual([one.kind.chance for one in found], [0.75, 0.25])
        self.assertEqual(
            [[(g, round(c, 9)) for g, c in one.carried] for one in found], [[("piebald", 0.666666667)], []]
        )

    def test_what_is_certain_to_be_carried_comes_as_certain(self) -> None:
        found = outcomes(paired([gene("piebald", 2)], [gene("hypo")]), 10)
        self.assertEqual([(one.genotype, one.carried) for one in found], [({}, (("piebald", 1.0), ("hypo", 0.5)))])

    def test_at_least_one_knows_that_siblings_share_their_parents(self) -> None:
        pairing = paired([gene("piebald", chance="1/2")], [gene("piebald")])
        visual = outcomes(pairing, 10)[1].kind
        self.assertAlmostEqual(visual.chance, 1 / 8)
        self.assertAlmostEqual(visual.at_least_one(6), 0.5 * (1 - 0.75**6))
        self.assertIsNone(visual.needed(0.51))
        self.assertEqual(visual.needed(0.45), 9)  # 0.5 · (1 − 0.75⁹) = 0.462, with 8: 0.4499

    def test_kinds_agree_with_counting_out_every_genotype(self) -> None:
        pairing = paired(
            [gene("mojave"), gene("piebald", chance="2/3"), gene("cinnamon")],
            [gene("lesser"), gene("piebald"), gene("black_pastel")],
            [gene("banana", on="Y"), gene("hypo")],
        )
        for one in outcomes(pairing, 12):
            cells = one.kind
            slow = forecast(pairing, lambda genotype, want=one.genotype: _shown(genotype) == want, 5)
            self.assertAlmostEqual(cells.chance, slow.each, 12)
            self.assertAlmostEqual(cells.at_least_one(5), slow.at_least_one, 12)
        self.assertAlmostEqual(sum(one.kind.chance for one in outcomes(pairing, 10_000)), 1)
        self.assertEqual(len(outcomes(pairing, 10_000)), count_of_outcomes(pairing))

    def test_having_counts_whatever_else_is_there(self) -> None:
        pairing = paired([gene("pastel"), gene("enchi")], [gene("pastel"), gene("piebald")])
        kind = having(pairing, {"pastel": 1})
        assert kind is not None
        self.assertEqual(kind.chance, 0.75)
        both = having(pairing, {"pastel": 2, "enchi": 1})
        assert both is not None
        self.assertEqual(both.chance, 1 / 8)
        self.assertIsNone(having(pairing, {"clown": 1}))

    def test_lost_eggs_do_not_count_among_hatchlings(self) -> None:
        found = outcomes(paired([gene("spider")], [gene("spider")]), 10)
        self.assertEqual([round(one.kind.chance, 9) for one in found], [0.666666667, 0.333333333])


def _shown(genotype: dict[str, list[str]]) -> dict[str, list[str]]:
    return {
        locus: alleles
        for locus, alleles in genotype.items()
        if len(alleles) == 2 or not CATALOGUE.genes[alleles[0]].is_recessive
    }


class Kinship(TestCase):
    pedigree = {
        "a": ("dam", "sire"),
        "b": ("dam", "sire"),
        "half": ("dam", "other"),
        "cousin": ("b", "stranger"),
        "inbred": ("a", "b"),
        "young": ("inbred", "new"),
    }

    def test_known_values(self) -> None:
        for first, second, value in (
            ("a", "b", 1 / 4),
            ("a", "dam", 1 / 4),
            ("a", "half", 1 / 8),
            ("a", "cousin", 1 / 8),
            ("half", "cousin", 1 / 16),
            ("inbred", "inbred", 5 / 8),
            ("young", "a", 3 / 16),
            ("a", "stranger", 0),
            ("nobody", "dam", 0),
        ):
            with self.subTest(f"{first} and {second}"):
                self.assertEqual(kinship(self.pedigree, first, second), value)
                self.assertEqual(kinship(self.pedigree, second, first), value)

    def test_the_shares_of_all_paths_sum_to_the_kinship(self) -> None:
        """Full siblings over both parents; the young of full siblings, paired with one of them, over many."""
        family = {"a": ("d", "s"), "b": ("d", "s"), "c": ("a", "b"), "e": ("c", "b")}
        self.assertEqual([one.ancestor for one in paths(family, "a", "b")], ["d", "s"])
        for first, second in (("a", "b"), ("c", "b"), ("c", "e"), ("d", "e"), ("d", "s")):
            total = sum(one.share for one in paths(family, first, second))
            self.assertAlmostEqual(total, kinship(family, first, second), places=12)

    def test_who_would_be_its_own_ancestor_is_found(self) -> None:
        family = {"a": ("b", None), "b": ("c", None), "c": ("a", "d"), "e": ("a", "f"), "x": ("x", None)}
        self.assertEqual(in_circles(family), {"a", "b", "c", "x"})


class Goals(TestCase):
    def test_the_table_agrees_with_each_pairing_by_itself(self) -> None:
        dams = [[gene("mojave"), gene("piebald")], [gene("lesser"), gene("banana")], [gene("pastel", 2)], []]
        sires = [[gene("mojave", chance="1/2"), gene("piebald", 2)], [gene("banana", on="Y"), gene("pastel")]]
        for wanted in (
            {"mojave": 1},
            {"mojave": 2},
            {"mojave": 1, "lesser": 1},
            {"banana": 1, "pastel": 1},
            {"piebald": 2},
        ):
            table = goal_chances(
                CATALOGUE,
                [parent_from(Node({"genes": one}), CATALOGUE, is_sire=False) for one in dams],
                [parent_from(Node({"genes": one}), CATALOGUE, is_sire=True) for one in sires],
                wanted,
            )
            for (d, dam), (s, sire) in ((a, b) for a in enumerate(dams) for b in enumerate(sires)):
                with self.subTest(f"{wanted}, dam {d}, sire {s}"):
                    kind = having(paired(dam, sire), wanted)
                    self.assertAlmostEqual(float(table[d, s]), kind.chance if kind else 0.0, 12)

    def test_three_alleles_at_one_locus_can_not_come(self) -> None:
        parents = [parent_from(Node({"genes": [gene("mojave"), gene("lesser")]}), CATALOGUE, is_sire=False)]
        found = goal_chances(CATALOGUE, parents, parents, {"mojave": 1, "lesser": 1, "butter": 1})
        self.assertTrue(np.array_equal(found, [[0.0]]))


class Makers(TestCase):
    def chance(self, dam: list[Entry], sire: list[Entry]) -> float | None:
        return chance_on_y(
            CATALOGUE,
            "banana",
            parent_from(Node({"genes": dam}), CATALOGUE, is_sire=False),
            parent_from(Node({"genes": sire}), CATALOGUE, is_sire=True),
        )

    def test_from_the_sire_it_lies_on_the_y_from_the_dam_on_the_x(self) -> None:
        self.assertEqual(self.chance([], [gene("banana", on="Y")]), 1)
        self.assertEqual(self.chance([gene("banana")], []), 0)
        self.assertIsNone(self.chance([gene("pastel")], []))

    def test_a_female_maker_sire_gives_a_son_his_x_only_by_recombination(self) -> None:
        rate = CATALOGUE.loci["ban"].recombination
        self.assertEqual(self.chance([], [gene("banana", on="X")]), 1)
        both = self.chance([gene("banana")], [gene("banana", on="X")])
        assert both is not None
        self.assertAlmostEqual(both, rate * 0.5 / (rate * 0.5 + 0.5 * (1 - rate)))
