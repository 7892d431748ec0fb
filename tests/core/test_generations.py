"""Plans over generations: by hand, against a program that plays the written rules, and what can't be asked for."""

from __future__ import annotations

import random
from fractions import Fraction
from typing import Any
from unittest import TestCase
from unittest.mock import patch

from eyot_core.catalogue import builtin_catalogue
from eyot_core.errors import InputError
from eyot_core.generations import plan as plan_module
from eyot_core.generations.answer import own_of, project_answer
from eyot_core.generations.exchange import Exchanging
from eyot_core.generations.genomes import Room, Wanted
from eyot_core.generations.plan import Own, Rules, Step
from eyot_core.generations.search import Found, Search
from eyot_core.genetics.animals import parent_from
from eyot_core.parsing import Node

CATALOGUE = builtin_catalogue()
Json = dict[str, Any]
Genome = dict[str, int]


def entry(gene: str, copies: int = 1, **more: Any) -> Json:
    return {"gene": gene, "copies": copies, **more}


def animal(name: str, sex: str, *genes: Json, ready: int = 0) -> Json:
    return {"id": name, "sex": sex, "genes": list(genes), "ready": ready}


def step(season: int, dam: str, sire: str, name: str, *genes: Json, sex: str = "") -> Json:
    return {
        "season": season,
        "dam": dam,
        "sire": sire,
        "keep": {"id": name, "genes": list(genes)} | ({"sex": sex} if sex else {}),
    }


def answered(
    animals: list[Json], goal: list[Json], plan: list[Json] | None = None, sex: str = "", **rules: Any
) -> Json:
    document: Json = {"animals": animals, "goal": {"genes": goal} | ({"sex": sex} if sex else {}), "rules": rules}
    return project_answer(Node(document | ({"plan": plan} if plan else {})), CATALOGUE)


def by_season(*args: Any, **more: Any) -> list[float]:
    [plan] = answered(*args, **more)["plans"]
    return plan["by_season"]  # type: ignore[no-any-return]


def at_least_one(chance: float, eggs: int) -> float:
    return 1 - (1 - chance) ** eggs


def played(document: Json, games: int, seed: int) -> list[float]:
    """The written rules, played: for single autosomal loci that are not linked. Shares by season."""
    rules = {
        "eggs": 6,
        "hatch": 0.9,
        "clutches": 1,
        "female_ready": 3,
        "male_ready": 1,
        "seasons": 8,
        "rest": 0,
    } | document["rules"]
    dice, reached = random.Random(seed), [0] * rules["seasons"]
    for _ in range(games):
        season = one_game(document, rules, dice)
        if season is not None:
            for later in range(season, rules["seasons"]):
                reached[later] += 1
    return [count / games for count in reached]


def one_game(document: Json, rules: Json, dice: random.Random) -> int | None:
    there = {one["id"]: (one["sex"], drawn(one, dice), one["ready"]) for one in document["animals"]}
    asked = {one[role]: sex for one in document["plan"] for role, sex in (("dam", "female"), ("sire", "male"))}
    pending, resting = list(document["plan"]), {}
    for season in range(rules["seasons"]):
        pairs: dict[tuple[str, str], list[Json]] = {}
        for one in pending:
            pair = (one["dam"], one["sire"])
            free = resting.get(one["dam"], 0) <= season and one["dam"] not in {dam for dam, _ in pairs}
            ready = all(name in there and there[name][2] <= season for name in pair)
            if one["season"] <= season and ready and (pair in pairs or free):
                pairs.setdefault(pair, []).append(one)
        for (dam, sire), steps in pairs.items():
            resting[dam] = season + 1 + rules["rest"]
            young = [born(there[dam][1], there[sire][1], dice) for _ in range(rules["eggs"] * rules["clutches"])]
            hatched = [one for one in young if dice.random() < rules["hatch"]]
            for one in steps:
                keep = one["keep"]
                sex = keep.get("sex") or asked.get(keep["id"])
                fitting = [child for child in hatched if sex in (None, child[0]) and has(child[1], keep["genes"])]
                if fitting:
                    chosen = dice.choice(fitting)
                    hatched.remove(chosen)
                    there[keep["id"]] = (*chosen, season + rules[f"{chosen[0]}_ready"])
                    pending.remove(one)
                    goal = document["goal"]
                    if goal.get("sex") in (None, chosen[0]) and has(chosen[1], goal["genes"]):
                        return season
    return None


def drawn(one: Json, dice: random.Random) -> Genome:
    return {gene["gene"]: gene["copies"] for gene in one["genes"] if dice.random() < Fraction(gene.get("chance", "1"))}


def born(dam: Genome, sire: Genome, dice: random.Random) -> tuple[str, Genome]:
    genes = {*dam, *sire}
    passed = {gene: sum(dice.random() < parent.get(gene, 0) / 2 for parent in (dam, sire)) for gene in genes}
    return dice.choice(["female", "male"]), passed


def has(genome: Genome, genes: list[Json]) -> bool:
    return all(genome.get(one["gene"], 0) >= one["copies"] for one in genes)


CLOWN, PASTEL = entry("clown", 2), entry("pastel")
VISUAL, SINGLE = animal("A", "female", CLOWN), animal("B", "male", PASTEL)
INTO_RECESSIVE = [
    step(0, "A", "B", "H1", PASTEL, entry("clown"), sex="male"),
    step(1, "A", "H1", "H2", CLOWN, PASTEL),
]


class ByHand(TestCase):
    def test_one_pairing(self) -> None:
        """Het × het: one visual in four, tried again every season."""
        animals = [animal("A", "female", entry("clown")), animal("B", "male", entry("clown"))]
        chance = at_least_one(0.25 * 0.9, 6)
        expected = [1 - (1 - chance) ** count for count in range(1, 9)]
        for found, true in zip(by_season(animals, [CLOWN], [step(0, "A", "B", "H", CLOWN)]), expected, strict=True):
            self.assertAlmostEqual(found, true, places=11)

    def test_visual_by_het_is_twice_as_likely_an_egg(self) -> None:
        animals = [animal("A", "female", CLOWN), animal("B", "male", entry("clown"))]
        found = by_season(animals, [CLOWN], [step(0, "A", "B", "H", CLOWN)], eggs=4, hatch=1)
        self.assertAlmostEqual(found[0], 1 - 0.5**4, places=12)

    def test_a_single_gene_into_a_recessive(self) -> None:
        """From a visual dam and a single-gene sire: a son with the gene (one egg in four), then back to her."""
        one = at_least_one(0.25 * 0.9, 6)
        found = by_season([VISUAL, SINGLE], [CLOWN, PASTEL], INTO_RECESSIVE)
        self.assertEqual(found[0], 0)
        self.assertAlmostEqual(found[1], one**2, places=11)
        self.assertAlmostEqual(found[2], one**2 + 2 * one**2 * (1 - one), places=11)

    def test_what_an_animal_may_be_is_one_fact_for_all_its_clutches(self) -> None:
        """A 66 % het that is none is none in every season."""
        animals = [VISUAL, animal("B", "male", entry("clown", chance="2/3"))]
        found = by_season(animals, [CLOWN], [step(0, "A", "B", "H", CLOWN)], seasons=30)
        self.assertAlmostEqual(found[0], 2 / 3 * at_least_one(0.45, 6), places=11)
        self.assertAlmostEqual(found[-1], 2 / 3, places=9)

    def test_siblings_of_one_clutch_are_two_animals(self) -> None:
        """Of two eggs a female and a male: half the time, where all hatch and all fit."""
        animals = [animal("A", "female", CLOWN), animal("B", "male", CLOWN)]
        plan = [
            step(0, "A", "B", "H1", CLOWN, sex="female"),
            step(0, "A", "B", "H2", CLOWN, sex="male"),
            step(0, "H1", "H2", "H3", CLOWN),
        ]
        rules = {"eggs": 2, "hatch": 1, "female_ready": 1, "seasons": 2}
        [one] = answered(animals, [CLOWN], plan, sex="female", **rules)["plans"]
        self.assertAlmostEqual(one["by_season"][0], 0.75, places=12, msg="a female that is visual is the goal")

    def test_a_double_that_dies_is_counted_though_nobody_asked_for_its_gene(self) -> None:
        """Of spider × spider a quarter of the eggs is lost, whatever the goal is."""
        animals = [
            animal("A", "female", entry("clown"), entry("spider")),
            animal("B", "male", entry("clown"), entry("spider")),
        ]
        found = by_season(animals, [CLOWN], [step(0, "A", "B", "H", CLOWN)])
        self.assertAlmostEqual(found[0], at_least_one(0.25 * 0.9 * 0.75, 6), places=11)

    def test_sex_linked_genes_go_by_the_maker(self) -> None:
        """A male maker's banana goes to sons, but for one in fourteen that crosses over."""
        recombination = CATALOGUE.loci[CATALOGUE.genes["banana"].locus].recombination
        animals = [animal("A", "female"), animal("B", "male", entry("banana", on="Y"))]
        goal = [entry("banana")]
        found = by_season(animals, goal, [step(0, "A", "B", "H", *goal)], sex="female", eggs=1, hatch=1, seasons=1)
        self.assertAlmostEqual(found[0], 0.5 * recombination, places=11)

    def test_a_dam_rests_and_gives_one_clutch_a_season(self) -> None:
        animals = [VISUAL, animal("B", "male", CLOWN), animal("C", "male", CLOWN)]
        plan = [step(0, "A", "B", "H1", CLOWN, sex="female"), step(0, "A", "C", "H2", CLOWN, sex="male")]
        rules = {"eggs": 1, "hatch": 1, "seasons": 3}
        self.assertEqual(by_season(animals, [CLOWN], plan, sex="male", **rules), [0.0, 0.25, 0.5])
        rested = by_season(animals, [CLOWN], plan[1:], sex="male", rest=1, **rules)
        self.assertEqual(rested, [0.5, 0.5, 0.75])


class AgainstAGame(TestCase):
    """Within the sampling error of 10,000 games of the written rules."""

    PLANS = (
        ([VISUAL, SINGLE], INTO_RECESSIVE, [CLOWN, PASTEL], {}),
        (
            [
                animal("A", "female", CLOWN),
                animal("B", "male", entry("piebald", 2)),
                animal("C", "female", PASTEL, ready=1),
            ],
            [
                step(0, "A", "B", "H1", entry("clown"), entry("piebald"), sex="female"),
                step(0, "A", "B", "H2", entry("clown"), entry("piebald"), sex="male"),
                step(1, "H1", "H2", "H3", CLOWN, entry("piebald", 2)),
            ],
            [CLOWN, entry("piebald", 2)],
            {"female_ready": 2, "clutches": 2, "seasons": 9},
        ),
        (
            [
                animal("A", "female", entry("clown", chance="1/2"), PASTEL),
                animal("B", "male", CLOWN),
                animal("C", "female", entry("enchi", 2), ready=1),
            ],
            [
                step(0, "A", "B", "H1", PASTEL, entry("clown"), sex="male"),
                step(1, "C", "H1", "H2", PASTEL, entry("enchi"), sex="female"),
                step(2, "H2", "B", "H3", PASTEL, entry("enchi"), CLOWN),
            ],
            [PASTEL, entry("enchi"), CLOWN],
            {"eggs": 5, "hatch": 0.8, "female_ready": 2, "rest": 1, "seasons": 10},
        ),
    )

    def test_the_chances_are_those_of_a_game(self) -> None:
        for number, (animals, plan, goal, rules) in enumerate(self.PLANS):
            document = {"animals": animals, "plan": plan, "goal": {"genes": goal}, "rules": rules}
            found, games = by_season(animals, goal, plan, **rules), played(document, 5_000, number)
            self.assertGreater(found[-1], 0.2)
            for one, other in zip(found, games, strict=True):
                self.assertLess(abs(one - other), 4 * (max(one * (1 - one), 1e-4) / 5_000) ** 0.5)

    def test_where_it_is_too_much_it_is_played_and_the_error_said(self) -> None:
        animals, plan, goal, rules = self.PLANS[1]
        exact = by_season(animals, goal, plan, **rules)
        with patch.object(plan_module, "MOST_WORLDS", 0):
            [one] = answered(animals, goal, plan, **rules)["plans"]
        self.assertTrue(0 < one["error"] < 0.005)
        for found, true in zip(one["by_season"], exact, strict=True):
            self.assertLess(abs(found - true), 5 * one["error"])


class Sought(TestCase):
    def test_a_single_gene_into_a_recessive_is_found(self) -> None:
        [first, *_] = answered([VISUAL, SINGLE], [CLOWN, PASTEL])["plans"]
        self.assertEqual([(one["dam"], one["sire"]) for one in first["steps"]], [("A", "B"), ("A", "H1")])
        self.assertEqual(first["median"], 1)
        self.assertEqual(first["by_season"], by_season([VISUAL, SINGLE], [CLOWN, PASTEL], INTO_RECESSIVE))

    def test_two_recessives_take_two_generations(self) -> None:
        animals = [VISUAL, animal("B", "male", entry("piebald", 2))]
        plans = answered(animals, [CLOWN, entry("piebald", 2)], seasons=12)["plans"]
        self.assertEqual([one["keep"]["genes"] for one in plans[0]["steps"]][-1], [CLOWN, entry("piebald", 2)])
        self.assertTrue(all(len(one["steps"]) >= 2 for one in plans))
        hets = plans[0]["steps"][0]["keep"]["genes"]
        self.assertEqual(
            hets, [entry("clown"), entry("piebald")], "hets that are certain, not ones that are only possible"
        )

    def test_two_of_a_complex_meet_in_one_animal(self) -> None:
        animals = [animal("A", "female", entry("mojave")), animal("B", "male", entry("butter"))]
        goal = [entry("mojave"), entry("butter")]
        [first, *_] = answered(animals, goal)["plans"]
        self.assertAlmostEqual(first["by_season"][0], at_least_one(0.25 * 0.9, 6), places=11)

    def test_pairings_of_which_some_die_are_not_proposed(self) -> None:
        animals = [animal("A", "female", entry("spider"), PASTEL), animal("B", "male", entry("spider"))]
        animals += [animal("C", "female", PASTEL)]
        for one in answered(animals, [entry("spider"), PASTEL], sex="male")["plans"]:
            self.assertNotIn(("A", "B"), [(each["dam"], each["sire"]) for each in one["steps"]])

    def test_nor_are_those_of_which_some_would_suffer_of_what_nobody_asked_for(self) -> None:
        for dam, sire in (("spider", "spider"), ("champagne", "spider"), ("woma", "woma"), ("desert", "enchi")):
            with self.subTest(dam=dam, sire=sire):
                pair = [animal("A", "female", entry("clown"), entry(dam)), animal("B", "male", CLOWN, entry(sire))]
                self.assertEqual(answered(pair, [CLOWN], sex="female")["plans"], [])
                spared = [animal("A", "female", entry("clown")), pair[1]]
                self.assertTrue(answered(spared, [CLOWN], sex="female")["plans"])

    def test_a_het_that_only_a_test_tells_is_held_back_where_tests_are_had(self) -> None:
        """From one het dam: a tested son with the other gene, back to her. Of the eggs 1/2 · 1/2 · 1/2 · 0.9 are such a son."""
        animals = [animal("A", "female", entry("clown")), animal("B", "male", PASTEL)]
        self.assertEqual(answered(animals, [CLOWN, PASTEL], tests=False)["plans"], [])
        [plan, *_] = answered(animals, [CLOWN, PASTEL])["plans"]
        self.assertEqual(plan["steps"][0]["keep"]["genes"], [entry("pastel"), entry("clown") | {"by": "test"}])
        son, visual = at_least_one(0.125 * 0.9, 6), at_least_one(0.125 * 0.9, 6)
        self.assertAlmostEqual(plan["by_season"][1], son * visual, places=11)
        [again] = answered(animals, [CLOWN, PASTEL], plan["steps"])["plans"]
        self.assertEqual(again, plan)
        untested = [animal("A", "female", entry("piebald")), animal("B", "male", PASTEL)]
        self.assertTrue(answered(untested, [entry("piebald", 2), PASTEL])["plans"])
        untested = [animal("A", "female", entry("puzzle")), animal("B", "male", PASTEL)]
        self.assertEqual(answered(untested, [entry("puzzle", 2), PASTEL])["plans"], [])

    def test_a_pair_is_there_when_both_are(self) -> None:
        """Of two eggs of which each is the goal, both are there after one season half the time."""
        animals = [animal("A", "female", CLOWN), animal("B", "male", CLOWN, PASTEL)]
        document = {"animals": animals, "goal": {"genes": [PASTEL], "pair": True}}
        document |= {"rules": {"eggs": 2, "hatch": 1, "seasons": 3}}
        steps = [step(0, "A", "B", "H1", PASTEL, sex="female"), step(0, "A", "B", "H2", PASTEL, sex="male")]
        [plan] = project_answer(Node(document | {"plan": steps}), CATALOGUE)["plans"]
        each, both = at_least_one(0.25, 2), 2 * 0.25 * 0.25
        self.assertAlmostEqual(plan["by_season"][0], both, places=12)
        one = 2 * (each - both)
        none = 1 - both - one
        self.assertAlmostEqual(plan["by_season"][1], both + one * each + none * both, places=12)
        with self.assertRaisesRegex(InputError, "ask for one of the other sex"):
            project_answer(Node(document), CATALOGUE)
        document |= {"animals": [animal("A", "female", CLOWN), animal("B", "male", PASTEL)]}
        document["goal"] = {"genes": [PASTEL, CLOWN], "pair": True}
        document["rules"] = {}
        [found, *_] = project_answer(Node(document), CATALOGUE)["plans"]
        self.assertEqual([one["keep"].get("sex") for one in found["steps"][-2:]], ["female", "male"])

    def test_plans_are_different_and_the_soonest_first(self) -> None:
        animals = [VISUAL, SINGLE, animal("C", "male", PASTEL, entry("clown")), animal("D", "female", PASTEL)]
        plans = answered(animals, [CLOWN, PASTEL])["plans"]
        self.assertEqual((plans[0]["steps"][0]["sire"], plans[0]["median"]), ("C", 0))
        self.assertEqual(len({str(one["steps"]) for one in plans}), len(plans))
        medians = [99 if one["median"] is None else one["median"] for one in plans]
        self.assertEqual(medians, sorted(medians))

    def test_every_plan_holds_to_the_rules_and_is_followed_alike(self) -> None:
        animals = [
            VISUAL,
            SINGLE,
            animal("C", "female", entry("enchi")),
            animal("D", "male", entry("clown", chance="2/3")),
        ]
        goal = [CLOWN, PASTEL, entry("enchi")]
        for one in answered(animals, goal, places=3, generations=3, seasons=10)["plans"]:
            self.assertLessEqual(len(one["steps"]), 3)
            [again] = answered(animals, goal, one["steps"], places=3, generations=3, seasons=10)["plans"]
            self.assertEqual(again["by_season"], one["by_season"])

    def test_what_an_animal_most_likely_is_counts_beside_the_most_useful_that_it_may_be(self) -> None:
        """A dam that is a het by one chance in four: the pairing with her is found, and the safe one stands before it."""
        unsure = animal("A", "female", PASTEL, entry("clown", chance="1/4"))
        animals = [unsure, animal("B", "male", CLOWN), animal("C", "female", entry("clown"))]
        plans = answered(animals, [CLOWN, PASTEL], generations=2)["plans"]
        first = [(one["dam"], one["sire"]) for one in plans[0]["steps"]]
        self.assertEqual(first, [("A", "B"), ("C", "H1")])
        self.assertIn([("A", "B")], [[(one["dam"], one["sire"]) for one in plan["steps"]] for plan in plans])


def own(room: Room, name: str, sex: int, *genes: Json, ready: int = 0, is_bought: bool = False) -> Own:
    parent = parent_from(Node({"genes": list(genes)}), CATALOGUE, is_sire=sex == 1)
    return own_of(name, parent, room, ready, is_bought=is_bought)


class Bought(TestCase):
    """A visual that could be bought, beside a way with what is here."""

    def setUp(self) -> None:
        self.room = Room.about(CATALOGUE, ["clown", "pastel"])
        self.goal = Wanted({"clown": 2, "pastel": 1})
        self.here = [own(self.room, "A", 0, entry("clown")), own(self.room, "B", 1, PASTEL)]

    def found(self, *market: Own, **rules: int) -> list[Found]:
        return Search(self.room, Rules(**rules), [*self.here, *market], self.goal).plans()

    def test_it_is_told_where_it_is_sooner_than_what_is_here(self) -> None:
        visual = own(self.room, "buy", 1, CLOWN, PASTEL, is_bought=True)
        self.assertEqual(self.found(seasons=12, tests=False), [], "nothing of a het can be told")
        [plan] = self.found(visual, seasons=12, tests=False)
        self.assertEqual((plan.bought, [(one.dam, one.sire) for one in plan.steps]), ("buy", [("A", "buy")]))
        chance = at_least_one(0.25 * 0.9, 6)
        self.assertAlmostEqual(plan.outlook.by_season[0], chance, places=11)

    def test_one_is_bought_and_not_two(self) -> None:
        self.here = [own(self.room, "A", 0, entry("enchi"))]
        market = [
            own(self.room, "b1", 0, CLOWN, is_bought=True),
            own(self.room, "b2", 1, CLOWN, PASTEL, is_bought=True),
        ]
        for plan in self.found(*market, seasons=12):
            paired = {name for one in plan.steps for name in (one.dam, one.sire)}
            self.assertEqual(len(paired & {"b1", "b2"}), 1)

    def test_what_saves_nothing_is_not_bought(self) -> None:
        self.here = [own(self.room, "A", 0, CLOWN), own(self.room, "B", 1, PASTEL, entry("clown"))]
        worse = own(self.room, "buy", 1, CLOWN, is_bought=True)
        self.assertEqual({plan.bought for plan in self.found(worse)}, {""})


class Exchanged(TestCase):
    """Another animal in the place of one of a plan."""

    def test_who_leads_there_takes_the_place_the_soonest_first(self) -> None:
        room = Room.about(CATALOGUE, ["clown", "pastel", "spider"])
        steps = [
            Step(0, "A", "B", "H1", Wanted({"pastel": 1, "clown": 1}, 1)),
            Step(1, "A", "H1", "H2", Wanted({"clown": 2, "pastel": 1})),
        ]
        dam = own(room, "A", 0, CLOWN, entry("spider"))
        candidates = [
            own(room, "late", 1, PASTEL, ready=2),
            own(room, "het", 1, PASTEL, entry("clown")),
            own(room, "none", 1, entry("enchi")),
            own(room, "harm", 1, PASTEL, entry("spider")),
            own(room, "she", 0, PASTEL),
        ]
        exchanging = Exchanging(room, Rules(), Wanted({"clown": 2, "pastel": 1}), steps, [dam])
        found = exchanging.of("B", candidates)
        self.assertEqual(
            [], [one.taken for one in found], "her sons may have what she has, and she would be bred with them"
        )
        plain = Exchanging(room, Rules(), Wanted({"clown": 2, "pastel": 1}), steps, [own(room, "A", 0, CLOWN)])
        self.assertEqual([one.taken for one in plain.of("B", candidates)], ["het", "harm", "late"])
        chance = at_least_one(0.25 * 0.9, 6)
        late = plain.of("B", candidates)[2].found.outlook.by_season
        self.assertAlmostEqual(late[3], chance**2, places=11)


class Refused(TestCase):
    def test_what_cannot_be_is_told_with_its_place(self) -> None:
        both, plan = [VISUAL, SINGLE], INTO_RECESSIVE
        for animals, goal, steps, rules, place, words in (
            (both, [entry("mojave", 2), entry("butter")], None, {}, "goal.genes", "room for two"),
            (both, [entry("spider", 2)], None, {}, "goal.genes", "does not live"),
            (both, [entry("moss")], None, {}, "goal.genes[0].gene", "moss"),
            (both, [entry("enchi")], None, {}, "goal.genes[0]", "nobody can begin"),
            (both, [CLOWN], None, {}, "goal", "is what is wanted already"),
            (both, [], None, {}, "goal.genes", "at least one"),
            (both, [CLOWN, PASTEL], plan, {"places": 1}, "plan", "places for 1"),
            (both, [CLOWN, PASTEL], plan, {"generations": 1}, "plan[1]", "generation 2"),
            (both, [CLOWN, PASTEL], plan, {"eggs": 0}, "rules.eggs", "0"),
            (both, [CLOWN, PASTEL], plan, {"hatch": 2}, "rules.hatch", "2"),
            (both, [CLOWN, PASTEL], [step(0, "B", "A", "H", CLOWN)], {}, "plan[0].dam", "can't be the dam"),
            (both, [CLOWN, PASTEL], [step(0, "A", "Z", "H", CLOWN)], {}, "plan[0].sire", "no animal that is there"),
            ([*both, VISUAL], [CLOWN, PASTEL], None, {}, "animals[2].id", "twice"),
        ):
            with self.subTest(words=words), self.assertRaises(InputError) as told:
                answered(animals, goal, steps, **rules)
            self.assertEqual(told.exception.at, place)
            self.assertIn(words, told.exception.message)

    def test_what_nobody_can_tell_may_not_be_asked_for(self) -> None:
        animals = [animal("A", "female", entry("clown")), animal("B", "male", entry("pinstripe", 2))]
        for asked, ok in ((entry("clown"), False), (entry("clown") | {"by": "test"}, True), (entry("pinstripe"), True)):
            plan = [step(0, "A", "B", "H", asked)]
            if ok:
                answered(animals, [entry("clown"), entry("pinstripe")], plan)
            else:
                with self.assertRaises(InputError) as told:
                    answered(animals, [entry("clown"), entry("pinstripe")], plan)
                self.assertEqual(told.exception.at, "plan[0].keep.genes[0]")
