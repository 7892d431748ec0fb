"""Bad input through the command line: exit status 2, one line of JSON on standard error, nothing on standard output."""

from __future__ import annotations

import io
import json
from typing import Any
from unittest import TestCase

from eyot_core.cli import run

from tests.core.pairings import CLEAR, document_of, gene, trait

Json = dict[str, Any]
CATALOGUE = document_of(
    [gene("g", "G"), gene("h", "G"), gene("b", "B"), gene("c", "C")],
    [{"id": "G"}, {"id": "B", "location": "sex", "recombination": 0.1}, {"id": "C"}, {"id": "D"}],
    linkage=[{"loci": ["G", "C"], "recombination": 0.1}],
    traits=[trait("t", "x", "y")],
)


def ran(command: str, text: str | bytes) -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    source = io.BytesIO(text.encode() if isinstance(text, str) else text)
    return run([command], source, out, err), out.getvalue(), err.getvalue()


def cross_of(**changed: Any) -> Json:
    return {"catalogue": CATALOGUE, "dam": {"genes": []}, "sires": [{"genes": []}]} | changed


def entry(**keys: Any) -> Json:
    return cross_of(dam={"genes": [{"gene": "g", "copies": 1} | keys]})


def sire_entry(**keys: Any) -> Json:
    return cross_of(sires=[{"genes": [{"gene": "b", "copies": 1} | keys]}])


def changed(section: str, *entries: Any) -> Json:
    return cross_of(catalogue=CATALOGUE | {section: list(entries)})


def look_of(**keys: Any) -> Json:
    observation = {"trait": "t", "level": "x", "stage": "shed"} | keys
    return cross_of(hatchlings=[{"id": "1", "observations": [observation]}])


def without(document: Json, key: str) -> Json:
    return {name: value for name, value in document.items() if name != key}


MASK = {"when": [], "rank": 5, "hide": ["t"]}
BAD_CROSSES: dict[str, tuple[Json, str]] = {
    "unknown gene": (entry(gene="nobody"), "dam.genes[0].gene"),
    "three copies": (entry(copies=3), "dam.genes[0].copies"),
    "copies as true": (entry(copies=True), "dam.genes[0].copies"),
    "copies above one": (entry(copies={"1": 0.8, "2": 0.3}), "dam.genes[0].copies"),
    "copies of five": (entry(copies={"5": 1}), "dam.genes[0].copies.5"),
    "chance above one": (entry(chance=1.5), "dam.genes[0].chance"),
    "chance as words": (entry(chance="often"), "dam.genes[0].chance"),
    "chance by zero": (entry(chance="1/0"), "dam.genes[0].chance"),
    "unknown key": (entry(colour="red"), "dam.genes[0].colour"),
    "on for a dam": (cross_of(dam={"genes": [{"gene": "b", "copies": 1, "on": "X"}]}), "dam.genes[0].on"),
    "on at an autosome": (sire_entry(gene="g", on="X"), "sires[0].genes[0].on"),
    "on Z": (sire_entry(on="Z"), "sires[0].genes[0].on"),
    "on that does not sum": (sire_entry(on={"X": 0.5, "Y": 0.4}), "sires[0].genes[0].on"),
    "copies missing": (cross_of(dam={"genes": [{"gene": "g"}]}), "dam.genes[0].copies"),
    "three alleles": (
        cross_of(dam={"genes": [{"gene": "g", "copies": 2}, {"gene": "h", "copies": 1}]}),
        "dam.genes[1]",
    ),
    "genes not a list": (cross_of(dam={"genes": {}}), "dam.genes"),
    "dam a list": (cross_of(dam=[]), "dam"),
    "no sires": (cross_of(sires=[]), "sires"),
    "sires an object": (cross_of(sires={}), "sires"),
    "no dam with sires": (cross_of(dam=None), "dam"),
    "dam missing": (without(cross_of(), "dam"), "dam"),
    "sires missing": (without(cross_of(), "sires"), "sires"),
    "negative weight": (cross_of(sires=[{"weight": -1}]), "sires[0].weight"),
    "weight as a fraction": (cross_of(sires=[{"weight": "1/2"}]), "sires[0].weight"),
    "weight of a dam": (cross_of(dam={"weight": 1}), "dam.weight"),
    "no weight at all": (cross_of(sires=[{"weight": 0}]), "sires"),
    "phase of unlinked loci": (cross_of(dam={"phase": [{"loci": ["G", "D"], "together": True}]}), "dam.phase[0].loci"),
    "phase of one locus": (cross_of(dam={"phase": [{"loci": ["G"], "together": True}]}), "dam.phase[0].loci"),
    "phase as a word": (cross_of(dam={"phase": [{"loci": ["G", "C"], "together": "yes"}]}), "dam.phase[0].together"),
    "unknown top key": (cross_of(weather="fine"), "weather"),
    "catalogue of another format": (cross_of(catalogue={"format": "x"}), "catalogue.format"),
    "locus twice": (changed("loci", {"id": "G"}, {"id": "G"}), "catalogue.loci[1].id"),
    "locus on Z": (changed("loci", {"id": "G", "location": "Z"}), "catalogue.loci[0].location"),
    "gene without locus": (changed("genes", gene("g", "nowhere")), "catalogue.genes[0].locus"),
    "gene of no inheritance": (changed("genes", gene("g", "G", "magic")), "catalogue.genes[0].inheritance"),
    "viability of three": (changed("genes", gene("g", "G", viability={"3": 1})), "catalogue.genes[0].viability.3"),
    "viability above one": (changed("genes", gene("g", "G", viability={"2": 2})), "catalogue.genes[0].viability.2"),
    "linked on the sex chromosomes": (
        changed("linkage", {"loci": ["G", "B"], "recombination": 0.1}),
        "catalogue.linkage[0].loci[1]",
    ),
    "linked too loosely": (
        changed("linkage", {"loci": ["G", "C"], "recombination": 0.6}),
        "catalogue.linkage[0].recombination",
    ),
    "linked twice": (
        changed("linkage", *({"loci": ["G", other], "recombination": 0.1} for other in "CD")),
        "catalogue.linkage[1].loci[0]",
    ),
    "clarity at five stages": (
        changed("traits", trait("t", "x", clarity=without(CLEAR, "blue"))),
        "catalogue.traits[0].clarity.blue",
    ),
    "clarity above one": (
        changed("traits", trait("t", "x", clarity=CLEAR | {"egg": 2})),
        "catalogue.traits[0].clarity.egg",
    ),
    "level twice": (changed("traits", trait("t", "x", "x")), "catalogue.traits[0].levels[1].id"),
    "level called unseen": (changed("traits", trait("t", "x", "unseen")), "catalogue.traits[0].levels[1].id"),
    "effect on no trait": (
        changed("effects", {"when": [], "trait": "u", "push": {"x": 1}}),
        "catalogue.effects[0].trait",
    ),
    "effect on no level": (
        changed("effects", {"when": [], "trait": "t", "push": {"z": 1}}),
        "catalogue.effects[0].push.z",
    ),
    "condition on gene and locus": (
        changed("effects", {"when": [{"gene": "g", "locus": "G", "copies": [1]}], "trait": "t", "push": {}}),
        "catalogue.effects[0].when[0]",
    ),
    "condition of three copies": (
        changed("effects", {"when": [{"gene": "g", "copies": [3]}], "trait": "t", "push": {}}),
        "catalogue.effects[0].when[0].copies[0]",
    ),
    "empty stages": (
        changed("effects", {"when": [], "trait": "t", "push": {}, "stages": []}),
        "catalogue.effects[0].stages",
    ),
    "dilution below zero": (
        changed("dilutions", {"when": [], "gene": "g", "times": -1}),
        "catalogue.dilutions[0].times",
    ),
    "mask that does not sum": (
        changed("masks", {"when": [], "show": {"t": {"x": 0.5, "y": 0.4}}}),
        "catalogue.masks[0].show.t",
    ),
    "two masks of one rank": (changed("masks", MASK, MASK), "catalogue.masks[1].rank"),
    "damp above one": (changed("masks", {"when": [], "damp": {"t": 2}}), "catalogue.masks[0].damp.t"),
}
BAD_IDENTIFICATIONS: dict[str, tuple[Json, str]] = {
    "hatchlings missing": (cross_of(), "hatchlings"),
    "unknown trait": (look_of(trait="u"), "hatchlings[0].observations[0].trait"),
    "unknown level": (look_of(level="z"), "hatchlings[0].observations[0].level"),
    "unknown stage": (look_of(stage="birth"), "hatchlings[0].observations[0].stage"),
    "unknown confidence": (look_of(confidence="very"), "hatchlings[0].observations[0].confidence"),
    "unknown key of a look": (look_of(light="lamp"), "hatchlings[0].observations[0].light"),
    "unknown sex": (cross_of(hatchlings=[{"sex": "hen"}]), "hatchlings[0].sex"),
    "a sire too many": (cross_of(hatchlings=[{"sire": 1}]), "hatchlings[0].sire"),
    "sire as true": (cross_of(hatchlings=[{"sire": True}]), "hatchlings[0].sire"),
    "an id twice": (cross_of(hatchlings=[{"id": "1"}, {"id": "1"}]), "hatchlings[1].id"),
    "look stage null": (cross_of(hatchlings=[], options={"look_stage": None}), "options.look_stage"),
    "top of none": (cross_of(hatchlings=[], options={"top": 0}), "options.top"),
    "unknown option": (cross_of(hatchlings=[], options={"depth": 3}), "options.depth"),
}
NO_DOCUMENTS = {
    "nothing": "",
    "half": '{"dam": ',
    "a list": "[]",
    "a key twice": '{"dam": 1, "dam": 2}',
    "not a number": '{"dam": NaN}',
    "no text": b"\xff\xfe\x00",
    "too deep": "[" * 100_000,
}


class BadInput(TestCase):
    def refused(self, command: str, text: str | bytes) -> Json:
        status, out, err = ran(command, text)
        self.assertEqual((status, out), (2, ""))
        self.assertEqual(err.count("\n"), 1)
        message = json.loads(err)
        self.assertEqual(message.keys(), {"error", "at"})
        self.assertTrue(message["error"])
        return message

    def test_cross_names_the_place(self) -> None:
        for name, (document, at) in BAD_CROSSES.items():
            with self.subTest(name):
                self.assertEqual(self.refused("cross", json.dumps(document))["at"], at)

    def test_identify_names_the_place(self) -> None:
        for name, (document, at) in BAD_IDENTIFICATIONS.items():
            with self.subTest(name):
                self.assertEqual(self.refused("identify", json.dumps(document))["at"], at)

    def test_what_is_no_document_is_refused(self) -> None:
        for name, text in NO_DOCUMENTS.items():
            with self.subTest(name):
                self.assertEqual(self.refused("cross", text)["at"], "")

    def test_messages_say_what_is_allowed(self) -> None:
        self.assertIn("must be 1 or 2", self.refused("cross", json.dumps(entry(copies=3)))["error"])
        self.assertIn("got 3", self.refused("cross", json.dumps(entry(copies=3)))["error"])
        self.assertIn("allowed", self.refused("cross", json.dumps(entry(colour="red")))["error"])

    def test_an_unknown_command_is_refused(self) -> None:
        self.refused("guess", "{}")


class GoodInput(TestCase):
    def test_cross_and_identify_answer_on_standard_output(self) -> None:
        status, out, err = ran("cross", json.dumps(entry(chance="2/3")))
        self.assertEqual((status, err), (0, ""))
        self.assertAlmostEqual(json.loads(out)["outcomes"][0]["probability"], 2 / 3)
        status, out, err = ran("identify", json.dumps(look_of(confidence="hint")))
        self.assertEqual((status, err), (0, ""))
        self.assertEqual(json.loads(out)["hatchlings"][0]["id"], "1")

    def test_the_built_in_catalogue_can_be_written_and_read_again(self) -> None:
        status, out, _ = ran("catalogue", "")
        self.assertEqual(status, 0)
        document = cross_of(catalogue=json.loads(out), dam={"genes": [{"gene": "mojave", "copies": 1}]})
        self.assertEqual(ran("cross", json.dumps(document))[0], 0)
