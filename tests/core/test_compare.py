"""What parts look-alikes, beside what keepers write of them."""

from __future__ import annotations

import io
import json
import subprocess
import sys
from unittest import TestCase

from eyot_core import cli
from eyot_core.catalogue import builtin_catalogue, builtin_document
from eyot_core.genetics.genotypes import genotype_of
from eyot_core.identify.compare import Comparison, test_partner


def compared(*candidates: dict[str, int]) -> Comparison:
    catalogue = builtin_catalogue()
    return Comparison(catalogue, tuple(genotype_of(catalogue, copies) for copies in candidates))


class LookAlikes(TestCase):
    def named(self, *candidates: dict[str, int]) -> list[str]:
        return [row.trait for row in compared(*candidates).differences("shed") if row.strength]

    def test_fire_and_vanilla_are_parted_by_the_looks_that_keepers_name(self) -> None:
        found = self.named({"fire": 1}, {"vanilla": 1})
        self.assertLessEqual({"lightness", "head_blush"}, set(found[:4]))

    def test_mojave_and_leopard(self) -> None:
        found = self.named({"mojave": 1}, {"leopard": 1})
        self.assertLessEqual({"lobe_spots", "lobe_shape", "lobe_attach"}, set(found))
        levels = {row.trait: row.levels for row in compared({"mojave": 1}, {"leopard": 1}).differences("shed")}
        self.assertEqual(levels["lobe_shape"], ("keyhole", "joined"))
        self.assertEqual(levels["lobe_spots"], ("one", "many"))

    def test_single_and_super_pastel(self) -> None:
        found = self.named({"pastel": 1}, {"pastel": 2})
        self.assertLessEqual({"head_stamp", "head_lightness", "flank_blush", "dark_pigment"}, set(found))

    def test_one_and_the_same_is_never_told_apart(self) -> None:
        same = compared({"mojave": 1}, {"mojave": 1})
        self.assertEqual([row.trait for row in same.differences("shed") if row.strength], [])
        self.assertTrue(all(abs(share - 0.5) < 1e-9 for share in same.told_apart.values()))
        self.assertFalse(same.looks_settle_it)

    def test_waiting_for_the_shed_is_worth_it_for_pastel(self) -> None:
        message = compared({"pastel": 1}, {})
        self.assertEqual(message.best_stage, "shed")
        self.assertLess(message.told_apart["blue"], message.told_apart["shed"])

    def test_axanthic_lines_are_not_parted_by_any_look(self) -> None:
        lines = compared({"axanthic_a": 2}, {"axanthic_b": 2})
        self.assertFalse(lines.looks_settle_it)
        self.assertLess(max(lines.told_apart.values()), 0.51)

    def test_the_partner_that_parts_fire_from_vanilla_is_fire(self) -> None:
        self.assertEqual(test_partner(builtin_catalogue(), "fire", "fire", "vanilla")[0], "fire")  # type: ignore[index]

    def test_written_notes_are_all_there_and_can_be_computed(self) -> None:
        notes = builtin_document()["lookalikes"]
        self.assertEqual([note["id"] for note in notes], [f"L{n:02d}" for n in range(1, 54)])
        for note in notes:
            self.assertTrue(note["separates"] and note["alike"] and note["cost"], note["id"])
            for copies in note["candidates"]:
                genotype_of(builtin_catalogue(), copies)


class CommandLine(TestCase):
    def run_core(self, command: str, document: object) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        status = cli.run([command], io.BytesIO(json.dumps(document).encode()), out, err)
        return status, out.getvalue(), err.getvalue()

    def test_compare_answers_in_json(self) -> None:
        status, out, _ = self.run_core("compare", {"genotypes": [{"pas": ["pastel"]}, {"pas": ["pastel", "pastel"]}]})
        answer = json.loads(out)
        first = answer["separates"][0]
        self.assertEqual((status, first["trait"], first["strength"]), (0, "head_stamp", "near-certain"))

    def test_a_plate_comes_as_svg_and_a_range_as_json(self) -> None:
        status, out, _ = self.run_core("plate", {"genotype": {"bel": ["mojave"]}})
        self.assertEqual((status, out[:4]), (0, "<svg"))
        status, out, _ = self.run_core(
            "strip-drawing", {"genotype": {"pie": ["piebald", "piebald"]}, "range": 3, "as": "json"}
        )
        drawings = json.loads(out)["drawings"]
        self.assertEqual((status, len(drawings)), (0, 3))
        self.assertEqual(len({drawing["svg"] for drawing in drawings}), 3)

    def test_a_reader_that_stops_early_sees_no_traceback(self) -> None:
        command = [sys.executable, "-m", "eyot_core.cli", "catalogue"]
        with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as process:
            assert process.stdout and process.stderr
            process.stdout.read(10)
            process.stdout.close()
            self.assertEqual(process.stderr.read(), b"")
        self.assertEqual(process.returncode, 1)

    def test_looks_that_are_left_out_are_those_of_normals(self) -> None:
        _, out, _ = self.run_core("strip-drawing", {"looks": {"eye_color": "blue"}, "as": "json"})
        looks = json.loads(out)["drawings"][0]["looks"]
        self.assertEqual((looks["eye_color"], looks["lobe_attach"]), ("blue", "attached"))

    def test_bad_input_names_the_place(self) -> None:
        for command, document, at in (
            ("plate", {}, ""),
            ("plate", {"genotype": {"bel": ["leopard"]}}, "genotype.bel[0]"),
            ("plate", {"genotype": {"bel": []}}, "genotype.bel"),
            ("plate", {"genotype": {"nowhere": ["mojave"]}}, "genotype.nowhere"),
            ("plate", {"looks": {"eye_color": "pink"}}, "looks.eye_color"),
            ("plate", {"looks": {}, "stage": "old"}, "stage"),
            ("plate", {"genotype": {}, "range": 2}, "as"),
            ("plate", {"genotype": {}, "colour": 2}, "colour"),
            ("compare", {"genotypes": [{}]}, "genotypes"),
            ("compare", {"genotypes": [{}, {"bel": ["fire"]}]}, "genotypes[1].bel[0]"),
        ):
            with self.subTest(f"{command} {at}"):
                status, out, err = self.run_core(command, document)
                self.assertEqual((status, out), (2, ""))
                self.assertEqual(json.loads(err)["at"], at)
