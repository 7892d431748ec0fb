"""Facts of the field that the catalogue once had wrong, each held by what follows for a keeper."""

from __future__ import annotations

from unittest import TestCase

from eyot_core.catalogue import builtin_catalogue, builtin_document
from eyot_core.identify.looks import chances_of_looks

from tests.core.pairings import animal, chance_of, hatchling, identified, look


def share(genes: str, trait: str, *levels: str, stage: str = "shed") -> float:
    """Chance that an animal of these genes shows one of some levels."""
    catalogue, genotype = builtin_catalogue(), dict[str, list[str]]()
    for name in genes.split():
        genotype.setdefault(catalogue.genes[name].locus, []).append(name)
    chances = chances_of_looks(catalogue, genotype, stage)[trait]
    return float(sum(chances[catalogue.traits[trait].level_index[level]] for level in levels))


def after(gene: str, trait: str, level: str, stage: str = "shed") -> float:
    """Chance of a gene from one look, with a prior of one half."""
    recessive = builtin_catalogue().genes[gene].is_recessive
    sire = animal(f"{gene}*2") if recessive else animal()
    answer = identified(animal(gene), [sire], [hatchling("1", look(trait, level, stage))])
    return chance_of(answer, 0, gene, "2" if recessive else "1")


class StrongerSigns(TestCase):
    def test_stronger_signs_speak_more_for_the_gene(self) -> None:
        for gene, trait, weak, strong in (
            ("yellow_belly", "flank_flames", "some", "strong"),
            ("cinnamon", "lightness", "darker", "very_dark"),
            ("calico", "side_white", "low", "high"),
            ("lesser", "lightness", "lighter", "very_light"),
            ("enchi", "banding", "some", "strong"),
        ):
            with self.subTest(gene):
                self.assertGreater(after(gene, trait, strong), 0.85)
                self.assertGreater(after(gene, trait, strong), after(gene, trait, weak) + 0.1)

    def test_two_brighteners_are_brighter(self) -> None:
        very = [share(genes, "lightness", "very_light") for genes in ("", "pastel", "pastel fire")]
        self.assertEqual(very, sorted(very))
        self.assertGreater(very[2], 0.8)


class UnmistakableSigns(TestCase):
    takes_long = True

    def test_a_banana_is_called_from_one_look_in_the_egg(self) -> None:
        self.assertGreater(after("banana", "dark_pigment", "purple", "egg"), 0.97)

    def test_red_eyes_and_white_saddles_settle_at_once(self) -> None:
        self.assertGreater(after("albino", "eye_color", "red"), 0.99)
        self.assertGreater(after("piebald", "white_layout", "saddles", "egg"), 0.99)

    def test_a_plain_pied_and_a_plain_clown_of_unknown_parents(self) -> None:
        pied = [look("white_layout", "saddles", "adult"), look("white_share", "mid", "adult")]
        found = identified(None, [], [hatchling("1", *pied)])
        self.assertGreater(chance_of(found, 0, "piebald", "2"), 0.97)
        signs = ("dorsal_stripe full", "lobe_attach absent", "dorsal_tone dark", "head_stamp busy", "belly_marks none")
        clown = [look(*sign.split(), "adult") for sign in signs]
        self.assertGreater(chance_of(identified(None, [], [hatchling("1", *clown)]), 0, "clown", "2"), 0.9)


class Mended(TestCase):
    def test_double_lines_are_the_sign_of_spider_with_pinstripe(self) -> None:
        for dam, sire in (("spider", "pinstripe"), ("spider puzzle", "pinstripe puzzle")):
            parents = [animal(*names.split()) for names in (dam, sire)]
            answer = identified(parents[0], [parents[1]], [hatchling("1", look("flank_lines", "double"))])
            for gene in ("spider", "pinstripe"):
                self.assertGreater(chance_of(answer, 0, gene), 0.95, (gene, dam))

    def test_cypress_makes_the_black_pewter_with_pinstripe_purple_and_the_second_pastel_takes_the_pattern(self) -> None:
        self.assertGreater(share("cypress pastel black_pastel pinstripe", "body_hue", "purple"), 0.8)
        self.assertLess(share("pastel black_pastel pinstripe", "body_hue", "purple"), 0.05)
        four = "cypress pastel pastel black_pastel pinstripe"
        self.assertGreater(share(four, "body_hue", "purple"), 0.8)
        self.assertGreater(share(four, "pattern_amount", "patternless"), 0.9)

    def test_adults_of_calico_and_sugar_whiten_and_some_stay_low(self) -> None:
        for gene, least in (("calico", 0.2), ("sugar", 0.4)):
            self.assertGreater(share(gene, "side_white", "high", stage="adult"), least)
            self.assertGreater(share(gene, "side_white", "none", "low", stage="adult"), 0.05)
        self.assertGreater(share("calico spider", "side_white", "high", stage="adult"), 0.7)
        self.assertGreater(share("calico", "pattern_order", "scrambled"), 3 * share("", "pattern_order", "scrambled"))

    def test_wobble_is_seen_in_more_spiders_as_they_grow(self) -> None:
        seen = [share("spider", "wobble", "mild", "marked", stage=stage) for stage in ("shed", "months", "adult")]
        self.assertGreater(seen[0], 0.5)
        self.assertGreater(seen[1], seen[0] + 0.2)
        welfare = next(entry["welfare"] for entry in builtin_document()["genes"] if entry["id"] == "spider")
        self.assertNotIn("in all", welfare)

    def test_yellow_belly_and_leopard_in_a_pied_rest_on_its_saddles(self) -> None:
        pied = "piebald piebald"
        plain = share(pied, "saddle_edge", "jagged")
        self.assertGreater(share(f"{pied} yellow_belly", "saddle_edge", "jagged"), 3 * plain)
        self.assertGreater(
            share(f"{pied} leopard", "saddle_black", "present"), 2 * share(pied, "saddle_black", "present")
        )
        self.assertLess(share("yellow_belly", "saddle_edge", "smooth", "jagged"), 0.01)

    def test_white_of_pieds_with_other_genes(self) -> None:
        pied = "piebald piebald"
        self.assertGreater(share(f"{pied} lesser", "white_share", "all"), 0.5)
        for genes in ("mojave", "leopard", "mojave leopard"):
            self.assertGreater(share(f"{pied} {genes}", "white_share", "high"), 0.7, genes)
            self.assertLess(share(f"{pied} {genes}", "white_share", "all"), 0.1, genes)
        self.assertGreater(share(f"{pied} enchi enchi", "white_share", "low"), 0.8)

    def test_spots_on_the_snout_and_red_spots(self) -> None:
        self.assertGreater(after("spotnose", "snout_spots", "present"), 0.75)
        self.assertGreater(share("clown clown leopard", "red_spots", "present"), 0.7)
        self.assertLess(share("leopard", "red_spots", "present"), 0.05)

    def test_doubles_of_the_black_complex_have_a_reported_range_and_only_wobblers_are_restricted(self) -> None:
        entries = {entry["id"]: entry for entry in builtin_document()["genes"]}
        for gene in ("cinnamon", "black_pastel"):
            self.assertIn("one of each", entries[gene]["viability_words"])
        restricted = {gene for gene, entry in entries.items() if entry.get("restricted")}
        self.assertEqual(restricted, {"spider", "woma", "hgw", "champagne", "sable", "spotnose"})
