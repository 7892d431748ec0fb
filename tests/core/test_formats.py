"""The schemas in docs/formats and the code say the same; the worked examples are what the command prints."""

from __future__ import annotations

import io
import json
import os
import tempfile
from pathlib import Path
from typing import Any
from unittest import TestCase

import numpy as np
from jsonschema import Draft202012Validator
from PIL import Image
from referencing import Registry, Resource

from eyot_core.catalogue import STAGES, builtin_catalogue, builtin_document
from eyot_core.catalogue.model import INHERITANCES
from eyot_core.catalogue.overlay import overlaid
from eyot_core.cli import run
from eyot_core.drawing.camera import photographed
from eyot_core.identify.evidence import CONFIDENCE
from eyot_core.identify.looks import likeliest_looks
from eyot_core.parsing import Node

from tests.core.cards import Laid, photographed_cards
from tests.core.random_documents import random_document
from tests.core.test_bad_input import BAD_CROSSES, BAD_IDENTIFICATIONS, cross_of, ran
from tests.core.test_carriers import BAD_HETS
from tests.core.test_ways import BAD_PROOFS

FOLDER = Path(__file__).resolve().parents[2] / "docs/formats"
EXAMPLES = {
    "pairing": "cross",
    "clutch": "identify",
    "stranger": "identify",
    "own-catalogue": "identify",
    "look-alikes": "compare",
    "possible-het": "hets",
    "odd-one": "prove",
    "typed": "line",
    "said": "hear",
    "called": "label",
    "wanted": "wish",
    "planned": "project",
}
ESTIMATED = "stranger"
READ_AS = {"line": "texts", "hear": "texts"}  # where the schema of what goes in is not named as the command
ANSWERS = {
    "cross": "outcomes",
    "identify": "calls",
    "compare": "comparison",
    "hets": "standing",
    "prove": "ways",
    "line": "lines",
}
ANSWERS |= {"hear": "heard", "label": "labelled", "wish": "wished", "project": "plans"}
REWRITE = "EYOT_REWRITE"  # set it to write the answers of the examples anew
# What no schema can say: what exists, what sums, what excludes one another.
BEYOND_SCHEMAS = {
    *(
        "unknown gene",
        "copies above one",
        "chance by zero",
        "on for a dam's kin",
        "on at an autosome",
    ),
    *("on that does not sum", "three alleles", "no weight at all", "phase of unlinked loci", "locus twice"),
    *("gene without locus", "linked on the sex chromosomes", "linked twice", "level twice", "effect on no trait"),
    *("more visuals than hatchlings", "a chance of no chance", "an unknown proband", "an id twice", "its own ancestor"),
    *("its own dam", "a sire that is female", "two dams", "a parent that is not listed", "a prior that does not sum"),
    "what nothing can give",
    *("effect on no level", "mask that does not sum", "two masks of one rank", "unknown trait", "unknown level"),
    *("a sire too many", "an id twice"),
}


def schema(name: str) -> Any:
    return json.loads((FOLDER / f"{name}.schema.json").read_text())


def validator(name: str) -> Draft202012Validator:
    shared = [
        (f"eyot:{one}", Resource.from_contents(schema(one))) for one in ("catalogue", "cross", "project", "reference")
    ]
    registry: Registry = Registry().with_resources(shared)
    return Draft202012Validator(schema(name), registry=registry)


def answer_to(command: str, text: str) -> Any:
    status, out, err = ran(command, text)
    assert status == 0, err
    return json.loads(out)


class Formats(TestCase):
    takes_long = True

    def valid(self, name: str, document: Any) -> None:
        errors = [f"{error.json_path}: {error.printed[:200]}" for error in validator(name).iter_errors(document)]
        self.assertEqual(errors, [])

    def test_the_schemas_are_schemas(self) -> None:
        for path in FOLDER.glob("*.schema.json"):
            Draft202012Validator.check_schema(json.loads(path.read_text()))

    def test_the_built_in_catalogue_is_valid(self) -> None:
        self.valid("catalogue", builtin_document())

    def test_drawings_are_as_their_schemas_say(self) -> None:
        document = json.loads((FOLDER / "examples/siblings.json").read_text())
        self.valid("drawing", document)
        answer = answer_to("strip-drawing", json.dumps(document))
        self.valid("drawings", answer)
        self.assertEqual(len(answer["drawings"]), document["range"])

    def test_the_example_of_a_layer_is_valid_and_fits(self) -> None:
        layer = json.loads((FOLDER / "examples/overlay.json").read_text())
        self.valid("overlay", layer)
        found = overlaid(builtin_catalogue(), Node(layer))
        self.assertEqual(found.left_out, ())
        self.assertIn("tidemark", found.catalogue.genes)

    def test_examples_are_valid_and_are_what_the_command_prints(self) -> None:
        for name, command in EXAMPLES.items():
            with self.subTest(name):
                text = (FOLDER / f"examples/{name}.json").read_text()
                self.valid(READ_AS.get(command, command), json.loads(text))
                answer = answer_to(command, text)
                self.valid(ANSWERS[command], answer)
                stored = FOLDER / f"examples/{name}.{ANSWERS[command]}.json"
                if os.environ.get(REWRITE):
                    stored.write_text(json.dumps(answer, indent=2, ensure_ascii=False) + "\n")
                if name == ESTIMATED:
                    self.estimated_alike(json.loads(stored.read_text()), answer)
                else:
                    self.same(json.loads(stored.read_text()), answer, name)

    def test_a_measured_photo_is_as_the_examples_and_schemas_say(self) -> None:
        taken = photographed(likeliest_looks(builtin_catalogue(), {}, "shed"), 5, "loose", width=600, height=450)
        examples = FOLDER / "examples"
        if os.environ.get(REWRITE):
            points = {"points": taken.line.round(1).tolist()}
            (examples / "line.json").write_text(json.dumps(points) + "\n")
            card = {"kind": "grey", "box": taken.card, "reflectance": 0.18}
            (examples / "reference.json").write_text(json.dumps(card) + "\n")
        line, reference = str(examples / "line.json"), str(examples / "reference.json")
        self.valid("line", json.loads(Path(line).read_text()))
        self.valid("reference", json.loads(Path(reference).read_text()))
        with tempfile.TemporaryDirectory() as folder:
            photo = f"{folder}/photo.png"
            Image.fromarray(taken.pixels).save(photo)
            measures = self.printed("measure", photo, "--line", line, "--reference", reference)
            strip = self.printed("strip", photo, "--line", line, "--out", f"{folder}/strip.png")
            found = [self.printed("find", photo), self.printed("find", photo, "--reference", reference)]
            cards = [self.printed("card-in", photo)]
            Image.fromarray(photographed_cards(Laid())).save(photo)
            cards.append(self.printed("card-in", photo))
        self.valid("strip", strip)
        for seen in cards:
            self.valid("cards", seen)
        self.assertEqual([len(seen["cards"]) for seen in cards], [0, 1])
        for one in found:
            self.valid("found", one)
            snout = np.array(one["line"]["points"][0]) - taken.line[0]
            self.assertLess(float(np.hypot(*snout)), 30)
        self.valid("measures", measures)
        if os.environ.get(REWRITE):
            (examples / "measures.json").write_text(json.dumps(measures, indent=2) + "\n")
        stored = json.loads((examples / "measures.json").read_text())
        self.assertEqual(stored.keys(), measures.keys())
        for name, kept in stored.items():
            self.assertEqual(kept.keys(), measures[name].keys(), name)
        # other builds of the libraries may round otherwise
        self.assertAlmostEqual(stored["lightness"]["value"], measures["lightness"]["value"], delta=0.5)

    def printed(self, *arguments: str) -> Any:
        out, err = io.StringIO(), io.StringIO()
        self.assertEqual(run([*arguments], io.BytesIO(), out, err), 0, err.getvalue())
        return json.loads(out.getvalue())

    def estimated_alike(self, stored: Any, got: Any) -> None:
        """Estimates: other builds of the libraries round otherwise, and walks go other ways."""
        for one, other in zip(stored["hatchlings"], got["hatchlings"], strict=True):
            self.assertEqual(one.keys(), other.keys())
            self.assertLess(other["estimated"]["standard_error"], 0.01)
            self.assertEqual(one["combos"][0]["genotype"], other["combos"][0]["genotype"])
            for gene, again in zip(one["genes"], other["genes"], strict=True):
                self.assertEqual(gene["gene"], again["gene"])
                self.assertAlmostEqual(gene["copies"]["0"], again["copies"]["0"], delta=0.02)

    def same(self, stored: Any, got: Any, at: str) -> None:
        """Equal but for the last digits of numbers."""
        if isinstance(stored, float):
            self.assertAlmostEqual(stored, got, 9, at)
        elif isinstance(stored, dict):
            self.assertEqual(stored.keys(), got.keys(), at)
            for key, value in stored.items():
                self.same(value, got[key], f"{at}.{key}")
        elif isinstance(stored, list):
            self.assertEqual(len(stored), len(got), at)
            for index, value in enumerate(stored):
                self.same(value, got[index], f"{at}[{index}]")
        else:
            self.assertEqual(stored, got, at)

    def test_random_documents_and_their_answers_are_valid(self) -> None:
        for seed in range(10):
            document = random_document(seed)
            with self.subTest(seed=seed):
                self.valid("identify", document)
                self.valid("cross", document)
                self.valid("outcomes", answer_to("cross", json.dumps(document)))
                status, out, err = ran("identify", json.dumps(document))
                self.valid(*(("calls", json.loads(out)) if status == 0 else ("error", json.loads(err))))
                unknown = document | {"dam": None, "sires": []}
                for row in unknown["hatchlings"]:
                    row.pop("sire", None)
                self.valid("identify", unknown)
                self.valid("calls", answer_to("identify", json.dumps(unknown)))

    def test_what_the_schemas_refuse_the_command_refuses(self) -> None:
        refused = 0
        every = ((BAD_CROSSES, "cross"), (BAD_IDENTIFICATIONS, "identify"), (BAD_HETS, "hets"), (BAD_PROOFS, "prove"))
        for cases, name in every:
            for what, (document, *_) in cases.items():
                with self.subTest(what):
                    is_valid = validator(name).is_valid(document)
                    self.assertEqual(is_valid, what in BEYOND_SCHEMAS)
                    refused += not is_valid
        self.assertGreater(refused, 40)

    def test_words_are_the_same(self) -> None:
        catalogue, identify = schema("catalogue")["properties"], schema("identify")["$defs"]
        self.assertEqual(catalogue["genes"]["items"]["properties"]["inheritance"]["enum"], list(INHERITANCES))
        self.assertEqual(list(catalogue["traits"]["items"]["properties"]["clarity"]["properties"]), list(STAGES))
        look = identify["hatchling"]["properties"]["observations"]["items"]["properties"]
        self.assertEqual(look["stage"]["enum"], list(STAGES))
        self.assertEqual(look["confidence"]["enum"], list(CONFIDENCE))

    def test_errors_are_as_described(self) -> None:
        err = io.StringIO()
        run(["cross"], io.BytesIO(json.dumps(cross_of(sires=[])).encode()), io.StringIO(), err)
        self.valid("error", json.loads(err.getvalue()))
