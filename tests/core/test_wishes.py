"""Wishes and labels, against every genotype counted by itself."""

from __future__ import annotations

import json
from unittest import TestCase

from eyot_core.catalogue import builtin_catalogue, catalogue_from
from eyot_core.genetics.cross import outcomes_of
from eyot_core.genetics.inheritance import SEXES
from eyot_core.genetics.pairing import pairing_from
from eyot_core.hatchery.wishes import Wish, Wished
from eyot_core.parsing import Node

from tests.core.pairings import Json, animal, pairing
from tests.core.random_documents import random_document
from tests.core.test_bad_input import ran


def answer(command: str, **document: object) -> Json:
    status, out, err = ran(command, json.dumps(document))
    assert status == 0, err
    return dict(json.loads(out))


def refused(command: str, **document: object) -> str:
    status, out, err = ran(command, json.dumps(document))
    assert (status, out) == (2, ""), out
    return str(json.loads(err)["at"])


class Wishes(TestCase):
    def test_a_wish_is_the_sum_of_the_genotypes_that_fulfil_it(self) -> None:
        """On random pairings: genes, sex, number of genes, and what must not be there."""
        message = 0
        for seed in range(60):
            document = random_document(seed)
            catalogue = catalogue_from(Node(document["catalogue"]))
            found = pairing_from(Node(document), catalogue)
            given = list(found.given_genes)
            if not found.can_hatch or len(given) < 2:
                continue
            sex = seed % 3 if seed % 3 < 2 else None
            wish = Wish(((given[0], 1 + seed % 2),), (given[-1],) if seed % 4 == 0 else (), sex, seed % 4)
            wanted = 0.0
            for row in outcomes_of(found):
                alleles = [allele for at in row.genotype.values() for allele in at]
                shown = sum(
                    len(set(at))
                    for at in row.genotype.values()
                    if len(at) == 2 or not catalogue.genes[at[0]].is_recessive
                )
                fits = alleles.count(given[0]) >= 1 + seed % 2 and not set(wish.without) & set(alleles)
                if fits and shown >= wish.at_least:
                    share = 1.0 if sex is None else row.female if SEXES[sex] == "female" else 1 - row.female
                    wanted += row.probability * share
            with self.subTest(seed=seed):
                self.assertAlmostEqual(Wished(found, wish).chance, wanted, 12)
            message += wanted > 0
        self.assertGreater(message, 15)

    def test_banana_daughters_of_a_male_maker_are_rare(self) -> None:
        sire = animal({"gene": "banana", "copies": 1, "on": "Y"})
        wanted = {"genes": ["banana"], "sex": "female"}
        found = answer("wish", dam=animal(), sires=[sire], wanted=wanted, eggs=6)
        self.assertAlmostEqual(found["chance"], 0.5 * 0.06, 12)
        self.assertAlmostEqual(found["at_least_one"], 1 - 0.97**6, 12)

    def test_uncertain_parents_are_one_fact_for_all_eggs(self) -> None:
        dam, sire = animal("clown?1/2"), animal("clown*2")
        found = answer("wish", dam=dam, sires=[sire], wanted={"genes": ["clown"]}, eggs=3)
        self.assertAlmostEqual(found["chance"], 0.25, 12)
        self.assertAlmostEqual(found["at_least_one"], 0.5 * (1 - 0.5**3), 12)

    def test_a_recessive_is_wished_visual_unless_copies_are_named(self) -> None:
        parents = {"dam": animal("clown"), "sires": [animal("clown")], "eggs": 1}
        self.assertAlmostEqual(answer("wish", wanted={"genes": ["clown"]}, **parents)["chance"], 0.25, 12)
        one = {"genes": [{"gene": "clown", "copies": 1}]}
        self.assertAlmostEqual(answer("wish", wanted=one, **parents)["chance"], 0.75, 12)

    def test_what_the_parents_lack_can_never_come(self) -> None:
        found = answer("wish", dam=animal("enchi"), sires=[animal()], wanted={"genes": ["fire"]}, eggs=9)
        self.assertEqual(found, {"chance": 0.0, "at_least_one": 0.0})

    def test_wrong_wishes_name_their_place(self) -> None:
        parents = {"dam": animal(), "sires": [animal()]}
        self.assertEqual(refused("wish", wanted={"genes": ["frie"]}, eggs=1, **parents), "wanted.genes[0]")
        self.assertEqual(refused("wish", wanted={"sex": "hen"}, eggs=1, **parents), "wanted.sex")
        self.assertEqual(refused("wish", wanted={"at_least": -1}, eggs=1, **parents), "wanted.at_least")
        self.assertEqual(refused("wish", wanted={"colour": 1}, eggs=1, **parents), "wanted.colour")
        self.assertEqual(refused("wish", wanted={}, **parents), "eggs")


def called(gene: str, verdict: str = "sure", copies: int = 1) -> Json:
    return {"gene": gene, "verdict": verdict, "copies": copies}


class Labels(TestCase):
    def label(self, dam: Json, sire: Json, *call: Json) -> Json:
        return answer("label", dam=dam, sires=[sire], call=list(call))

    def test_a_clowns_child_is_het_clown_for_certain(self) -> None:
        found = self.label(animal("clown*2", "pastel"), animal(), called("pastel"))
        self.assertEqual(found["by_gene"], "Pastel, het Clown")
        self.assertIn({"gene": "clown", "as": "het", "copies": 1, "chance": 1}, found["parts"])

    def test_possible_hets_carry_the_trades_figure(self) -> None:
        found = self.label(animal("clown", "piebald"), animal("clown"))
        chances = {part["gene"]: (part["as"], part["chance"]) for part in found["parts"]}
        self.assertEqual(chances, {"clown": ("possible_het", "2/3"), "piebald": ("possible_het", "1/2")})
        self.assertEqual(found["by_gene"], "Normal, 66 % possible het Clown, 50 % possible het Piebald")

    def test_the_rest_of_the_call_counts_for_what_is_carried(self) -> None:
        """Enchi comes from the second sire only, who is a visual: then it must carry."""
        document = {"dam": animal(), "sires": [animal("pastel"), animal("enchi", "clown*2")]}
        found = answer("label", call=[called("enchi")], **document)
        self.assertEqual(found["by_gene"], "Enchi, het Clown")
        found = answer("label", call=[called("pastel")], **document)
        self.assertEqual(found["by_gene"], "Pastel")

    def test_verdicts_are_told_apart(self) -> None:
        call = (called("pastel"), called("fire", "likely"), called("enchi", "possible"), called("leopard", "not"))
        found = self.label(animal("pastel", "fire"), animal("enchi", "leopard"), *call)
        self.assertEqual(found["by_gene"], "Pastel, likely Fire, possible Enchi")
        self.assertEqual([part["as"] for part in found["parts"]], ["shown", "likely", "possible"])

    def test_a_possible_gene_that_the_pairing_hardly_gives_is_left_off(self) -> None:
        rare = self.label(animal("fire?1/10"), animal(), called("fire", "possible"))
        self.assertEqual((rare["parts"], rare["by_gene"]), ([], "Normal"))

    def test_a_gene_that_the_parents_lack_stays_as_possible_without_a_figure(self) -> None:
        found = self.label(animal(), animal(), called("fire", "possible"))
        self.assertEqual(found["parts"], [{"gene": "fire", "as": "possible", "copies": 1, "chance": None}])

    def test_trade_names_cover_what_they_fit(self) -> None:
        found = self.label(
            animal("pastel", "clown"), animal("spider", "banana", "clown"),
            called("pastel"), called("spider"), called("clown", copies=2), called("banana"),
        )  # fmt: skip
        self.assertEqual(found["by_trade_names"], "Bumblebee Clown Banana")

    def test_a_cross_of_a_recessive_complex_shows(self) -> None:
        found = self.label(animal("clown"), animal("cryptic"), called("clown"), called("cryptic"))
        self.assertEqual([part["as"] for part in found["parts"]], ["shown", "shown"])

    def test_wrong_calls_name_their_place(self) -> None:
        parents = {"dam": animal(), "sires": [animal()]}
        self.assertEqual(refused("label", call=[called("frie")], **parents), "call[0].gene")
        self.assertEqual(refused("label", call=[called("fire", "maybe")], **parents), "call[0].verdict")
        self.assertEqual(refused("label", call=[called("fire"), called("fire")], **parents), "call[1].gene")


class BuiltIn(TestCase):
    def test_at_least_one_grows_with_the_eggs_and_needs_as_many_as_it_says(self) -> None:
        found = Wished(pairing(animal("clown"), animal("clown")), Wish((("clown", 2),)))
        needed = found.needed(0.95)
        self.assertEqual(needed, 11)
        self.assertLess(found.at_least_one(10), 0.95)
        self.assertGreaterEqual(found.at_least_one(11), 0.95)
        self.assertIn("clown", builtin_catalogue().genes)
