"""The start command as a keeper runs it, for tests and measurements that begin one of their own. Needs no Django."""

from __future__ import annotations

import os
import re
import signal
import socket
import subprocess
import threading
from pathlib import Path

from urllib3.util.retry import Retry

ROOT = Path(__file__).resolve().parents[1]
ADDRESS = re.compile(r"Eyot is at (http://127\.0\.0\.1:\d+/)(.*)")
PATIENCE_SECONDS = 180
UNTIL_IT_LISTENS = Retry(total=None, connect=120, read=20, backoff_factor=0.1, backoff_max=1)
"""For a server that is only coming up: asked again and again, by the library's own pauses."""


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Started:
    """One run of the start command; ``told`` is everything that it printed so far."""

    def __init__(self, data: Path, *more: str, port: int | None = None) -> None:
        self.output, self.is_over = "", False
        self.heard = threading.Condition()
        command = [str(ROOT / "bin/eyot"), "start", "--data", str(data), "--port", str(port or free_port()), *more]
        clean = {
            name: value for name, value in os.environ.items() if not name.startswith(("EYOT_", "DJANGO_", "PYTHON"))
        }
        self.process = subprocess.Popen(
            command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, env=clean, start_new_session=True, text=True
        )
        self.listener = threading.Thread(target=self._listen)
        self.listener.start()

    def _listen(self) -> None:
        assert self.process.stdout is not None
        with self.process.stdout as lines:
            for line in lines:
                with self.heard:
                    self.output += line
                    self.heard.notify_all()
        with self.heard:
            self.is_over = True
            self.heard.notify_all()

    def says(self, pattern: str | re.Pattern[str]) -> re.Match[str]:
        """Waits until it has printed this, or has ended."""
        with self.heard:
            self.heard.wait_for(lambda: re.search(pattern, self.output) or self.is_over, timeout=PATIENCE_SECONDS)
        found = re.search(pattern, self.output)
        assert found, f"{pattern} was not told:\n{self.output}"
        return found

    def address(self) -> str:
        return self.says(ADDRESS)[1]

    def stop(self, how: int = signal.SIGTERM) -> int:
        self.process.send_signal(how)
        return self.process.wait(timeout=PATIENCE_SECONDS)

    def ended(self) -> int:
        """Waits until it ends by itself, and has been heard out."""
        status = self.process.wait(timeout=PATIENCE_SECONDS)
        self.listener.join(timeout=PATIENCE_SECONDS)
        return status

    def close(self) -> None:
        if self.process.poll() is None:
            self.stop()
        self.listener.join(timeout=PATIENCE_SECONDS)
