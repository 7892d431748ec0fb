"""Two web processes and two workers on one database and one store: one of each is killed while pages are used, and nothing is lost."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
import tempfile
import uuid
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from unittest import TestCase
from urllib.parse import urlsplit, urlunsplit

import boto3
import psycopg
import requests
from moto.server import ThreadedMotoServer
from requests.adapters import HTTPAdapter

from tests.started import UNTIL_IT_LISTENS, free_port
from tests.web.test_workers import PATIENCE_SECONDS, TELL_OF_PHOTOS, jpeg

ROOT = Path(__file__).resolve().parents[2]
CODE = "abcd-efgh-jkmn-pqrs"


class TwoNodes(TestCase):
    takes_long = True

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="eyot-nodes-")))
        self.database = self.made_database()
        store = ThreadedMotoServer(ip_address="127.0.0.1", port=0, verbose=False)
        store.start()
        self.addCleanup(store.stop)
        self.endpoint = "http://{}:{}".format(*store.get_host_and_port())
        keys = {"AWS_ACCESS_KEY_ID": "of-the-stand-in", "AWS_SECRET_ACCESS_KEY": "of-the-stand-in"}
        self.bucket = boto3.resource(
            "s3",
            endpoint_url=self.endpoint,
            region_name="us-east-1",
            aws_access_key_id="of-the-stand-in",
            aws_secret_access_key="of-the-stand-in",
        ).create_bucket(Bucket="nest")
        clean = {name: value for name, value in os.environ.items() if not name.startswith(("EYOT_", "DJANGO_"))}
        self.environment = (
            clean
            | keys
            | {
                "EYOT_DATABASE": self.database,
                "EYOT_PHOTOS": f"s3://nest/photos?endpoint={self.endpoint}",
                "EYOT_SECRET_KEY": "the same for all",
                "EYOT_CLAIM_CODE": CODE,
                "EYOT_BACKUPS": "none",
                "EYOT_LOG": "json",
            }
        )
        self.session = requests.Session()
        self.session.mount("http://", HTTPAdapter(max_retries=UNTIL_IT_LISTENS))
        self.addCleanup(self.session.close)

    def made_database(self) -> str:
        """A database of this test alone, gone after it."""
        address, name = os.environ["EYOT_DATABASE"], f"nodes_{uuid.uuid4().hex[:8]}"
        with psycopg.connect(address.replace("postgres://", "postgresql://"), autocommit=True) as server:
            server.execute(f"CREATE DATABASE {name}")

        def drop() -> None:
            with psycopg.connect(address.replace("postgres://", "postgresql://"), autocommit=True) as server:
                server.execute(f"DROP DATABASE {name} WITH (FORCE)")

        self.addCleanup(drop)
        return urlunsplit(urlsplit(address)._replace(path=f"/{name}"))

    def run_as(self, name: str, *command: str) -> subprocess.Popen[bytes]:
        """One process of a node, with a data folder of its own: nothing is shared but database and store."""
        data = self.folder / name
        data.mkdir(exist_ok=True)
        more = {
            "EYOT_DATA": str(data),
            "PYTHONPATH": str(ROOT / "src"),
            "DJANGO_SETTINGS_MODULE": "eyot.config.settings",
        }
        log = self.enterContext((self.folder / f"{name}.log").open("ab"))
        process = subprocess.Popen(
            command, env=self.environment | more, stdout=log, stderr=log, cwd=ROOT, start_new_session=True
        )
        self.addCleanup(self.end, process, signal.SIGTERM)
        return process

    def end(self, process: subprocess.Popen[bytes], how: int) -> None:
        """Ends a process and its children: of its own group, which this test began."""
        if process.poll() is None:
            os.killpg(process.pid, how)
            process.wait(timeout=30)

    def web(self, name: str, port: int) -> subprocess.Popen[bytes]:
        return self.run_as(name, str(ROOT / "bin/eyot"), "serve", "--address", f"127.0.0.1:{port}")

    def worker(self, name: str) -> subprocess.Popen[bytes]:
        return self.run_as(name, sys.executable, "-W", "ignore", "-m", "django", "work", "--silent", "2")

    def send(self, path: str, data: dict[str, Any] | None = None, **more: Any) -> requests.Response:
        """Asks the nodes in turn, as a balancer would: the first that answers."""
        problem: Exception | None = None
        for port in self.ports:
            address = f"http://127.0.0.1:{port}{path}"
            try:
                if data is None:
                    return self.session.get(address, timeout=30)
                token = self.session.cookies.get("csrftoken", "")
                return self.session.post(address, {"csrfmiddlewaretoken": token, **data}, timeout=30, **more)
            except requests.ConnectionError as error:
                problem = error
        raise AssertionError(f"no node answers: {problem}")

    def test_one_of_each_is_killed_and_nothing_is_lost(self) -> None:
        self.ports = [free_port(), free_port()]
        first, _ = [self.web(f"web-{number}", port) for number, port in enumerate(self.ports)]
        for port in self.ports:
            self.assertEqual(self.session.get(f"http://127.0.0.1:{port}/alive", timeout=30).text, "alive")
        self.session.mount("http://", HTTPAdapter(max_retries=0))
        workers = [self.worker("worker-0"), self.worker("worker-1")]
        self.send("/begin/")
        self.send(
            "/begin/",
            {
                "code": CODE,
                "name": "rushlight",
                "password": "marsh-mallow-tea",
                "collection": "Own Reach",
                "time_zone": "",
                "day_form": "day",
                "grade": "C",
            },
        )
        today = datetime.now(UTC).date()
        clutch = {"code": "A-01", "dam": "Rush: pastel", "sire": "Rudd: het clown", "eggs": "3", "slugs": "0"}
        clutch |= {"laid_on": str(today - timedelta(days=58)), "standing": "open", "on": str(today)}
        self.assertIn("A-01 is entered", self.send("/in/own-reach/pairings/running/", clutch).text)

        with psycopg.connect(self.database.replace("postgres://", "postgresql://"), autocommit=True) as listening:
            listening.execute(TELL_OF_PHOTOS)
            listening.execute("LISTEN photos")
            self.photographed(range(3))
            os.killpg(workers[0].pid, signal.SIGKILL)
            self.looked(1, "lobe_attach", "floating")
            os.killpg(first.pid, signal.SIGKILL)
            first.wait(timeout=30)
            self.looked(2, "lobe_attach", "attached")
            self.photographed(range(3, 6))
            self.worker("worker-2")  # as whoever keeps a service begins one anew
            waiting = "SELECT count(*) FROM photos_photo WHERE sizes_done < sizes_wanted"
            while listening.execute(waiting).fetchone() != (0,):
                told = list(listening.notifies(timeout=PATIENCE_SECONDS, stop_after=1))
                self.assertTrue(told, "no photo was made any more")
            keys = [str(key) for (key,) in listening.execute("SELECT id FROM photos_photo").fetchall()]
            looks = listening.execute("SELECT level FROM bench_look ORDER BY id").fetchall()
        self.assertEqual(len(keys), 6)
        self.assertEqual(looks, [("floating",), ("attached",)])
        kept = {entry.key for entry in self.bucket.objects.all()}
        for key in keys:
            for name in ("original.jpg", "thumb-1.jpg", "page-1.jpg", "full-1.jpg"):
                self.assertTrue(any(one.endswith(f"{key}/{name}") for one in kept), (key, name))
        page = self.send("/in/own-reach/clutches/A-01/1/")
        self.assertEqual(page.status_code, 200)
        picture = re.search(r'"(/in/own-reach/photos/[^"]+?/(?:page|full|thumb)-1[^"]*)"', page.text)
        assert picture
        self.assertEqual(self.send(picture[1]).headers["Content-Type"], "image/jpeg")
        self.assertEqual(self.send("/ready").json(), {"database": True, "store": True, "worker": True})
        log = (self.folder / "web-1.log").read_text()
        self.assertIn('"page": "clutches/<slug:code>/<int:number>/"', log)
        self.assertNotIn("Rush", log)

    def photographed(self, numbers: range) -> None:
        files = [("photos", (f"{number}.jpg", jpeg(number), "image/jpeg")) for number in numbers]
        answer = self.send("/in/own-reach/clutches/A-01/1/photos/?stage=egg", {}, files=files)
        self.assertEqual(answer.status_code, 200, answer.text[:300])

    def looked(self, number: int, trait: str, level: str) -> None:
        given = {"trait": trait, "level": level, "stage": "egg", "confidence": "sure", "key": str(uuid.uuid4())}
        answer = self.send(f"/in/own-reach/clutches/A-01/{number}/looks/", given)
        self.assertEqual(answer.status_code, 200, answer.text[:300])
