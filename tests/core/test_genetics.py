"""Crosses against textbook values and the worked pairings of the field's reference."""

from __future__ import annotations

from unittest import TestCase

from eyot_core.errors import InputError
from eyot_core.genetics.cross import cross_answer, outcomes_of
from eyot_core.genetics.square import square

from tests.core.pairings import animal, catalogue_of, gene, pairing, shares

TYR = catalogue_of(
    [gene("albino", "tyr", "recessive"), gene("clown", "cln", "recessive"), gene("cryptic", "cln", "recessive")]
)
TWO = catalogue_of(
    [gene("a", "A"), gene("b", "B")],
    linkage=[{"loci": ["A", "B"], "recombination": 0.1}],
)
BANANA = catalogue_of([gene("banana", "bng")], [{"id": "bng", "location": "sex", "recombination": 0.06}])


class Textbook(TestCase):
    def same(self, got: dict[str, float], wanted: dict[str, float]) -> None:
        self.assertEqual(got.keys(), wanted.keys())
        for name, chance in wanted.items():
            self.assertAlmostEqual(got[name], chance, 12, name)

    def test_pastel_by_pastel(self) -> None:
        found = shares(pairing(animal("pastel"), animal("pastel")))
        self.same(found, {"": 1 / 4, "pastel": 1 / 2, "pastel pastel": 1 / 4})

    def test_double_het_gives_nine_three_three_one(self) -> None:
        found = shares(pairing(animal("albino", "clown"), animal("albino", "clown"), catalogue=TYR))
        visual = {name: ("albino albino" in name, "clown clown" in name) for name in found}
        count = {kind: sum(found[name] for name in found if visual[name] == kind) for kind in set(visual.values())}
        self.assertAlmostEqual(count[True, True], 1 / 16, 12)
        self.assertAlmostEqual(count[True, False], 3 / 16, 12)
        self.assertAlmostEqual(count[False, True], 3 / 16, 12)
        self.assertAlmostEqual(count[False, False], 9 / 16, 12)
        carriers = sum(found[n] for n in found if visual[n] == (False, False) and "clown" in n)
        self.assertAlmostEqual(carriers / count[False, False], 2 / 3, 12)

    def test_het_by_wild_type_is_half_het(self) -> None:
        self.same(shares(pairing(animal("clown"), animal(), catalogue=TYR)), {"": 1 / 2, "clown": 1 / 2})

    def test_het_by_het_leaves_two_of_three_possible(self) -> None:
        found = shares(pairing(animal("clown"), animal("clown"), catalogue=TYR))
        self.same(found, {"": 1 / 4, "clown": 1 / 2, "clown clown": 1 / 4})
        self.assertAlmostEqual(found["clown"] / (1 - found["clown clown"]), 2 / 3, 12)

    def test_visual_by_het_leaves_certain_hets(self) -> None:
        found = shares(pairing(animal("clown*2"), animal("clown"), catalogue=TYR))
        self.same(found, {"clown": 1 / 2, "clown clown": 1 / 2})

    def test_two_visuals_of_different_loci_give_double_hets(self) -> None:
        found = shares(pairing(animal("albino*2"), animal("clown*2"), catalogue=TYR))
        self.same(found, {"albino clown": 1})

    def test_possible_het_parent_is_weighed(self) -> None:
        found = shares(pairing(animal("clown?2/3"), animal("clown"), catalogue=TYR))
        self.same(found, {"": 1 / 3, "clown": 1 / 2, "clown clown": 1 / 6})

    def test_cross_of_one_complex_gives_no_wild_type(self) -> None:
        found = shares(pairing(animal("fire", "vanilla"), animal()))
        self.same(found, {"fire": 1 / 2, "vanilla": 1 / 2})

    def test_freeway_by_yellow_belly(self) -> None:
        yb = catalogue_of([gene("yellow_belly", "yb"), gene("asphalt", "yb")])
        found = shares(pairing(animal("yellow_belly", "asphalt"), animal("yellow_belly"), catalogue=yb))
        wanted = ["yellow_belly yellow_belly", "asphalt yellow_belly", "yellow_belly", "asphalt"]
        self.same(found, dict.fromkeys(wanted, 1 / 4))

    def test_lesser_by_mojave_shares_one_locus(self) -> None:
        bel = catalogue_of([gene("lesser", "bel"), gene("mojave", "bel")])
        found = shares(pairing(animal("lesser"), animal("mojave"), catalogue=bel))
        self.same(found, {"": 1 / 4, "lesser": 1 / 4, "mojave": 1 / 4, "lesser mojave": 1 / 4})

    def test_clown_by_cryptic_are_all_crosses(self) -> None:
        self.same(shares(pairing(animal("clown*2"), animal("cryptic*2"), catalogue=TYR)), {"clown cryptic": 1})

    def test_het_clown_by_visual_cryptic(self) -> None:
        found = shares(pairing(animal("clown"), animal("cryptic*2"), catalogue=TYR))
        self.same(found, {"clown cryptic": 1 / 2, "cryptic": 1 / 2})

    def test_two_axanthic_lines_do_not_complement(self) -> None:
        found = shares(pairing(animal("axanthic_a*2"), animal("axanthic_b*2")))
        self.same(found, {"axanthic_a axanthic_b": 1})

    def test_lethal_double_leaves_two_to_one(self) -> None:
        spider = pairing(animal("spider"), animal("spider"))
        self.same(shares(spider), {"": 1 / 3, "spider": 2 / 3})
        self.assertAlmostEqual(cross_answer(spider)["loss"], 1 / 4, 12)

    def test_six_single_genes_give_sixty_four_equal_outcomes(self) -> None:
        found = shares(pairing(animal("mojave", "enchi", "spider"), animal("pastel", "pinstripe", "leopard")))
        self.assertEqual(len(found), 64)
        for chance in found.values():
            self.assertAlmostEqual(chance, 1 / 64, 12)

    def test_parents_may_be_swapped_at_autosomal_loci(self) -> None:
        one, other = animal("mojave", "piebald?2/3", "fire"), animal("leopard", "piebald", "vanilla")
        forth, back = shares(pairing(one, other)), shares(pairing(other, one))
        self.same(forth, back)

    def test_outcomes_are_sorted_by_chance_then_genotype(self) -> None:
        rows = outcomes_of(pairing(animal("pastel", "enchi"), animal("enchi")))
        keys = [(-round(row.probability, 12), sorted(row.genotype.items())) for row in rows]
        self.assertEqual(keys, sorted(keys))
        self.assertAlmostEqual(sum(row.probability for row in rows), 1, 12)


class SexLinked(TestCase):
    def by_sex(self, on: str) -> dict[tuple[str, str], float]:
        sire = animal({"gene": "banana", "copies": 1, "on": on})
        found = {}
        for row in outcomes_of(pairing(animal(), sire, catalogue=BANANA)):
            name = "banana" if row.genotype else "plain"
            found[name, "female"] = row.probability * row.female
            found[name, "male"] = row.probability * (1 - row.female)
        return found

    def test_male_maker_passes_to_sons(self) -> None:
        found = self.by_sex("Y")
        self.assertAlmostEqual(found["banana", "male"], 0.47, 12)
        self.assertAlmostEqual(found["banana", "female"], 0.03, 12)
        self.assertAlmostEqual(found["plain", "female"], 0.47, 12)

    def test_female_maker_passes_to_daughters(self) -> None:
        found = self.by_sex("X")
        self.assertAlmostEqual(found["banana", "female"], 0.47, 12)
        self.assertAlmostEqual(found["banana", "male"], 0.03, 12)

    def test_dam_passes_to_both_sexes_alike(self) -> None:
        rows = outcomes_of(pairing(animal("banana"), animal(), catalogue=BANANA))
        for row in rows:
            self.assertAlmostEqual(row.probability, 1 / 2, 12)
            self.assertAlmostEqual(row.female, 1 / 2, 12)

    def test_a_sire_with_two_alleles_has_one_on_each(self) -> None:
        both = catalogue_of([gene("a", "S"), gene("b", "S")], [{"id": "S", "location": "sex", "recombination": 0}])
        sire = animal({"gene": "a", "copies": 1, "on": "X"}, {"gene": "b", "copies": 1})
        rows = {row.genotype["S"][0]: row.female for row in outcomes_of(pairing(animal(), sire, catalogue=both))}
        self.assertEqual(rows, {"a": 1.0, "b": 0.0})

    def test_unknown_maker_is_half_and_half(self) -> None:
        rows = outcomes_of(pairing(animal(), animal("banana"), catalogue=BANANA))
        self.assertAlmostEqual(rows[0].female, 1 / 2, 12)


class Linked(TestCase):
    def share_of_both(self, together: bool | None) -> float:
        phase = {} if together is None else {"phase": [{"loci": ["A", "B"], "together": together}]}
        return shares(pairing(animal("a", "b", **phase), animal(), catalogue=TWO))["a b"]

    def test_coupling_keeps_genes_together(self) -> None:
        self.assertAlmostEqual(self.share_of_both(True), 0.45, 12)

    def test_repulsion_keeps_genes_apart(self) -> None:
        self.assertAlmostEqual(self.share_of_both(False), 0.05, 12)

    def test_unknown_phase_is_half_and_half(self) -> None:
        self.assertAlmostEqual(self.share_of_both(None), 0.25, 12)

    def test_two_copies_have_no_phase(self) -> None:
        found = shares(pairing(animal("a*2", "b"), animal(), catalogue=TWO))
        self.assertAlmostEqual(found["a b"], 1 / 2, 12)


class SeveralSires(TestCase):
    def test_eggs_are_shared_by_weight(self) -> None:
        found = shares(pairing(animal(), animal("pastel*2", weight=3), animal("enchi*2", weight=1)))
        self.assertAlmostEqual(found["pastel"], 3 / 4, 12)
        self.assertAlmostEqual(found["enchi"], 1 / 4, 12)

    def test_no_weight_at_all_is_refused(self) -> None:
        with self.assertRaisesRegex(InputError, "weight above 0"):
            pairing(animal(), animal(weight=0))


class Survivors(TestCase):
    def test_a_pairing_of_which_nothing_hatches_has_no_outcomes(self) -> None:
        lethal = catalogue_of([gene("x", "X", viability={"1": 0, "2": 0})])
        answer = cross_answer(pairing(animal("x*2"), animal("x*2"), catalogue=lethal))
        self.assertEqual(answer, {"outcomes": [], "loss": 1.0})

    def test_a_hypothesis_without_survivors_is_struck_out(self) -> None:
        lethal = catalogue_of([gene("x", "X", viability={"1": 0, "2": 0})])
        found = pairing(animal({"gene": "x", "copies": {"2": 0.5}}), animal(), catalogue=lethal)
        self.assertEqual(
            cross_answer(found), {"outcomes": [{"genotype": {}, "probability": 1.0, "female": 0.5}], "loss": 0.0}
        )

    def test_three_alleles_at_one_locus_are_struck_out(self) -> None:
        found = pairing(animal({"gene": "fire", "copies": {"1": 0.5, "2": 0.5}}, "vanilla"), animal())
        self.assertAlmostEqual(shares(found)["fire"], 1 / 2, 12)
        with self.assertRaisesRegex(InputError, "room for two alleles"):
            pairing(animal("fire*2", "vanilla"), animal())


class Squares(TestCase):
    def test_every_square_by_hand(self) -> None:
        by_hand = {
            (0, 0): (4, 0, 0),
            (1, 0): (2, 2, 0),
            (1, 1): (1, 2, 1),
            (2, 0): (0, 4, 0),
            (2, 1): (0, 2, 2),
            (2, 2): (0, 0, 4),
        }
        for (dam, sire), counts in by_hand.items():
            self.assertEqual((square(dam, sire).counts, square(sire, dam).counts), (counts, counts))
        self.assertEqual([cell.copies for _, row in square(2, 1).cells for cell in row], [2, 1, 2, 1])
