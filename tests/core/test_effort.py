"""What would take too long or too much memory is refused before it is begun; what need not be large is made small."""

from __future__ import annotations

from math import prod
from random import Random
from typing import Any
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from eyot_core.catalogue import builtin_catalogue, overlay
from eyot_core.errors import InputError
from eyot_core.genetics.cross import cross_document
from eyot_core.genetics.pairing import Pairing, pairing_from
from eyot_core.hatchery.outcomes import having
from eyot_core.hatchery.wishes import Wish, Wished
from eyot_core.identify.answer import identify
from eyot_core.identify.traits import TraitModel
from eyot_core.parsing import Node
from eyot_core.proof.answer import prove_answer
from eyot_core.proof.kin import NOT_VISUAL, VISUAL, Kin, standings
from eyot_core.proof.pedigree import Member

CATALOGUE = builtin_catalogue()
POSSIBLE = ("clown", "piebald", "albino", "desert_ghost", "genetic_stripe", "puzzle")

FIRST_LOOK = next((trait.id, trait.levels[0].id) for trait in CATALOGUE.traits.values())


def parent(genes: int, chance: float = 0.5, **more: int) -> dict[str, Any]:
    """A parent with the first so many recessives possible, and others for certain."""
    certain = [{"gene": gene, "copies": copies} for gene, copies in more.items()]
    return {"genes": [*certain, *({"gene": gene, "copies": 1, "chance": chance} for gene in POSSIBLE[:genes])]}


def document(dam: dict[str, Any], sires: list[dict[str, Any]], hatchlings: list[dict[str, Any]] | None = None) -> Node:
    return Node({"dam": dam, "sires": sires, "hatchlings": hatchlings or []})


def looked_at(*levels: tuple[str, str]) -> dict[str, Any]:
    looks = [{"trait": trait, "level": level, "stage": "shed"} for trait, level in levels]
    return {"id": "1", "observations": looks}


def by_every_pair_of_parents(pairing: Pairing) -> np.ndarray[Any, Any]:
    """The expected children, summed over every hypothesis on the parents."""
    weights = pairing.prior * pairing.per_survivor
    children = pairing.children_under(weights, range(len(pairing.sires)), [0, 1])
    return np.asarray(children / children.sum())


class Parents(TestCase):
    """What the parents may be."""

    def test_one_mean_parent_serves_for_what_is_expected_of_one_hatchling(self) -> None:
        sires = [parent(2, 0.25, spider=1), parent(1, 2 / 3)]
        pairing = pairing_from(document(parent(2, spider=1, pastel=1), sires), CATALOGUE)
        self.assertLess(prod(pairing.of_mean_parents.stated.shape), prod(pairing.stated.shape))
        np.testing.assert_allclose(pairing.expected, by_every_pair_of_parents(pairing), rtol=0, atol=1e-14)

    def test_a_gene_that_kills_is_not_averaged_over_parents_that_may_lack_it(self) -> None:
        dam, sire = ({"genes": [{"gene": "spider", "copies": 1, "chance": 0.5}]} for _ in range(2))
        pairing = pairing_from(document(dam, [sire]), CATALOGUE)
        self.assertEqual(
            pairing.of_mean_parents.stated.shape, pairing.stated.shape, "who survives hangs on both parents"
        )
        np.testing.assert_allclose(pairing.expected, by_every_pair_of_parents(pairing), rtol=0, atol=1e-14)
        self.assertAlmostEqual(pairing.loss, 0.25 * 0.25)

    def test_at_least_one_of_siblings_counts_what_they_share(self) -> None:
        pairing = pairing_from(document(parent(2), [parent(2)]), CATALOGUE)
        kind = having(pairing, {"clown": 2})
        assert kind is not None
        self.assertAlmostEqual(kind.chance, 1 / 16)
        self.assertAlmostEqual(kind.at_least_one(4), 0.25 * (1 - 0.75**4))
        wished = Wished(pairing, Wish(genes=(("clown", 2),)))
        self.assertAlmostEqual(wished.at_least_one(4), 0.25 * (1 - 0.75**4))
        self.assertEqual(kind.needed(0.26), None, "one pair in four can give it at all")

    def test_four_sires_and_six_possible_hets_are_crossed_at_once(self) -> None:
        answer = cross_document(document(parent(6), [parent(6)] * 4), CATALOGUE)
        visual = sum(row["probability"] for row in answer["outcomes"] if ["clown"] * 2 in row["genotype"].values())
        self.assertEqual(len(answer["outcomes"]), 3**6)
        self.assertAlmostEqual(visual, 1 / 16)

    def test_but_the_looks_at_their_hatchlings_are_refused_before_anything_is_worked_out(self) -> None:
        nothing_made = patch.object(TraitModel, "table", side_effect=AssertionError("a table was made"))
        with nothing_made, self.assertRaisesRegex(InputError, "1,073,741,824 sets of parents"):
            identify(document(parent(6), [parent(6)] * 4, [looked_at(FIRST_LOOK)]), CATALOGUE)

    def test_two_sires_and_six_possible_hets_are_judged(self) -> None:
        answer = identify(document(parent(6), [parent(6)] * 2, [{"id": "1", "observations": []}]), CATALOGUE)
        self.assertAlmostEqual(answer["hatchlings"][0]["genes"][0]["copies"]["2"], 1 / 16)

    def test_fourteen_loci_in_both_parents_are_refused(self) -> None:
        loci = dict.fromkeys(gene.locus for gene in CATALOGUE.genes.values() if gene.locus not in CATALOGUE.linkage_of)
        genes = [CATALOGUE.genes_at(locus)[0].id for locus in loci if not CATALOGUE.loci[locus].on_sex_chromosome]
        both = parent(0, **dict.fromkeys(genes[:14], 1))
        with self.assertRaisesRegex(InputError, "possible genotypes; at most 100,000 can be listed"):
            cross_document(document(both, [both]), CATALOGUE)
        six = [looked_at(FIRST_LOOK) | {"id": str(number)} for number in range(6)]
        with self.assertRaisesRegex(InputError, "times too much at once"):
            identify(document(both, [both], six), CATALOGUE)


class UnknownParents(TestCase):
    """Animals of unknown parents, each judged by itself."""

    def test_fifty_at_once_are_refused_with_what_to_do(self) -> None:
        one = looked_at(FIRST_LOOK)
        many = Node({"dam": None, "sires": [], "hatchlings": [one | {"id": str(number)} for number in range(50)]})
        with self.assertRaisesRegex(InputError, "nothing is lost by asking for a few at a time"):
            identify(many, CATALOGUE)


class Pedigrees(TestCase):
    """Many relatives."""

    def test_more_animals_than_can_be_worked_through_are_counted_first(self) -> None:
        animals = [{"id": str(number), "shows": "no"} for number in range(2_501)]
        with self.assertRaisesRegex(InputError, "2,501 animals; at most 2,500"):
            prove_answer(Node({"animals": animals, "proband": "0"}))

    def test_where_all_are_related_in_many_ways_parents_and_own_evidence_are_left(self) -> None:
        kin = [Kin(start=(0.5, 0.5, 0.0), known=NOT_VISUAL), *[Kin(known=NOT_VISUAL)] * 11]
        chosen = Random(0)
        for place in range(12, 120):
            dam, sire = chosen.sample(range(max(0, place - 40), place), 2)
            kin.append(Kin(Member(dam, sire), known=NOT_VISUAL))
        tested = len(kin)
        kin.append(Kin(Member(0, 1), known=NOT_VISUAL, tests=(0.01, 0.99, 0.99)))
        alone = len(kin)
        kin += [Kin(start=(0.0, 1.0, 0.0), known=NOT_VISUAL), Kin(Member(alone), known=NOT_VISUAL)]
        rows = standings(kin, 0.0)
        assert rows is not None
        self.assertEqual(rows[tested].basis, "own")
        self.assertAlmostEqual(rows[tested].from_parents, 0.25)
        self.assertAlmostEqual(rows[tested].carrier, 0.25 * 0.99 / (0.25 * 0.99 + 0.75 * 0.01))
        self.assertEqual(rows[alone + 1].basis, "exact", "another family is reckoned exactly")
        self.assertAlmostEqual(rows[alone + 1].carrier, 0.5)
        kin[tested - 1] = Kin(kin[tested - 1].member, known=VISUAL)
        visual = standings(kin, 0.0)
        assert visual is not None, "parents of whom nothing is stated contradict nobody"
        self.assertEqual(visual[tested - 1].copies, (0.0, 0.0, 1.0))


class Opinions(TestCase):
    """A collection's layer over the catalogue."""

    def test_fifty_opinions_are_read_once(self) -> None:
        names = [{"kind": "synonym", "gene": "clown", "name": f"Jester {number}"} for number in range(49)]
        wrong = {"kind": "synonym", "gene": "no such gene", "name": "Nobody"}
        layer = Node({"format": overlay.FORMAT, "opinions": [*names, wrong]})
        with patch.object(overlay, "catalogue_from", wraps=overlay.catalogue_from) as read:
            laid = overlay.overlaid(CATALOGUE, layer)
        self.assertEqual(read.call_count, 1)
        self.assertEqual([number for number, _ in laid.left_out], [49])
        entry = next(entry for entry in laid.catalogue.document["genes"] if entry["id"] == "clown")
        self.assertIn("Jester 48", entry["synonyms"])

    def test_an_opinion_may_rest_on_one_before_it(self) -> None:
        own = {"kind": "gene", "id": "glimmer", "name": "Glimmer", "inheritance": "recessive"}
        layer = {"format": overlay.FORMAT, "opinions": [own, {"kind": "name", "gene": "glimmer", "name": "Gleam"}, own]}
        laid = overlay.overlaid(CATALOGUE, Node(layer))
        self.assertEqual([number for number, _ in laid.left_out], [2], "the same gene can't come twice")
        self.assertEqual(laid.catalogue.genes["glimmer"].locus, "own_glimmer")
