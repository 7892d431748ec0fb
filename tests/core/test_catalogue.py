"""The catalogue: its loader's places, and what the built-in one holds."""

from __future__ import annotations

import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np

from eyot_core.catalogue import STAGES, builtin_catalogue, builtin_document
from eyot_core.catalogue.builtin import PUSH_SCALE, catalogue_in
from eyot_core.errors import InputError
from eyot_core.identify.looks import chances_of_looks, likeliest_looks

GOOD = """loci:
- {id: G}
genes:
- {id: g, locus: G, inheritance: dominant}
traits:
- id: t
  levels:
  - {id: x}
  clarity: {egg: 1, wet: 1, blue: 1, shed: 1, months: 1, adult: 1}
"""


def pushes(gene: str, trait: str, copies: int = 1) -> dict[str, float]:
    """A gene's own pushes on a trait, in the reference's scale."""
    found: dict[str, float] = {}
    for effect in builtin_catalogue().effects:
        if effect.own_gene == gene and effect.trait == trait and copies in effect.when[0].copies:
            found |= {level: push / PUSH_SCALE for level, push in effect.push.items()}
    return found


def shown(genes: str, stage: str = "shed") -> dict[str, str]:
    genotype: dict[str, list[str]] = {}
    for name in genes.split():
        genotype.setdefault(builtin_catalogue().genes[name].locus, []).append(name)
    return likeliest_looks(builtin_catalogue(), genotype, stage)


class Files(TestCase):
    def read(self, **files: str) -> str:
        """The place of the mistake in a folder of catalogue files."""
        with tempfile.TemporaryDirectory() as folder:
            for name, text in files.items():
                (Path(folder) / f"{name}.yaml").write_text(text)
            with self.assertRaises(InputError) as caught:
                catalogue_in(Path(folder))
        return caught.exception.at

    def test_a_mistake_names_file_line_and_key(self) -> None:
        bad = "effects:\n- {when: [], trait: t, push: {x: 1}}\n- when: []\n  trait: t\n  push:\n    y: 2\n"
        self.assertEqual(self.read(a=GOOD, b=bad), "b.yaml, line 6: push.y")

    def test_the_second_file_counts_its_own_entries(self) -> None:
        bad = "genes:\n\n- {id: h, locus: G, inheritance: magic}\n"
        self.assertEqual(self.read(a=GOOD, b=bad), "b.yaml, line 3: inheritance")

    def test_a_missing_key_names_its_entry(self) -> None:
        self.assertEqual(self.read(a=GOOD, b="genes:\n- {id: h, locus: G}\n"), "b.yaml, line 2: inheritance")

    def test_what_is_not_yaml_names_the_line(self) -> None:
        self.assertEqual(self.read(a="loci:\n- {id: G\n- {id: H}\n"), "a.yaml, line 3")

    def test_an_unknown_section_is_named(self) -> None:
        self.assertEqual(self.read(a="gene: []\n"), "a.yaml: gene")
        self.assertEqual(self.read(a="loci: 3\n"), "a.yaml: loci")
        self.assertEqual(self.read(a="- 3\n"), "a.yaml")

    def test_a_push_that_is_no_number_is_named(self) -> None:
        self.assertEqual(
            self.read(a=GOOD + "effects:\n- {when: [], trait: t, push: {x: much}}\n"), "a.yaml, line 11: push.x"
        )


class BuiltIn(TestCase):
    def test_it_has_the_forty_six_looks_each_with_words(self) -> None:
        traits = builtin_document()["traits"]
        self.assertEqual(len(traits), 46)
        for entry in traits:
            self.assertTrue(entry["name"] and entry["question"].endswith("?"), entry["id"])
            self.assertEqual(list(entry["clarity"]), list(STAGES))

    def test_a_normal_animal_mostly_shows_the_wild_level(self) -> None:
        for trait, chances in chances_of_looks(builtin_catalogue(), {}, "shed").items():
            with self.subTest(trait):
                self.assertEqual(int(np.argmax(chances)), 0)
                self.assertGreater(chances[0], 0.6)

    def test_it_carries_the_genes_of_the_demo_clutches(self) -> None:
        self.assertEqual(pushes("mojave", "lobe_attach"), {"floating": 2.5})
        self.assertEqual(pushes("mojave", "head_hue", 2), {"purple_grey": 2.5})
        self.assertEqual(pushes("leopard", "lobe_shape")["joined"], 2)
        self.assertEqual(pushes("yellow_belly", "belly_edge"), {"jagged": 2})
        self.assertEqual(pushes("black_pastel", "eye_stripe_width"), {"missing": 1.5})
        self.assertEqual(pushes("fire", "head_lightness"), {"lighter": 2})
        self.assertEqual(pushes("vanilla", "head_blush"), {"slight": 1.5})
        self.assertEqual(pushes("enchi", "eye_stripe_width"), {"wide": 1})
        self.assertEqual(pushes("pinstripe", "flank_lines")["pin"], 3)
        self.assertIn("purple", pushes("banana", "dark_pigment"))

    def test_complexes_share_a_locus_and_axanthic_lines_do_not(self) -> None:
        genes = builtin_catalogue().genes
        self.assertEqual(genes["fire"].locus, genes["vanilla"].locus)
        self.assertEqual(genes["cinnamon"].locus, genes["black_pastel"].locus)
        self.assertNotEqual(genes["axanthic_a"].locus, genes["axanthic_b"].locus)
        self.assertTrue(builtin_catalogue().loci[genes["banana"].locus].on_sex_chromosome)
        self.assertEqual(genes["spider"].viability[2], 0)

    def test_white_hides_what_it_covers(self) -> None:
        self.assertEqual(shown("mojave mojave pinstripe")["white_share"], "all")
        chances = chances_of_looks(builtin_catalogue(), {"bel": ["mojave", "mojave"], "pin": ["pinstripe"]}, "shed")
        self.assertAlmostEqual(float(chances["flank_lines"].max()), float(chances["flank_lines"].min()), 12)

    def test_a_piebald_shows_white_even_through_the_window(self) -> None:
        self.assertEqual(shown("piebald piebald", "egg")["white_layout"], "saddles")
        self.assertEqual(shown("piebald", "shed")["white_layout"], "none")

    def test_nothing_of_colour_can_be_judged_in_the_blue(self) -> None:
        plain = chances_of_looks(builtin_catalogue(), {}, "blue")["eye_color"]
        self.assertAlmostEqual(float(plain.max()), float(plain.min()), 12)

    def test_every_gene_says_how_sure_the_field_is(self) -> None:
        for entry in builtin_document()["genes"]:
            self.assertIn(entry["standing"], ("established", "reported", "disputed"), entry["id"])
