"""The repository as a whole: both package lists agree, the launcher's words are the README's, pictures are linked."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tomllib
from pathlib import Path
from unittest import TestCase

ROOT = Path(__file__).resolve().parents[2]
PIN = re.compile(r"^([a-z0-9._-]+)(?:\[[a-z,]+\])?==(\S+)", re.M)


class Repository(TestCase):
    def test_development_packages_hold_the_runtime_packages_at_the_same_versions(self) -> None:
        """A machine with the development list is taken to have the runtime list too."""
        runtime, develop = (
            dict(PIN.findall((ROOT / f"requirements/{n}.txt").read_text())) for n in ("runtime", "develop")
        )
        self.assertGreater(len(runtime), 10)
        self.assertEqual({name: develop.get(name) for name in runtime}, runtime)

    def test_every_package_is_pinned_by_its_hash(self) -> None:
        for name in ("runtime", "develop"):
            for block in re.split(r"\n(?=\S)", (ROOT / f"requirements/{name}.txt").read_text().strip()):
                self.assertIn("--hash=sha256:", block)

    def test_continuous_integration_runs_the_readmes_commands(self) -> None:
        readme, run = (ROOT / "README.md").read_text(), (ROOT / ".ci/run").read_text()
        for command in ("bin/eyot check", "bin/eyot test"):
            self.assertIn(command, run.splitlines())
            self.assertIn(command, readme)
        self.assertIn("bin/eyot start", readme)

    def test_every_picture_is_linked_from_the_readme(self) -> None:
        readme = (ROOT / "README.md").read_text()
        shots = list((ROOT / "docs/screenshots").glob("*.png"))
        self.assertTrue(3 <= len(shots) < 20)
        for shot in shots:
            self.assertIn(f"docs/screenshots/{shot.name}", readme)
        for name in re.findall(r"\((docs/[^)#]+)\)", readme):
            self.assertTrue((ROOT / name).exists(), name)

    def test_no_style_hangs_on_what_is_anywhere_in_the_page(self) -> None:
        """With one ``body:has(…)`` a browser styles the whole page anew whenever anything in it is drawn: 1,300 elements for each answer on
        the bench. What a page is stands on its ``html``, as ``data-page``."""
        styles = (ROOT / "src/eyot/shared/static/css/eyot.css").read_text()
        self.assertEqual(re.findall(r"\b(?:html|body|main)[^,{} ]*:has\([^)]*\)", styles), [])

    def test_every_package_says_what_belongs_there(self) -> None:
        for init in (ROOT / "src").rglob("__init__.py"):
            if init.parent.name not in ("migrations", "templatetags", "management", "commands"):
                self.assertTrue(init.read_text().startswith('"""'), init)


class Rooms(TestCase):
    def test_the_picture_of_the_rooms_is_the_order_that_is_checked(self) -> None:
        drawn = re.findall(r'class="name"[^>]* y="(\d+)">([a-z_]+)<', (ROOT / "docs/rooms.svg").read_text())
        contracts = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"]
        for contract in (one for one in contracts if one["type"] == "layers"):
            above = 0
            for layer in contract["layers"]:
                rooms = {name.rpartition(".")[2] for name in layer.split(" | ")}
                heights = {int(y) for y, name in drawn if name in rooms}
                self.assertEqual(len(heights), 1, rooms)
                self.assertGreater(min(heights), above, rooms)
                above = min(heights)


class Settings(TestCase):
    def test_every_setting_from_outside_is_told_and_read_in_one_place(self) -> None:
        told = set(re.findall(r"^\| `(EYOT_[A-Z_]+)` \|", (ROOT / "docs/settings.md").read_text(), re.M))
        source = ROOT / "src/eyot"
        self.assertEqual(
            told, set(re.findall(r"^    (EYOT_[A-Z_]+)=", (source / "config/settings.py").read_text(), re.M))
        )
        readers = {
            path for path in source.rglob("*.py") if re.search(r"os\.environ|environ\.Env|getenv", path.read_text())
        }
        self.assertEqual(readers, {source / "config/settings.py"})

    def test_with_tls_nothing_is_left_to_say_of_a_deployment(self) -> None:
        hosted = {
            "EYOT_TLS": "yes",
            "EYOT_PROXY": "yes",
            "EYOT_HOSTS": "eyot.example",
            "EYOT_SECRET_KEY": "7sg2-9Kd!" * 8,
        }
        hosted |= {
            "EYOT_DATABASE": "postgres://nobody@127.0.0.1:1/none",
            "DJANGO_SETTINGS_MODULE": "eyot.config.settings",
        }
        command = [sys.executable, "-m", "django", "check", "--deploy", "--fail-level", "WARNING"]
        done = subprocess.run(command, env={**os.environ, **hosted}, text=True, capture_output=True)
        self.assertEqual((done.returncode, "no issues" in done.stdout + done.stderr), (0, True), done.stderr)

    def test_the_example_of_an_environment_names_settings_that_there_are(self) -> None:
        known = set(re.findall(r"^\| `(EYOT_[A-Z_]+)` \|", (ROOT / "docs/settings.md").read_text(), re.M))
        example = set(re.findall(r"^#? ?(EYOT_[A-Z_]+)=", (ROOT / "deploy/eyot.env").read_text(), re.M))
        self.assertTrue({"EYOT_DATABASE", "EYOT_PHOTOS", "EYOT_SECRET_KEY", "EYOT_DATA"} < example <= known)


class Writes(TestCase):
    """Where the database is changed: in actions, and in the modules that docs/architecture.md names, nowhere else."""

    WRITE = re.compile(
        r"\.(?:create|get_or_create|update_or_create|bulk_create|delete)\(|\.save\((?:\)|update)|\.update\([a-z_]+=|recording\("
    )

    def test_only_actions_and_named_modules_write(self) -> None:
        told = (ROOT / "docs/architecture.md").read_text()
        named = set(
            re.findall(r"`([a-z_/]+\.py)`", re.split(r"\n\n|\n- ", told[told.index("Writes stand in") :])[0])
        ) - {"actions.py"}
        found = {
            str(path.relative_to(ROOT / "src/eyot"))
            for path in (ROOT / "src/eyot").rglob("*.py")
            if path.parent.name != "migrations" and self.WRITE.search(path.read_text())
        }
        actions = {name for name in found if name.endswith("actions.py")}
        self.assertGreater(len(actions), 8)
        self.assertEqual(found - actions, named)
