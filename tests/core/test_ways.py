"""Ways of inheritance: against the slow way (every state of every animal in turn), known pedigrees, loops, and bad input."""

from __future__ import annotations

import math
import random
from itertools import product
from typing import Any
from unittest import TestCase

from eyot_core.parsing import Node
from eyot_core.proof.answer import prove_answer

from tests.core.test_carriers import printed

Json = dict[str, Any]
PRIOR = {"none": 0.3, "dominant": 0.15, "incomplete_dominant": 0.25, "recessive": 0.25, "sex_linked": 0.05}
EXPECTED = {
    "dominant": ("no", "yes", "yes"),
    "incomplete_dominant": ("no", "yes", "strong"),
    "recessive": ("no", "no", "yes"),
    "sex_linked": ("no", "yes", "strong"),
}


def one(
    name: str, shows: str = "unseen", dam: str | None = None, sire: str | None = None, sex: str | None = None
) -> Json:
    return {"id": name, "dam": dam, "sire": sire, "sex": sex, "shows": shows}


def proved(animals: list[Json], proband: str, **more: Any) -> tuple[dict[str, float], dict[str, float | None], Json]:
    answer = prove_answer(Node({"animals": animals, "proband": proband, **more}))
    posterior = {row["model"]: row["posterior"] for row in answer["models"]}
    logs = {row["model"]: row["log_likelihood"] for row in answer["models"]}
    return posterior, logs, {row["id"]: row["copies"] for row in answer["animals"]}


class Slowly:
    """One way over a pedigree, by going through all alleles of all animals: (first, second) for a dam's two or a sire's X and Y."""

    def __init__(self, way: str, animals: list[Json], q: float = 0.01, r: float = 0.05) -> None:
        self.way, self.animals, self.q, self.r = way, animals, q, r
        self.sexed = way == "sex_linked"
        dams, sires = {one["dam"] for one in animals}, {one["sire"] for one in animals}
        self.sexes = [
            ("female",)
            if row["sex"] == "female" or row["id"] in dams
            else ("male",)
            if row["sex"] == "male" or row["id"] in sires
            else ("female", "male")
            for row in animals
        ]

    def passed(self, parent: tuple[int, int], sire: bool, child: str) -> float:
        """Chance that a parent passes the allele."""
        if self.sexed and sire:
            x, y = parent
            return (1 - self.r) * x + self.r * y if child == "female" else (1 - self.r) * y + self.r * x
        return sum(parent) / 2

    def shown(self, copies: int, shows: str) -> float:
        if shows == "unseen":
            return 1.0
        expected = EXPECTED[self.way][copies]
        if expected == "no":
            return {"no": 0.999, "yes": 0.0009, "strong": 0.0001}[shows]
        if self.way in ("dominant", "recessive"):
            return {"no": 0.02, "yes": 0.98 * 0.8, "strong": 0.98 * 0.2}[shows]
        return 0.98 if shows == expected else 0.01

    def sums(self, seen: list[str]) -> tuple[float, list[list[float]]]:
        """Chance of what is seen, and for each animal the weights of 0, 1, 2 copies."""
        total, copies = 0.0, [[0.0] * 3 for _ in self.animals]
        place = {row["id"]: index for index, row in enumerate(self.animals)}
        alleles = list(product((0, 1), repeat=2))
        for sexes in product(*self.sexes):
            for states in product(alleles, repeat=len(self.animals)):
                weight = 1.0
                for row, sex, choices, state, shows in zip(self.animals, sexes, self.sexes, states, seen, strict=True):
                    weight *= self.shown(sum(state), shows) / len(choices)
                    for allele, role in zip(state, ("dam", "sire"), strict=True):
                        parent = states[place[row[role]]] if row[role] else None
                        chance = self.of_one(parent, role, sex)
                        weight *= chance if allele else 1 - chance
                total += weight
                for index, state in enumerate(states):
                    copies[index][sum(state)] += weight
        return total, copies

    def of_one(self, parent: tuple[int, int] | None, role: str, sex: str) -> float:
        """A daughter's second place is her father's X, a son's his Y; of unknown parents both have the allele's frequency."""
        if parent is None:
            return self.q
        return self.passed(parent, role == "sire", sex)

    def found(self, proband: str) -> tuple[float, list[list[float]]]:
        seen = [row["shows"] for row in self.animals]
        alone = [row["shows"] if row["id"] == proband else "unseen" for row in self.animals]
        total, copies = self.sums(seen)
        return math.log(total) - math.log(self.sums(alone)[0]), [[x / total for x in row] for row in copies]


def random_pedigree(chooser: random.Random, count: int) -> list[Json]:
    """A pedigree with founders, half-siblings, unlisted parents and, now and then, inbreeding."""
    animals: list[Json] = []
    for index in range(count):
        females = [row["id"] for row in animals if row["sex"] == "female"]
        males = [row["id"] for row in animals if row["sex"] == "male"]
        dam = chooser.choice([*females, None]) if females and index > 1 else None
        sire = chooser.choice([*males, None]) if males and index > 1 else None
        sex = ("female", "male")[index] if index < 2 else chooser.choice(["female", "male", None])
        animals.append(one(f"a{index}", chooser.choice(["no", "no", "yes", "strong", "unseen"]), dam, sire, sex))
    chooser.shuffle(animals)
    return animals


class TheSlowWay(TestCase):
    def test_every_way_over_random_pedigrees(self) -> None:
        chooser = random.Random(5)
        for _ in range(20):
            animals = random_pedigree(chooser, chooser.choice([2, 3, 4, 5]))
            proband = chooser.choice([row["id"] for row in animals])
            _, logs, copies = proved(animals, proband)
            with self.subTest(animals=animals, proband=proband):
                for way in EXPECTED:
                    log, _ = Slowly(way, animals).found(proband)
                    self.assertAlmostEqual(logs[way] or 0.0, log, 9)
                self.check_copies(animals, proband, copies)

    def check_copies(self, animals: list[Json], proband: str, copies: Json) -> None:
        found = {way: Slowly(way, animals).found(proband) for way in EXPECTED}
        weights = {way: PRIOR[way] * math.exp(log) for way, (log, _) in found.items()}
        for index, row in enumerate(animals):
            for count in range(3):
                mean = sum(weights[way] * found[way][1][index][count] for way in EXPECTED) / sum(weights.values())
                self.assertAlmostEqual(copies[row["id"]][str(count)], mean, 10)

    def test_not_inherited_is_each_animal_for_itself(self) -> None:
        animals = [one("a", "no"), one("b", "yes"), one("c", "strong"), one("d")]
        _, logs, _ = proved(animals, "b")
        self.assertAlmostEqual(logs["none"] or 0.0, math.log(0.99) + math.log(0.001), 12)


def family(shows: list[str], dam: str = "no", sire: str = "no") -> list[Json]:
    return [one("dam", dam, sex="female"), one("sire", sire, sex="male")] + [
        one(f"c{number}", look, "dam", "sire") for number, look in enumerate(shows)
    ]


class KnownPedigrees(TestCase):
    def best(self, animals: list[Json], proband: str) -> str:
        posterior, _, _ = proved(animals, proband)
        return max(posterior, key=lambda way: posterior[way])

    def test_two_plain_parents_with_a_quarter_that_shows_are_recessive(self) -> None:
        self.assertEqual(self.best(family(["yes", "no", "no", "yes", "no", "yes", "no", "no"]), "c0"), "recessive")

    def test_recessive_carriers_are_found(self) -> None:
        sure = {"error": 0, "mistake": 0, "prior": {"recessive": 1}}
        _, _, copies = proved(family(["yes", "no", "yes", "no"]), "c0", **sure)
        self.assertAlmostEqual(copies["dam"]["1"], 1, 12)
        self.assertAlmostEqual(copies["c1"]["1"], 2 / 3, 12)
        self.assertAlmostEqual(copies["c0"]["2"], 1, 12)

    def test_a_strong_form_between_two_that_show_is_incomplete_dominant(self) -> None:
        self.assertEqual(
            self.best(family(["strong", "yes", "yes", "no", "strong", "yes"], "yes", "yes"), "dam"),
            "incomplete_dominant",
        )

    def test_half_of_a_showers_children_by_many_partners_without_a_strong_form_is_inherited(self) -> None:
        animals = [one("x", "yes", sex="male")]
        for number in range(4):
            animals.append(one(f"d{number}", "no", sex="female"))
            animals += [
                one(f"c{number}{n}", look, f"d{number}", "x") for n, look in enumerate(("yes", "no", "yes", "no"))
            ]
        posterior, _, _ = proved(animals, "x")
        self.assertLess(posterior["none"] + posterior["recessive"], 0.01)

    def test_a_sire_whose_sons_show_and_daughters_do_not_is_sex_linked(self) -> None:
        animals = [one("dam", "no", sex="female"), one("x", "yes", sex="male")]
        animals += [one(f"s{n}", "yes", "dam", "x", "male") for n in range(6)]
        animals += [one(f"f{n}", "no", "dam", "x", "female") for n in range(6)]
        self.assertEqual(self.best(animals, "x"), "sex_linked")

    def test_one_alone_with_many_plain_children_is_recessive_or_not_inherited(self) -> None:
        animals = family(["no"] * 12, "no", "yes")
        animals += [one("f", "no", sex="female"), *(one(f"d{n}", "no", "f", "sire") for n in range(12))]
        posterior, _, _ = proved(animals, "sire")
        self.assertGreater(posterior["recessive"] + posterior["none"], 0.95)


class Scale(TestCase):
    def test_sixty_animals_without_a_loop_and_with_inbreeding(self) -> None:
        chooser = random.Random(2)
        for inbred in (False, True):
            animals = [one("f0", "no", sex="female"), one("m0", "yes", sex="male")]
            for number in range(1, 20):
                parents = ("f0", "m0") if not inbred or number == 1 else (f"f{number - 1}", f"m{number - 1}")
                animals.append(one(f"f{number}", chooser.choice(["no", "yes"]), parents[0], parents[1], "female"))
                animals.append(one(f"m{number}", "no", parents[0], parents[1], "male"))
                animals.append(one(f"u{number}", "unseen", parents[0], parents[1]))
            posterior, _, copies = proved(animals, "m0")
            self.assertAlmostEqual(sum(posterior.values()), 1, 12)
            self.assertTrue(all(abs(sum(row.values()) - 1) < 1e-9 for row in copies.values()))

    def test_brother_and_sister_mated_against_the_slow_way(self) -> None:
        animals = [*family(["no", "no"]), one("k", "yes", "c0", "c1")]
        animals[2]["sex"], animals[3]["sex"] = "female", "male"
        _, logs, _ = proved(animals, "k")
        for way in EXPECTED:
            self.assertAlmostEqual(logs[way] or 0.0, Slowly(way, animals).found("k")[0], 9)


class Impossible(TestCase):
    def test_a_way_that_cannot_give_what_is_seen_is_null(self) -> None:
        animals = family(["yes", "no"])
        posterior, logs, _ = proved(animals, "c0", mistake=0, error=0, prior={"dominant": 0.5, "recessive": 0.5})
        self.assertEqual((logs["dominant"], posterior["dominant"], posterior["recessive"]), (None, 0.0, 1.0))

    def test_where_nothing_inherited_is_possible_copies_are_null(self) -> None:
        animals = family(["yes", "no"])
        _, _, copies = proved(animals, "c0", mistake=0, error=0, prior={"dominant": 0.5, "none": 0.5})
        self.assertEqual(copies["c0"], None)


BAD_PROOFS: dict[str, tuple[Json, str, str]] = {
    "no animals": ({"proband": "a"}, "animals", "missing"),
    "an unknown proband": ({"animals": [one("a")], "proband": "b"}, "proband", "not among"),
    "an id twice": ({"animals": [one("a"), one("a")], "proband": "a"}, "animals[1].id", "twice"),
    "its own ancestor": (
        {"animals": [one("a", dam="b"), one("b", dam="a")], "proband": "a"},
        "animals[0]",
        "own ancestor",
    ),
    "its own dam": ({"animals": [one("a", dam="a")], "proband": "a"}, "animals[0]", "own ancestor"),
    "a sire that is female": (
        {"animals": [one("a", sex="female"), one("b", sire="a")], "proband": "b"},
        "animals[1].sire",
        "must be male",
    ),
    "two dams": (
        {"animals": [one("a"), one("b"), one("c", dam="a", sire="b"), one("d", dam="b")], "proband": "a"},
        "animals[3].dam",
        "must be female",
    ),
    "a list of dams": ({"animals": [one("a"), {**one("b"), "dam": ["a"]}], "proband": "a"}, "animals[1].dam", "text"),
    "a parent that is not listed": ({"animals": [one("a", dam="x")], "proband": "a"}, "animals[0].dam", "not among"),
    "a way of showing that is none": (
        {"animals": [one("a", "maybe")], "proband": "a"},
        "animals[0].shows",
        "no, yes, strong, unseen",
    ),
    "a prior that does not sum": (
        {"animals": [one("a", "yes")], "proband": "a", "prior": {"none": 0.5}},
        "prior",
        "sum to 1",
    ),
    "a way that is not known": (
        {"animals": [one("a", "yes")], "proband": "a", "prior": {"magic": 1}},
        "prior.magic",
        "not known",
    ),
    "an error above one": ({"animals": [one("a", "yes")], "proband": "a", "error": 2}, "error", "from 0 to 1"),
    "an animal without a name": ({"animals": [{"shows": "no"}], "proband": "a"}, "animals[0].id", "missing"),
    "what nothing can give": (
        {"animals": family(["yes"]), "proband": "c0", "mistake": 0, "error": 0, "prior": {"dominant": 1}},
        "animals",
        "no way",
    ),
}


class BadInput(TestCase):
    def test_told_with_place_and_reason(self) -> None:
        for name, (document, at, reason) in BAD_PROOFS.items():
            with self.subTest(name):
                status, out, error = printed("prove", document)
                self.assertEqual((status, out, error["at"]), (2, "", at))
                self.assertIn(reason, error["error"])

    def test_a_parent_listed_after_its_child_is_fine(self) -> None:
        status, out, _ = printed("prove", {"animals": [one("c", "yes", "d"), one("d", "no")], "proband": "c"})
        self.assertEqual(status, 0)
        self.assertIn("log_likelihood", out)
