"""``bin/eyot start`` as a keeper runs it: the real command, a data folder of its own, a real stop."""

from __future__ import annotations

import base64
import hashlib
import json
import os
import re
import signal
import socket
import ssl
import subprocess
import tempfile
import urllib.request
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch
from urllib.error import HTTPError
from urllib.parse import urlsplit, urlunsplit

import psycopg
import requests
from cryptography import x509
from cryptography.hazmat.primitives import serialization
from django.db import connection
from playwright.sync_api import Page, expect, sync_playwright
from requests.adapters import HTTPAdapter

from eyot_launch import hosted, safekeeping, start
from eyot_launch.cluster import Cluster, passable_home
from eyot_launch.console import CannotGoOn
from eyot_launch.machine import compiled, ordinary_user
from tests.chromium import FLAGS, PHONE, PROGRAM
from tests.journeys.browser import PATIENCE_MS
from tests.started import ADDRESS, ROOT, UNTIL_IT_LISTENS, Started
from tests.web.test_photos import encoded


def status_of(address: str) -> int:
    with urllib.request.urlopen(address + "login/", timeout=5) as answer:
        return int(answer.status)


def wait_until_kept(page: Page, path: str) -> None:
    """Until the browser has kept a page."""
    is_kept = """async (path) => {
        for (const name of await caches.keys()) if (await (await caches.open(name)).match(path)) return true;
        return false;
    }"""
    for _ in range(300):
        if page.evaluate(is_kept, path):
            return
        page.wait_for_timeout(100)
    raise AssertionError(f"{path} was never kept")


class StartCase(TestCase):
    """A data folder of its own."""

    def setUp(self) -> None:
        self.data = self.folder() / "data"

    @classmethod
    def folder(cls) -> Path:
        """A folder that everybody may pass through, gone when the class is done."""
        folder = tempfile.TemporaryDirectory(prefix="eyot-start-")
        cls.addClassCleanup(folder.cleanup)
        os.chmod(folder.name, 0o755)
        return Path(folder.name)

    def start(self, *more: str, port: int | None = None) -> Started:
        run = Started(self.data, *more, port=port)
        self.addCleanup(run.close)
        return run


def database_is_up(data: Path) -> bool:
    """By its own lock file, and by its port, which must agree."""
    lock = data / "database/pg/postmaster.pid"
    port = int(json.loads((data / "settings.json").read_text())["database_port"])
    with socket.socket() as probe:
        listening = probe.connect_ex(("127.0.0.1", port)) == 0
    assert lock.exists() == listening, f"lock file: {lock.exists()}, listening: {listening}"
    return listening


def closed_of_the_program() -> list[Path]:
    """What others than its owner can't read of what Python made of the program."""
    return [path for path in (ROOT / "src").rglob("*.pyc") if not path.stat().st_mode & 0o004]


def tables_of(database: str) -> set[str]:
    """Every column, constraint, index, function and trigger of a database, but for the names of constraints and indexes, which tell by what
    way they came."""
    with psycopg.connect(database) as asked:
        return {
            str(row)
            for kind in (
                "SELECT table_name, column_name, data_type, character_maximum_length, is_nullable, column_default, is_identity"
                " FROM information_schema.columns WHERE table_schema = 'public'",
                "SELECT conrelid::regclass::text, pg_get_constraintdef(oid) FROM pg_constraint"
                " WHERE connamespace = 'public'::regnamespace",
                r"SELECT regexp_replace(indexdef, 'INDEX \w+ ON', 'INDEX ON') FROM pg_indexes WHERE schemaname = 'public'",
                "SELECT proname, prosrc FROM pg_proc WHERE pronamespace = 'public'::regnamespace",
                "SELECT pg_get_triggerdef(oid) FROM pg_trigger WHERE NOT tgisinternal",
            )
            for row in asked.execute(kind)
        }


class Start(StartCase):
    takes_long = True

    def test_a_password_stands_on_no_command_line_and_in_no_shared_folder(self) -> None:
        """Where every user of the machine could read it."""
        cluster = Cluster(self.data, password="-x9Q", application_password="-x9Qy")
        self.data.mkdir()
        seen: dict[str, object] = {}

        def run(command: list[str], **more: object) -> subprocess.CompletedProcess[str]:
            self.assertNotIn("x9Q", " ".join(command))
            seen.update({path.name: (path.read_text(), path.stat().st_mode & 0o077) for path in self.data.iterdir()})
            seen["input"] = more.get("input")
            return subprocess.CompletedProcess([], 0, stdout="told")

        with patch("subprocess.run", run), patch.object(cluster, "_own"):
            start._prepare({}, "-x9Q", demo=True)
            self.assertEqual(seen.pop("input"), "-x9Q")
            cluster._initdb(self.data / "pg.new")
            self.assertEqual(seen["first-password"], ("-x9Q", 0))
            cluster._ensure_database()
        self.assertEqual(list(self.data.iterdir()), [], "it is there no longer than it takes")

    def test_what_keeps_its_files_to_itself_writes_none_beside_the_program(self) -> None:
        """They would be closed to whoever runs it otherwise."""
        needed = dict.fromkeys(hosted.NEEDED, "elsewhere") | {"EYOT_DATA": str(self.folder())}
        with patch.dict(os.environ, needed), patch("os.umask"), patch("os.execve") as become, patch("os.chdir"):
            hosted.work(1)
            self.assertEqual(become.call_args.args[2]["PYTHONDONTWRITEBYTECODE"], "1")
        with patch("subprocess.run") as run, patch("os.umask"):
            safekeeping.verify(self.data)
            self.assertEqual(run.call_args.kwargs["env"]["PYTHONDONTWRITEBYTECODE"], "1")
        self.assertEqual(closed_of_the_program(), [])
        with patch("os.access", return_value=False):
            self.assertEqual(compiled({"PATH": "/"}), {"PATH": "/"}, "nothing of the program may be written")

    def test_the_demos_first_passwords_differ_and_are_kept_until_they_were_told(self) -> None:
        self.data.mkdir()
        made = start.kept_settings(self.data)
        self.assertNotEqual(made["keeper_password"], made["helper_password"])
        self.assertEqual(start.kept_settings(self.data), made, "the start was killed before it told them")
        self.assertEqual((self.data / "settings.json").stat().st_mode & 0o077, 0)

    def test_a_database_of_before_is_handed_over_to_the_applications_own_role(self) -> None:
        home = self.folder() / "database"
        cluster = Cluster(home, password="the-owners", application_password="the-applications")
        cluster.make()
        cluster.start()
        self.addCleanup(cluster.stop)
        self.assertEqual(
            cluster._asked("postgres", "SHOW unix_socket_directories;"), "", "it leaves no folder in a shared one"
        )
        cluster._asked("postgres", "DROP DATABASE eyot; CREATE DATABASE eyot OWNER eyot;")
        cluster._asked(
            "eyot",
            "CREATE TYPE state AS ENUM ('open'); CREATE TABLE egg (id serial, number int GENERATED ALWAYS AS IDENTITY, now state);"
            "CREATE SEQUENCE alone; CREATE FUNCTION one() RETURNS int LANGUAGE sql AS 'SELECT 1'; INSERT INTO egg DEFAULT VALUES;",
        )
        cluster._ensure_database()
        with psycopg.connect(cluster.url) as asked:
            self.assertEqual(
                asked.execute("SELECT rolsuper FROM pg_roles WHERE rolname = current_user").fetchone(), (False,)
            )
            asked.execute(
                "ALTER TABLE egg ADD note text; ALTER TYPE state ADD VALUE 'done'; DROP SEQUENCE alone; DROP FUNCTION one()"
            )
            asked.execute("INSERT INTO egg (note) VALUES ('kept')")
            self.assertEqual(asked.execute("SELECT count(*) FROM egg").fetchone(), (2,))
        with self.assertRaises(psycopg.OperationalError):
            psycopg.connect(cluster.url.replace("the-applications", "the-owners")).close()

    def test_settings_without_their_database_are_refused(self) -> None:
        self.data.mkdir()
        kept = start.kept_settings(self.data)
        self.assertEqual(start.home_of(self.data, kept), passable_home(self.data), "none was made yet")
        with self.assertRaisesRegex(CannotGoOn, "no database where it should be .*bring a backup into it"):
            start.home_of(self.data, {**kept, "database_port": "5999", "database_home": "/elsewhere"})

    def test_pauses_grow_until_it_has_run_for_a_while(self) -> None:
        begun, runs = [], False
        one = start._Kept("worker", lambda: begun.append(now), lambda: runs)
        now = 0.0
        with patch.object(start, "tell"):
            while now < 70:
                one.look_after(now)
                now += 1
        self.assertEqual(begun, [1, 4, 9, 18, 35, 68])
        runs, now = True, 500.0
        one.look_after(now)
        runs = False
        with patch.object(start, "tell"):
            one.look_after(501)
            one.look_after(502)
        self.assertEqual(len(begun), 7)

    def test_a_taken_port_is_told(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            run = self.start(port=taken.getsockname()[1])
            self.assertEqual(run.ended(), 1)
        self.assertRegex(run.output, r"port \d+ can't be used .*choose another with --port")
        self.assertFalse((self.data / "database").exists())

    def test_a_damaged_settings_file_is_told(self) -> None:
        self.data.mkdir()
        (self.data / "settings.json").write_text("{")
        run = self.start()
        self.assertEqual(run.ended(), 1)
        self.assertIn("settings.json is damaged", run.output)
        self.assertNotIn("Traceback", run.output)

    def test_the_cores_command_line_answers(self) -> None:
        command = [str(ROOT / "bin/eyot"), "core", "cross"]
        good = subprocess.run(
            command,
            input='{"dam": {"genes": [{"gene": "fire", "copies": 1}]}, "sires": [{}]}',
            text=True,
            capture_output=True,
        )
        self.assertEqual((good.returncode, good.stderr), (0, ""))
        self.assertIn('"probability": 0.5', good.stdout)
        bad = subprocess.run(command, input="{}", text=True, capture_output=True)
        self.assertEqual((bad.returncode, bad.stdout), (2, ""))
        self.assertEqual(bad.stderr, '{"error": "the key \'dam\' is missing", "at": "dam"}\n')


class StartAgain(StartCase):
    """The first run makes its folder; each test begins with a copy of it."""

    takes_long = True
    databases = {"default"}

    made: Path
    first: str
    first_tables: set[str]
    first_status: int
    first_end: int
    was_up: bool

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.made = cls.folder() / "data"
        half = cls.made / "database/pg.new"
        half.mkdir(parents=True)
        (half / "PG_VERSION").write_text("15")
        run = Started(cls.made, "--no-demo")
        try:
            cls.first_status = status_of(run.address())
            cls.was_up = database_is_up(cls.made)
            kept = json.loads((cls.made / "settings.json").read_text())
            who = f"eyot_app:{kept['application_password']}"
            cls.first_tables = tables_of(f"postgresql://{who}@127.0.0.1:{kept['database_port']}/eyot")
            cls.first_end = run.stop()
        finally:
            run.close()
        cls.first = run.output

    def setUp(self) -> None:
        super().setUp()
        subprocess.run(["cp", "-a", str(self.made), str(self.data)], check=True)

    def wait_for_answers(self, address: str) -> None:
        """The web server answers again, as soon as it listens."""
        with requests.Session() as session:
            session.mount("http://", HTTPAdapter(max_retries=UNTIL_IT_LISTENS))
            self.assertEqual(session.get(f"{address}login/", timeout=30).status_code, 200)

    def processes(self, program: str) -> list[int]:
        """Process ids of a program that was begun for this test's data folder by the launcher itself."""
        found = []
        for path in Path("/proc").glob("[0-9]*"):
            try:
                words = (path / "cmdline").read_bytes().split(b"\0")
                own = f"EYOT_DATA={self.data}".encode() in (path / "environ").read_bytes().split(b"\0")
                parent = int((path / "stat").read_text().rsplit(")", 1)[1].split()[1])
                is_first = b"start" in Path(f"/proc/{parent}/cmdline").read_bytes().split(b"\0")
            except OSError:
                continue
            if own and is_first and any(program.encode() in word for word in words[:4]):
                found.append(int(path.name))
        return found

    def workers(self) -> list[int]:
        """Process ids of the workers of this test's data folder."""
        found = []
        for path in Path("/proc").glob("[0-9]*"):
            try:
                words = (path / "cmdline").read_bytes().split(b"\0")
                own = f"EYOT_DATA={self.data}".encode() in (path / "environ").read_bytes().split(b"\0")
            except OSError:
                continue
            if own and words[-3:-1] == [b"django", b"work"]:
                found.append(int(path.name))
        return found

    def test_the_first_run_makes_a_half_made_database_anew_and_stops_everything(self) -> None:
        self.assertEqual((self.first_status, self.was_up, self.first_end), (200, True, 0))
        self.assertRegex(self.first, r"\(first visit: code \w{4}-\w{4}-\w{4}-\w{4}\)")
        self.assertIn("making the database", self.first)
        self.assertFalse((self.made / "database/pg.new").exists())
        self.assertFalse(database_is_up(self.made))

    def test_all_migrations_lead_to_the_tables_that_the_tests_make_of_the_models(self) -> None:
        of_tests = urlsplit(os.environ["EYOT_DATABASE"])._replace(
            scheme="postgresql", path=f"/{connection.settings_dict['NAME']}"
        )
        self.assertGreater(len(self.first_tables), 1000)
        differ = self.first_tables ^ tables_of(urlunsplit(of_tests))
        own = {
            row for row in differ if not row.startswith("('auth_")
        }  # Django's own began with shorter keys than it asks for now
        self.assertEqual(own, set())

    def test_the_next_run_is_the_only_one_replaces_what_dies_and_is_repaired_when_killed(self) -> None:
        run = self.start("--no-demo")
        self.assertEqual(status_of(run.address()), 200)
        self.assertNotIn("making the database", run.output)
        self.assertEqual(ADDRESS.search(run.output)[2], ADDRESS.search(self.first)[2])  # type: ignore[index]
        self.assert_kept_from_others()

        beside = self.start("--no-demo")
        self.assertEqual(beside.ended(), 1)
        self.assertIn("already runs", beside.output)
        self.assertEqual(status_of(run.address()), 200)

        [worker] = self.workers()
        os.kill(worker, signal.SIGKILL)
        run.says("another was started")
        [other] = self.workers()
        self.assertNotEqual(worker, other)

        database = self.data / "database/pg/postmaster.pid"
        before = int(database.read_text().split()[0])
        os.kill(before, signal.SIGKILL)
        run.says("the database: another was started")
        self.assertNotEqual(int(database.read_text().split()[0]), before)
        self.assertEqual(status_of(run.address()), 200)
        [server] = self.processes("gunicorn")
        os.kill(server, signal.SIGKILL)
        run.says("the web server: another was started")
        self.wait_for_answers(run.address())

        copied = self.folder() / "data"
        subprocess.run(["cp", "-a", str(self.data), str(copied)], check=True)
        beside = Started(copied, "--no-demo")
        self.addCleanup(beside.close)
        beside.says(ADDRESS)
        self.assertIn("copied from one whose database runs", beside.output)
        self.assertNotIn("taking it over", beside.output)
        self.assertEqual(beside.stop(), 0)
        self.assertTrue(database_is_up(self.data), "the one that it was copied from")

        run.stop(signal.SIGKILL)
        again = self.start("--no-demo")
        self.assertEqual(status_of(again.address()), 200)
        self.assertIn("taking it over", again.output, "the database of the run that was killed")
        self.assertEqual(again.stop(), 0)
        self.assertEqual(self.workers(), [])

    def assert_kept_from_others(self) -> None:
        """Nothing that was made is anybody else's to read, and no process of it is root's; what it holds of passwords was told."""
        for path in [self.data, *self.data.rglob("*")]:
            if not path.is_symlink():
                self.assertEqual(path.stat().st_mode & 0o077, 0, path)
        running = self.processes("gunicorn") + self.workers()
        owners = {Path(f"/proc/{number}").owner() for number in running}
        self.assertEqual(owners, {ordinary_user() or Path(f"/proc/{os.getpid()}").owner()})
        self.assertEqual(closed_of_the_program(), [], "it is no secret: who runs it would compile it at each start")
        held = json.loads((self.data / "settings.json").read_text())
        self.assertFalse({"keeper_password", "helper_password"} & held.keys())

    def test_a_phone_cuts_without_a_signal_by_tls_and_what_it_kept_is_sent_once(self) -> None:
        run = self.start("--no-demo", "--lan", "127.0.0.1")
        address = run.says(r"On a phone: (https://127\.0\.0\.1:\d+/)")[1]
        authority = ssl.create_default_context(cafile=str(self.data / "certificates/authority.crt"))
        strange = urllib.request.Request(f"{address}login/", headers={"Host": "elsewhere.example"})
        with self.assertRaises(HTTPError) as refused:
            urllib.request.urlopen(strange, timeout=5, context=authority)
        self.assertEqual(refused.exception.code, 400)
        refused.exception.close()
        code = re.search(r"first visit: code ([-\w]+)", self.first)
        assert code
        server = x509.load_pem_x509_certificate((self.data / "certificates/server.crt").read_bytes())
        key = server.public_key().public_bytes(
            serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo
        )
        trusted = base64.b64encode(hashlib.sha256(key).digest()).decode()
        playwright = self.enterContext(sync_playwright())
        flags = [*FLAGS, f"--ignore-certificate-errors-spki-list={trusted}"]
        chromium = playwright.chromium.launch(executable_path=PROGRAM, chromium_sandbox=False, args=flags)
        self.addCleanup(chromium.close)
        phone = chromium.new_context(**PHONE)
        phone.set_default_timeout(PATIENCE_MS)
        page = phone.new_page()
        page.goto(address)
        page.get_by_label("The code that the start command printed").fill(code[1])
        page.get_by_label("Name to log in with").fill("rushlight")
        page.get_by_label("Password").fill("marsh-mallow-tea")
        page.get_by_label("What your collection is called").fill("Own Reach")
        page.get_by_role("button", name="Begin").tap()
        page.wait_for_url("**/in/own-reach/")
        page.goto(f"{address}in/own-reach/pairings/running/")
        page.get_by_label("Dam").fill("Rush: pastel")
        page.get_by_label("Sire").fill("Rudd: het clown")
        page.get_by_label("Laid on").fill((datetime.now(UTC).date() - timedelta(days=58)).isoformat())
        page.get_by_label("Sound eggs").fill("3")
        page.get_by_role("button", name="Enter the clutch").tap()
        cutting = page.locator("a[href$='/cutting/']").first.get_attribute("href")
        wait_until_kept(page, str(cutting))

        phone.set_offline(True)
        page.goto(address.rstrip("/") + str(cutting))
        expect(page.locator("#kept")).to_contain_text("No signal. This page is as it was on")
        egg = page.locator('[data-egg="1"]')
        egg.get_by_role("button", name="Cut open").tap()
        for look in range(3):
            egg.locator("[data-trait]").nth(look).locator("[data-level]").nth(1).tap()
        picture = {"name": "egg.jpg", "mimeType": "image/jpeg", "buffer": encoded()}
        egg.locator("[data-camera]").set_input_files(files=[picture])
        expect(page.locator("[data-kept]")).to_have_text("5 kept on this phone, not sent yet")
        page.reload()
        expect(page.locator("#kept")).to_contain_text("No signal")
        expect(page.locator("[data-kept]")).to_have_text("5 kept on this phone, not sent yet")
        expect(egg).to_have_attribute("data-state", "open")
        expect(egg.locator("[data-photos]")).to_have_text("1")
        page.goto(f"{address}in/own-reach/reference/")
        expect(page.get_by_role("heading", name="No signal")).to_be_visible()
        page.goto(address.rstrip("/") + str(cutting))

        phone.set_offline(False)
        expect(page.locator("[data-kept]")).to_have_text("everything is sent")
        expect(page.locator("#kept")).to_contain_text("The signal is back")
        page.reload()
        expect(page.locator("#kept")).to_be_hidden()
        expect(egg).to_have_attribute("data-state", "open")
        expect(egg.locator("[data-photos]")).to_have_text("1")
        page.goto(address.rstrip("/") + str(cutting).replace("cutting/", "1/"))
        expect(page.locator(".trail li.look")).to_have_count(3)
