"""The catalogue: its loader's places, and what the built-in one holds."""

from __future__ import annotations

import pickle
import re
import shutil
import tempfile
from copy import deepcopy
from dataclasses import fields
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from eyot_core.catalogue import STAGES, Catalogue, builtin_catalogue, builtin_document, catalogue_from, files
from eyot_core.catalogue.builtin import DATA, kept_or_read
from eyot_core.catalogue.files import catalogue_in
from eyot_core.catalogue.written import PUSH_SCALE
from eyot_core.errors import InputError
from eyot_core.identify.looks import chances_of_looks, likeliest_looks
from eyot_core.identify.monotone import faults_of
from eyot_core.parsing import Node

from tests.keeper_study import called

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
    """The pushes of a gene's sheet on a trait, and its shift along it, in the reference's scale."""
    found: dict[str, float] = {}
    for entry in builtin_document()["effects"]:
        own = "rule" not in entry and entry["when"][0]["gene"] == gene and copies in entry["when"][0]["copies"]
        if own and entry["trait"] == trait:
            found |= {level: push / PUSH_SCALE for level, push in entry.get("push", {}).items()}
            found |= {"shift": entry["shift"] / PUSH_SCALE} if "shift" in entry else {}
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

    def test_a_mistake_in_a_rule_names_file_line_and_key(self) -> None:
        rule = "rules:\n- id: R1\n  claim: c\n  standing: reported\n  when: [g:1]\n  push:\n    t:\n      y: 2\n"
        self.assertEqual(self.read(a=GOOD, b=rule), "b.yaml, line 8: push.t.y")

    def test_a_mistake_in_a_sheet_names_file_line_and_key(self) -> None:
        sheet = "genes:\n- {id: h, locus: G, inheritance: dominant, one: {t: {x: 1}}}\n"
        second = "- id: k\n  locus: G\n  inheritance: dominant\n  two:\n    t: {y: 1}\n"
        self.assertEqual(self.read(a=GOOD, b=sheet + second), "b.yaml, line 7: two.t.y")
        unknown = second.replace("t: {y: 1}", "s: {y: 1}")
        self.assertEqual(self.read(a=GOOD, b=sheet + unknown), "b.yaml, line 7: two.s")

    def test_a_condition_that_cannot_be_read_is_named(self) -> None:
        rule = "rules:\n- {id: R1, claim: c, standing: reported, push: {t: {x: 1}},\n  when: [CONDITION]}\n"
        for condition in ("g", "g:3", "h:1", "complex.H:1", "g|h:1"):
            with self.subTest(condition):
                self.assertEqual(self.read(a=GOOD, b=rule.replace("CONDITION", condition)), "b.yaml, line 3: when")

    def test_an_unknown_key_of_a_rule_is_named(self) -> None:
        rule = "rules:\n- {id: R1, claim: c, standing: reported, when: [g:1], puhs: {t: {x: 1}}}\n"
        self.assertEqual(self.read(a=GOOD, b=rule), "b.yaml, line 2: puhs")

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
        sheet = "genes:\n- {id: h, locus: G, inheritance: dominant,\n   one: {t: {x: much}}}\n"
        self.assertEqual(self.read(a=GOOD, b=sheet), "b.yaml, line 3: one.t.x")


SMALL = """loci:
- {id: G}
- {id: H}
groups:
- {id: both, genes: [g, h]}
- {id: looks, traits: [t, s]}
traits:
- {id: t, levels: [{id: x, base: 1}, {id: y}], clarity: {egg: 1, wet: 1, blue: 1, shed: 1, months: 1, adult: 1}}
- {id: s, levels: [{id: x, base: 1}, {id: y}], clarity: {egg: 1, wet: 1, blue: 1, shed: 1, months: 1, adult: 1}}
genes:
- {id: g, locus: G, inheritance: incomplete_dominant, standing: established, one: {t: {y: 1}, s: {y: 1}}, two: {t: {y: 3}}}
- {id: h, locus: H, inheritance: recessive, standing: reported, two: {t: {y: 2}},
   carriers: {words: "seen by some", trust: 0.5, marks: {t: {y: 1}}}}
"""


class WrittenOut(TestCase):
    """From sheets and rules to the contract's effects, dilutions and masks."""

    def read(self, rule: str = "") -> dict[str, list[dict[str, object]]]:
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "a.yaml").write_text(SMALL)
            if rule:
                (Path(folder) / "b.yaml").write_text(f"rules:\n- {{id: R1, claim: c, standing: reported, {rule}}}\n")
            return catalogue_in(Path(folder)).document

    def test_one_copy_holds_for_two_unless_two_speaks_of_the_same_look(self) -> None:
        found = {(row["trait"], str(row["when"])): row["push"] for row in self.read()["effects"]}
        self.assertEqual(found["t", "[{'gene': 'g', 'copies': [1]}]"], {"y": 2})
        self.assertEqual(found["t", "[{'gene': 'g', 'copies': [2]}]"], {"y": 6})
        self.assertEqual(found["s", "[{'gene': 'g', 'copies': [1, 2]}]"], {"y": 2})

    def test_marks_of_carriers_are_no_effects(self) -> None:
        document = self.read()
        self.assertEqual([row["standing"] for row in document["effects"] if "'h'" in str(row["when"])], ["reported"])
        plain, pushed = 1 / (1 + np.e), np.e**2 / (np.e**2 + np.e)
        carrier = 0.5 * pushed + 0.5 * plain
        self.assertAlmostEqual(document["markers"][0]["ratio_seen"], carrier / plain, 3)  # type: ignore[arg-type]

    def test_either_is_one_rule_for_each_and_none_with_itself(self) -> None:
        rule = self.read("when: [g|h:1], any: [both:1+], push: {t: {x: 1}}")["effects"][-2:]
        self.assertEqual([[one["gene"] for one in row["when"]] for row in rule], [["g", "h"], ["h", "g"]])  # type: ignore[index, attr-defined]
        self.assertEqual(rule[0]["rule"], "R1")

    def test_no_gene_is_company_to_itself(self) -> None:
        found = self.read("any: [both:1+], dilute: [{genes: [both], traits: [looks], times: 0.5}]")["dilutions"]
        self.assertEqual([(row["when"][0]["gene"], row["gene"]) for row in found], [("g", "h"), ("h", "g")])  # type: ignore[index]
        self.assertEqual(found[0]["traits"], ["t", "s"])

    def test_hiding_is_thinning_to_nothing_and_damping_spares_what_is_named(self) -> None:
        hidden = self.read("when: [complex.G:2], hide: [h]")["dilutions"][0]
        self.assertEqual((hidden["times"], hidden["when"]), (0, [{"locus": "G", "copies": [2]}]))
        damped = self.read("when: [g:2], damp_all_but: {traits: [t], times: 0.1}, damp: {t: 0.5}")["masks"][0]
        self.assertEqual(damped["damp"], {"s": 0.1, "t": 0.5})


class Kept(TestCase):
    """The built-in catalogue as it was kept when it was last read."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.data, self.kept = Path(folder.name) / "data", Path(folder.name) / "cache/catalogue.pickle"
        shutil.copytree(DATA, self.data)

    def test_what_was_kept_is_what_was_read(self) -> None:
        read = kept_or_read(self.data, self.kept)
        with patch.object(files, "catalogue_in", side_effect=AssertionError("read once more")):
            again = kept_or_read(self.data, self.kept)
        for name in (one.name for one in fields(Catalogue)):
            self.assertEqual(getattr(again, name), getattr(read, name), name)
        self.assertEqual(again.document, builtin_document())

    def test_it_counts_only_while_the_files_are_the_same(self) -> None:
        kept_or_read(self.data, self.kept)
        path = self.data / "30-banana.yaml"
        path.write_text(path.read_text().replace("Banana", "Plantain"))
        names = [entry["name"] for entry in kept_or_read(self.data, self.kept).document["genes"]]
        self.assertIn("Plantain", names)

    def test_what_is_damaged_or_can_not_be_kept_is_read(self) -> None:
        kept_or_read(self.data, self.kept)
        whole = self.kept.read_bytes()
        for damaged in (b"", b"no pickle", whole[: len(whole) // 2], pickle.dumps("another stamp"), whole[:-200]):
            self.kept.write_bytes(damaged)
            self.assertEqual(kept_or_read(self.data, self.kept).document, builtin_document())
            self.assertEqual(self.kept.read_bytes(), whole)
        self.assertEqual(kept_or_read(self.data, self.kept / "below/a.pickle").document, builtin_document())
        self.assertEqual([path.name for path in self.kept.parent.iterdir()], [self.kept.name])


class BuiltIn(TestCase):
    def test_it_has_the_fifty_looks_each_with_words(self) -> None:
        traits = builtin_document()["traits"]
        self.assertEqual(len(traits), 50)
        for entry in traits:
            self.assertTrue(entry["name"] and entry["question"].endswith("?"), entry["id"])
            self.assertEqual(list(entry["clarity"]), list(STAGES))

    def test_every_figure_of_mistakes_stands_in_the_documentation_with_its_ground(self) -> None:
        text = (Path(__file__).parents[2] / "docs/catalogue.md").read_text(encoding="utf-8")
        look, message = "", set()
        for name, figures in re.findall(r"^\|([^|]*)\| ([^|]*\*\w+\* [\d.]+[^|]*) \| [^|]+ \|$", text, re.MULTILINE):
            look = name.strip() or look
            message |= {(look, level, float(figure)) for level, figure in re.findall(r"\*(\w+)\* ([\d.]+)", figures)}
        traits = builtin_catalogue().document["traits"]
        levels = {(one["name"], level["id"], level.get("mistaken", 1)) for one in traits for level in one["levels"]}
        self.assertEqual(message, {row for row in levels if row[2] != 1})

    def test_a_normal_animal_mostly_shows_the_wild_level(self) -> None:
        for trait, chances in chances_of_looks(builtin_catalogue(), {}, "shed").items():
            with self.subTest(trait):
                self.assertEqual(int(np.argmax(chances)), 0)
                self.assertGreater(chances[0], 0.6)

    def test_every_gene_rule_and_name_of_the_field_is_there(self) -> None:
        document = builtin_document()
        self.assertEqual(len(document["genes"]), 71)
        rules = [entry["id"] for entry in document["rules"]]
        self.assertEqual([rule for rule in rules if rule.startswith("I")], [f"I{n:02d}" for n in range(1, 105)])
        self.assertEqual([rule for rule in rules if rule.startswith("X")], [f"X{n:02d}" for n in range(1, 26)])
        sheets = [entry for entry in document["effects"] if "rule" not in entry]
        pushed = sum(len(entry.get("push", {})) + ("shift" in entry) for entry in sheets)
        self.assertEqual(pushed, 591)
        self.assertEqual(len(document["markers"]), 15)
        self.assertEqual(len({entry["name"] for entry in document["names"]}), 53)
        self.assertEqual(len(document["disputes"]), 20)

    def test_pushes_by_family(self) -> None:
        for gene, copies, trait, wanted in (
            ("mojave", 1, "lobe_attach", {"shift": 2.5}),
            ("mojave", 2, "head_hue", {"purple_grey": 2.5}),
            ("bamboo", 1, "yellow_kept", {"shift": -1.75}),
            ("honey", 2, "white_share", {"shift": 2.75}),
            ("black_pastel", 1, "lobe_tone", {"grey": 1, "brown": 1}),
            ("het_red_axanthic", 2, "yellow_kept", {"shift": -2.25}),
            ("yellow_belly", 1, "belly_edge", {"jagged": 2}),
            ("spark", 2, "lightness", {"shift": 1.0}),
            ("fire", 2, "eye_color", {"dark": 2.5, "ruby": 1}),
            ("disco", 1, "head_lightness", {"shift": 1.0}),
            ("spider", 1, "wobble", {"shift": 2.25}),
            ("champagne", 1, "pattern_amount", {"shift": -2.5}),
            ("sable", 2, "lightness", {"shift": -2.75}),
            ("spotnose", 1, "eye_stripe_edge", {"jagged": 2}),
            ("chocolate", 2, "lobe_shape", {"tall": 1.5}),
            ("clown", 2, "head_shape_mark", {"fork": 1.5}),
            ("albino", 2, "dark_pigment", {"absent": 5}),
            ("rainbow", 2, "lightness", {"shift": 1.75}),
            ("axanthic_d", 2, "body_hue", {"grey": 2.5}),
            ("piebald", 2, "white_layout", {"saddles": 2.5}),
            ("monsoon", 2, "pattern_order", {"granite": 3}),
            ("banana", 1, "dark_pigment", {"purple": 5}),
            ("pastel", 2, "head_stamp", {"shift": 2.0}),
            ("enchi", 1, "eye_stripe_width", {"shift": 1.0}),
            ("leopard", 1, "lobe_shape", {"joined": 2}),
            ("scaleless_head", 2, "scales", {"scaleless": 3}),
            ("sugar", 1, "flank_flames", {"shift": 1.0}),
            ("pinstripe", 2, "flank_lines", {"pin": 3}),
            ("acid", 1, "belly_color", {"dark": 1.5}),
        ):
            with self.subTest(f"{gene} {copies} {trait}"):
                self.assertEqual(pushes(gene, trait, copies), wanted)

    def test_a_carrier_of_a_recessive_shows_nothing_by_itself(self) -> None:
        for gene in builtin_catalogue().genes.values():
            if gene.is_recessive:
                with self.subTest(gene.id):
                    self.assertEqual(shown(gene.id), shown(""))

    def test_marks_of_carriers_have_ratios(self) -> None:
        marks = {(entry["when"][0]["gene"], entry["trait"]): entry for entry in builtin_document()["markers"]}
        tracks = marks["piebald", "belly_marks"]
        self.assertGreater(tracks["ratio_seen"], 1)
        self.assertLess(tracks["ratio_unseen"], 1)
        chances = chances_of_looks(builtin_catalogue(), {}, "shed")["belly_marks"]
        plain = float(chances[3])
        self.assertAlmostEqual(tracks["ratio_seen"] * plain + tracks["ratio_unseen"] * (1 - plain), 1, 2)
        self.assertGreater(marks["piebald", "ringer"]["ratio_seen"], marks["piebald", "tail_pattern"]["ratio_seen"])

    def test_rules_by_kind(self) -> None:
        self.assertEqual(shown("fire vanilla pastel")["head_stamp"], "wiped")  # I72
        self.assertEqual(shown("clown clown spotnose")["head_shape_mark"], "mask")  # I61
        self.assertEqual(shown("pastel enchi")["head_shape_mark"], "butterfly")  # I75
        self.assertEqual(shown("albino albino axanthic_b axanthic_b")["body_hue"], "white_cream")  # I27
        self.assertEqual(shown("lesser piebald piebald")["white_share"], "all")  # I16
        self.assertEqual(shown("cinnamon black_pastel")["lightness"], "very_dark")  # X10
        self.assertEqual(shown("cinnamon black_pastel pastel")["body_hue"], "grey")  # I09
        self.assertEqual(shown("axanthic_a axanthic_a pastel")["body_hue"], "grey")  # I24
        self.assertEqual(shown("banana", "months")["freckles"], "many")  # A01
        self.assertEqual(shown("banana", "shed")["freckles"], "none")  # I51

    def test_a_subtle_gene_is_hidden_in_a_very_pale_animal(self) -> None:
        plain = chances_of_looks(builtin_catalogue(), {"pas": ["pastel"] * 2, "fire": ["fire"]}, "shed")
        more = chances_of_looks(
            builtin_catalogue(), {"pas": ["pastel"] * 2, "fire": ["fire"], "trk": ["trick"]}, "shed"
        )
        for trait, chances in plain.items():
            self.assertTrue(np.allclose(chances, more[trait]), trait)  # I100

    def test_the_check_finds_levels_that_are_names_without_an_order(self) -> None:
        """As the catalogue once stood: a push on the middle of a scale. That it has no such fault now is asked by ``bin/eyot check``."""
        document = deepcopy(builtin_document())
        document["effects"].append(
            {"when": [{"gene": "yellow_belly", "copies": [1]}], "trait": "flank_flames", "push": {"some": 4}}
        )
        found = {fault.trait for fault in faults_of(catalogue_from(Node(document)))}
        self.assertEqual(found, {"flank_flames"})

    def test_every_trade_name_is_of_genes_that_fit_together(self) -> None:
        genes = builtin_catalogue().genes
        for entry in builtin_document()["names"]:
            at_locus: dict[str, int] = {}
            for gene, copies in entry["genes"].items():
                at_locus[genes[gene].locus] = at_locus.get(genes[gene].locus, 0) + copies
            self.assertLessEqual(max(at_locus.values()), 2, entry["name"])

    def test_keepers_call_as_surely_as_the_model(self) -> None:
        """The study of docs/catalogue.md on a handful of genes, strong and subtle."""
        random = np.random.default_rng(3)
        said = {entry["id"]: entry["called"]["alone"] for entry in builtin_document()["genes"] if "called" in entry}
        for gene in ("mojave", "yellow_belly", "fire", "special", "piebald", "mahogany", "scaleless_head"):
            with self.subTest(gene):
                share, false = called(builtin_catalogue(), gene, [], random)
                self.assertLess(abs(share - said[gene]), 0.15)
                self.assertLess(false, 0.08)

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

    def test_every_entry_says_how_sure_the_field_is(self) -> None:
        document = builtin_document()
        for section in ("genes", "rules", "effects", "dilutions", "masks", "markers"):
            for entry in document[section]:
                self.assertIn(entry["standing"], ("established", "reported", "disputed"), f"{section} {entry}")
        for entry in document["rules"]:
            self.assertTrue(entry["claim"], entry["id"])
