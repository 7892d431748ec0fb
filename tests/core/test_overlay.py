"""A collection's own genes, names and opinions over the built-in catalogue."""

from __future__ import annotations

from typing import Any
from unittest import TestCase

from eyot_core.catalogue import Catalogue, builtin_catalogue
from eyot_core.catalogue.overlay import overlaid, with_override
from eyot_core.errors import InputError
from eyot_core.genetics.cross import cross_answer
from eyot_core.genetics.genotypes import genotype_of
from eyot_core.genetics.pairing import pairing_from
from eyot_core.identify.looks import chances_of_looks, likeliest_looks
from eyot_core.parsing import Node
from eyot_core.wording.names import Naming

TIDEMARK = {
    "kind": "gene",
    "id": "tidemark",
    "name": "Tidemark",
    "inheritance": "incomplete_dominant",
    "one": {"side_white": {"low": 2}, "belly_edge": {"jagged": 1}},
    "two": {"side_white": {"high": 3}},
}


def under(*overrides: dict[str, Any]) -> Catalogue:
    found = overlaid(builtin_catalogue(), Node({"format": "eyot-overlay/1", "opinions": list(overrides)}))
    assert not found.left_out, found.left_out
    return found.catalogue


def outcomes(catalogue: Catalogue, dam: str, sire: str) -> dict[str, float]:
    document = {"dam": {"genes": _entries(dam)}, "sires": [{"genes": _entries(sire)}]}
    rows = cross_answer(pairing_from(Node(document), catalogue))["outcomes"]
    return {str(row["genotype"]): row["probability"] for row in rows}


def _entries(genes: str) -> list[dict[str, Any]]:
    return [{"gene": gene, "copies": 1} for gene in genes.split()]


class OwnGenes(TestCase):
    def test_an_own_gene_shows_what_its_keeper_says(self) -> None:
        catalogue = under(TIDEMARK)
        shown = likeliest_looks(catalogue, genotype_of(catalogue, {"tidemark": 2}), "shed")
        self.assertEqual((shown["side_white"], shown["belly_edge"]), ("high", "jagged"))
        self.assertEqual(catalogue.document["genes"][-1]["standing"], "keeper")
        self.assertNotIn("tidemark", builtin_catalogue().genes)

    def test_it_can_be_an_allele_of_a_known_complex(self) -> None:
        catalogue = under(TIDEMARK | {"locus": "yb"})
        found = outcomes(catalogue, "tidemark", "yellow_belly")
        self.assertEqual(found["{'yb': ['tidemark', 'yellow_belly']}"], 0.25)

    def test_what_cannot_be_is_refused_with_its_place(self) -> None:
        for change, at in (
            ({"id": "mojave"}, "id"),
            ({"id": "Tide mark"}, "id"),
            ({"inheritance": "magic"}, "inheritance"),
            ({"locus": "nowhere"}, "locus"),
            ({"one": {"side_white": {"pink": 1}}}, "one.side_white.pink"),
            ({"one": {"side": {"low": 1}}}, "one.side"),
            ({"one": {"side_white": {"low": 9}}}, "one.side_white.low"),
            ({"inheritance": "recessive"}, "one"),
            ({"colour": "red"}, "colour"),
        ):
            with self.subTest(at), self.assertRaises(InputError) as caught:
                with_override(builtin_catalogue(), Node(TIDEMARK | change))
            self.assertEqual(caught.exception.at, at)


class Opinions(TestCase):
    def test_an_axanthic_line_can_be_renamed(self) -> None:
        catalogue = under({"kind": "name", "gene": "axanthic_b", "name": "Axanthic, Reed line"})
        self.assertEqual(Naming(catalogue).copies("axanthic_b", 2), "Axanthic, Reed line")
        self.assertEqual(Naming(builtin_catalogue()).gene("axanthic_b"), "Axanthic line B")

    def test_a_weight_moves_one_look_of_one_gene(self) -> None:
        catalogue = under(
            {"kind": "weight", "gene": "special", "copies": 1, "trait": "contrast", "level": "high", "push": 2}
        )
        before = chances_of_looks(builtin_catalogue(), {"bel": ["special"]}, "shed")["contrast"][2]
        after = chances_of_looks(catalogue, {"bel": ["special"]}, "shed")["contrast"][2]
        self.assertGreater(float(after), float(before) + 0.2)

    def test_enchi_and_cinnamon_can_be_held_allelic(self) -> None:
        apart, allelic = builtin_catalogue(), under({"kind": "switch", "dispute": "D03"})
        self.assertEqual(outcomes(apart, "enchi cinnamon", "").get("{}"), 0.25)
        self.assertNotIn("{}", outcomes(allelic, "enchi cinnamon", ""))
        pair = likeliest_looks(allelic, {"blk": ["cinnamon", "enchi"]}, "shed")
        self.assertNotEqual(pair["lightness"], "very_dark")

    def test_lesser_and_butter_can_be_held_one(self) -> None:
        one = under({"kind": "switch", "dispute": "D01"})
        lesser, butter = (chances_of_looks(one, {"bel": [gene]}, "shed") for gene in ("lesser", "butter"))
        for trait, chances in lesser.items():
            self.assertTrue((abs(chances - butter[trait]) < 1e-12).all(), trait)

    def test_spotnose_and_chocolate_can_be_held_apart(self) -> None:
        apart = under({"kind": "switch", "dispute": "D06"})
        self.assertEqual(outcomes(apart, "spotnose chocolate", "")["{}"], 0.25)
        self.assertNotIn("{}", outcomes(builtin_catalogue(), "spotnose chocolate", ""))

    def test_one_copy_of_monsoon_can_be_held_to_show(self) -> None:
        shows = under({"kind": "switch", "dispute": "D05"})
        before = chances_of_looks(builtin_catalogue(), {"mon": ["monsoon"]}, "shed")["dorsal_marks"]
        after = chances_of_looks(shows, {"mon": ["monsoon"]}, "shed")["dorsal_marks"]
        self.assertGreater(float(after[2]), 2 * float(before[2]))

    def test_every_switch_can_be_thrown(self) -> None:
        disputes = [entry["id"] for entry in builtin_catalogue().document["disputes"] if "switch" in entry]
        self.assertEqual(len(disputes), 9)
        for dispute in disputes:
            with self.subTest(dispute):
                under({"kind": "switch", "dispute": dispute})

    def test_what_does_not_fit_is_left_out_and_told_and_the_rest_stands(self) -> None:
        gone = {"kind": "name", "gene": "vanished", "name": "Gone"}
        found = overlaid(builtin_catalogue(), Node({"format": "eyot-overlay/1", "opinions": [gone, TIDEMARK]}))
        self.assertIn("tidemark", found.catalogue.genes)
        self.assertEqual(found.left_out[0][0], 0)
        self.assertIn("vanished", found.left_out[0][1])

    def test_no_layer_is_the_built_in_catalogue(self) -> None:
        self.assertIs(under(), builtin_catalogue())
