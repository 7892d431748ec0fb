"""The fast computation agrees with the slow obvious twin on random catalogues and clutches."""

from __future__ import annotations

from typing import Any
from unittest import TestCase

from eyot_core.catalogue import catalogue_from
from eyot_core.errors import InputError
from eyot_core.genetics.cross import cross_answer
from eyot_core.genetics.pairing import pairing_from
from eyot_core.identify.answer import identify
from eyot_core.parsing import Node

from tests.core.random_documents import random_document
from tests.core.reference_implementation import Twin

PLACES = 9
DOCUMENTS = 90


def key(genotype: dict[str, list[str]]) -> tuple[Any, ...]:
    return tuple(sorted((locus, tuple(alleles)) for locus, alleles in genotype.items()))


class AgainstReference(TestCase):
    takes_long = True

    def test_cross_agrees(self) -> None:
        for seed in range(DOCUMENTS):
            document = random_document(seed)
            with self.subTest(seed=seed):
                twin = Twin(document["catalogue"])
                if not twin.states(document["dam"], False) or not all(
                    twin.states(sire, True) for sire in document["sires"]
                ):
                    with self.assertRaises(InputError):
                        pairing_from(Node(document), catalogue_from(Node(document["catalogue"])))
                    continue
                wanted = twin.cross(document)
                got = cross_answer(pairing_from(Node(document), catalogue_from(Node(document["catalogue"]))))
                self.assertAlmostEqual(got["loss"], wanted["loss"], PLACES)
                expected = {key(row["genotype"]): row for row in wanted["outcomes"]}
                found = {key(row["genotype"]): row for row in got["outcomes"]}
                self.assertEqual(found.keys(), expected.keys())
                for genotype, row in found.items():
                    self.assertAlmostEqual(row["probability"], expected[genotype]["probability"], PLACES)
                    self.assertAlmostEqual(row["female"], expected[genotype]["female"], PLACES)

    def test_identify_agrees(self) -> None:
        refused = 0
        for seed in range(DOCUMENTS):
            document = random_document(seed)
            with self.subTest(seed=seed):
                twin = Twin(document["catalogue"])
                if not twin.hypotheses(document)[0]:
                    refused += 1
                    with self.assertRaises(InputError):
                        identify(Node(document), catalogue_from(Node(document["catalogue"])))
                    continue
                wanted = twin.identify(document)
                got = identify(Node(document), catalogue_from(Node(document["catalogue"])))
                self.same_number(got["log_evidence"], wanted["log_evidence"])
                self.same_parents(got["parents"], wanted["parents"])
                for one, other in zip(got["hatchlings"], wanted["hatchlings"], strict=True):
                    self.same_hatchling(one, other)
        self.assertLess(refused, DOCUMENTS / 4)

    def same_number(self, got: float | None, wanted: float | None) -> None:
        if wanted is None:
            self.assertIsNone(got)
        else:
            self.assertIsNotNone(got)
            self.assertAlmostEqual(got or 0.0, wanted, PLACES)

    def same_parents(self, got: Any, wanted: Any) -> None:
        for rows, expected in zip([got["dam"], *got["sires"]], [wanted["dam"], *wanted["sires"]], strict=True):
            self.assertEqual([row["gene"] for row in rows], list(expected))
            for row in rows:
                for count in range(3):
                    self.assertAlmostEqual(row["copies"][str(count)], expected[row["gene"]][count], PLACES)

    def same_hatchling(self, got: Any, wanted: Any) -> None:
        self.assertEqual(got.get("contradiction", False), wanted.get("contradiction", False))
        self.same_number(got["log_evidence"], wanted["log_evidence"])
        self.assertAlmostEqual(got["female"], wanted["female"], PLACES)
        for one, other in zip(got["sires"], wanted["sires"], strict=True):
            self.assertAlmostEqual(one, other, PLACES)
        self.assertEqual([row["gene"] for row in got["genes"]], list(wanted["genes"]))
        for row in got["genes"]:
            for which, expected in zip(("copies", "prior"), wanted["genes"][row["gene"]], strict=True):
                for count in range(3):
                    self.assertAlmostEqual(row[which][str(count)], expected[count], PLACES)
        names = {key(row["genotype"]): row["probability"] for row in got["combos"]}
        twin_names = sorted(wanted["genotypes"].values())
        self.assertEqual(len(names), sum(chance > 0 for chance in twin_names))
        for one, other in zip(sorted(names.values()), [chance for chance in twin_names if chance > 0], strict=True):
            self.assertAlmostEqual(one, other, PLACES)
        if "looks" in wanted:
            self.same_questions(got, wanted)

    def same_questions(self, got: Any, wanted: Any) -> None:
        self.assertEqual({row["trait"] for row in got["looks"]}, set(wanted["looks"]))
        for row in got["looks"]:
            self.assertAlmostEqual(row["gain"], wanted["looks"][row["trait"]], PLACES)
        self.assertEqual(got["looks"], sorted(got["looks"], key=lambda row: -row["gain"]))
        self.assertEqual({row["trait"] for row in got["odd"]}, set(wanted["odd"]))
        for row in got["odd"]:
            self.assertAlmostEqual(row["expected"], wanted["odd"][row["trait"]], PLACES)
        self.assertEqual({row["gene"] for row in got["unlisted"]}, set(wanted["unlisted"]))
        for row in got["unlisted"]:
            self.assertAlmostEqual(row["factor"] / wanted["unlisted"][row["gene"]], 1, PLACES)
