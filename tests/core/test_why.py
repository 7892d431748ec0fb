"""Cues for and against a gene, against the whole reckoning done again without each look; and what would settle it when."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase

import numpy as np

from eyot_core.catalogue import builtin_catalogue
from eyot_core.genetics.pairing import pairing_from
from eyot_core.identify.evidence import Hatchling, Observation
from eyot_core.identify.inference import Inference, KeptWork
from eyot_core.identify.why import cues_of, outlooks
from eyot_core.parsing import Node

CATALOGUE = builtin_catalogue()
LOOKS = (
    Observation("head_stamp", "busy", "shed"),
    Observation("lobe_spots", "rim", "shed"),
    Observation("lightness", "usual", "egg", "likely"),
    Observation("belly_edge", "flamed", "shed"),
)
SIBLING = Hatchling("2", (Observation("white_layout", "saddles", "shed"),))


def inference(*looks: Observation) -> Inference:
    document = {
        "dam": {"genes": [{"gene": "mojave", "copies": 1}, {"gene": "piebald", "copies": 1, "chance": "2/3"}]},
        "sires": [{"genes": [{"gene": name, "copies": 1} for name in ("leopard", "yellow_belly", "piebald")]}],
    }
    return Inference(pairing_from(Node(document), CATALOGUE), [Hatchling("1", looks), SIBLING])


def known_looks() -> tuple[Observation, ...]:
    """The looks, each with a level that its trait has."""
    return tuple(
        look
        if look.level in CATALOGUE.traits[look.trait].level_index
        else Observation(look.trait, CATALOGUE.traits[look.trait].levels[1].id, look.stage, look.confidence)
        for look in LOOKS
    )


def odds_of(found: Inference, gene: str) -> float:
    g, counting = found.pairing.counting[gene]
    chances = counting @ found.posteriors[0].sums.of([g])
    return float(chances[1:].sum() / chances[0])


class Cues(TestCase):
    def test_each_factor_is_what_the_odds_lose_without_the_look(self) -> None:
        looks = known_looks()
        whole = inference(*looks)
        for gene in ("mojave", "leopard", "yellow_belly"):
            cues = {cue.trait: cue for cue in cues_of(whole, 0, gene, 1)}
            self.assertTrue(cues, gene)
            for look in looks:
                without = inference(*(other for other in looks if other != look))
                factor = odds_of(whole, gene) / odds_of(without, gene)
                with self.subTest(gene=gene, look=look.trait):
                    if look.trait in cues:
                        self.assertAlmostEqual(cues[look.trait].factor, factor, 9)
                    else:
                        self.assertLess(abs(factor - 1), 0.021)

    def test_the_strongest_comes_first_and_levels_sum_to_one(self) -> None:
        cues = cues_of(inference(*known_looks()), 0, "mojave", 1)
        strengths = [max(cue.factor, 1 / cue.factor) for cue in cues]
        self.assertEqual(strengths, sorted(strengths, reverse=True))
        for cue in cues:
            self.assertAlmostEqual(float(cue.with_gene.sum()), 1)
            self.assertAlmostEqual(float(cue.without_gene.sum()), 1)

    def test_a_look_that_speaks_for_a_gene_was_likelier_with_it(self) -> None:
        look = Observation("white_layout", "saddles", "shed")
        cue = cues_of(inference(look), 0, "piebald", 2)[0]
        level = CATALOGUE.traits["white_layout"].level_index["saddles"]
        self.assertGreater(cue.factor, 10)
        self.assertGreater(cue.with_gene[level], cue.without_gene[level])

    def test_without_looks_there_are_no_cues(self) -> None:
        self.assertEqual(cues_of(inference(), 0, "mojave", 1), [])


class Outlooks(TestCase):
    def test_each_stage_from_now_on_has_the_look_that_settles_most_often(self) -> None:
        found = outlooks(inference(), 0, "yellow_belly", "egg")
        self.assertEqual(
            [one.stage for one in found],
            sorted((one.stage for one in found), key=["egg", "wet", "blue", "shed", "months", "adult"].index),
        )
        gains = {one.stage: one.settling.gain for one in found}
        self.assertGreater(gains["shed"], gains["egg"])
        self.assertEqual({one.settling.gene for one in found}, {"yellow_belly"})
        self.assertNotIn("egg", [one.stage for one in outlooks(inference(), 0, "yellow_belly", "shed")])


class StepByStep(TestCase):
    """What a hatchling was held to be after each look is what the looks up to it say, reckoned from nothing."""

    def test_every_step_is_the_posterior_of_the_looks_so_far(self) -> None:
        again = Observation("head_stamp", "normal", "months")
        looks = (*known_looks(), again, Observation("lobe_attach", "unseen", "shed"))
        steps = inference(*looks).step_by_step(0)
        self.assertEqual(len(steps), len(looks) + 1)
        for count, step in enumerate(steps):
            np.testing.assert_allclose(step.whole, inference(*looks[:count]).posteriors[0].children, atol=1e-15)

    def test_shares_that_were_kept_change_nothing_and_are_made_once(self) -> None:
        first = inference(*known_looks())
        kept = KeptWork()
        for looks in (known_looks()[:2], known_looks()):
            hatchlings = [Hatchling("1", looks), SIBLING]
            again = Inference(first.pairing, hatchlings, first.model, kept)
            sibling = again.work[1]
        self.assertEqual(again.log_evidence, first.log_evidence)
        np.testing.assert_array_equal(again.posteriors[0].children, first.posteriors[0].children)
        other = Inference(first.pairing, [replace(SIBLING, id="another name")], first.model, kept)
        self.assertIs(other.work[0], sibling)

    def test_what_fills_the_room_is_forgotten_oldest_first(self) -> None:
        first = inference()
        made: list[Hatchling] = []
        kept = KeptWork(cells=2 * first.posteriors[0].children.size)
        for look in (None, *known_looks()[:2], None):
            hatchling = Hatchling("", (look,) if look else ())
            kept.get(hatchling, lambda one=hatchling: (made.append(one), first.work[0])[1])
        self.assertEqual([len(one.observations) for one in made], [0, 1, 1, 0])
