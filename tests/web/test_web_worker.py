"""The web server's worker: no client keeps its threads from others."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
from unittest import TestCase

import requests
from requests.adapters import HTTPAdapter

from tests.started import ROOT, UNTIL_IT_LISTENS, free_port


class Worker(TestCase):
    takes_long = True  # it waits for ten seconds, in which others work unless it comes last
    port: int

    @classmethod
    def setUpClass(cls) -> None:
        cls.port = free_port()
        server = ("-m", "gunicorn", "tests.web.quick_server:application", "--bind", f"127.0.0.1:{cls.port}")
        kind = ("--worker-class", "eyot.config.web_worker.TimedWorker", "--threads", "2", "--log-level", "critical")
        path = os.pathsep.join([str(ROOT / "src"), str(ROOT)])
        process = subprocess.Popen(
            [sys.executable, *server, *kind, "--no-control-socket"], cwd=ROOT, env={**os.environ, "PYTHONPATH": path}
        )
        cls.addClassCleanup(process.wait, 20)
        cls.addClassCleanup(process.terminate)
        cls.session = requests.Session()
        cls.addClassCleanup(cls.session.close)
        cls.session.mount("http://", HTTPAdapter(max_retries=UNTIL_IT_LISTENS))
        assert cls.asked() == "0"

    @classmethod
    def asked(cls, sent: bytes = b"") -> str:
        answer = cls.session.post(f"http://127.0.0.1:{cls.port}/", sent, headers={"Connection": "close"}, timeout=20)
        return answer.text

    def begun(self, words: bytes) -> socket.socket:
        """A connection on which somebody has begun to send."""
        connection = socket.create_connection(("127.0.0.1", self.port), timeout=20)
        self.addCleanup(connection.close)
        connection.sendall(words)
        return connection

    def test_half_sent_headers_are_cut_off_and_others_are_answered_meanwhile(self) -> None:
        halves = [self.begun(b"POST / HTTP/1.1\r\nHost: here\r\nX-More: ") for _ in range(8)]
        self.assertEqual(self.asked(b"egg"), "3")
        for half in halves:
            self.assertEqual(half.recv(1000), b"", "closed, without an answer")

    def test_a_body_that_stops_coming_is_given_up_and_a_whole_one_is_not(self) -> None:
        headers = b"POST / HTTP/1.1\r\nHost: here\r\nContent-Length: 1000\r\n\r\n"
        stopped = [self.begun(headers + b"e") for _ in range(4)]
        whole = self.begun(headers + b"e" * 500)
        self.assertEqual(self.asked(b"egg"), "3")
        for one in stopped:
            self.assertNotIn(b"200 OK", one.recv(1000))
        self.assertNotIn(b"200 OK", whole.recv(1000))
        self.assertEqual(self.asked(b"e" * 100_000), "100000")
