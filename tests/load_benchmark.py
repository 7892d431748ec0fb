"""Thirty people at their pages for five minutes, beside uploads of large pictures in the second half: how long a page takes, and how
much memory each process has. ``bin/eyot bench`` runs it and prints the table of docs/benchmarks.md; half minutes as an argument.
"""

from __future__ import annotations

import io
import os
import random
import re
import sys
import tempfile
import threading
import time
from collections import defaultdict
from dataclasses import dataclass, field
from pathlib import Path
from uuid import uuid4

import numpy as np
import requests
from PIL import Image

from tests.started import Started

USERS, AT_ONCE = 30, 10
PAGES = (
    "",
    "animals/",
    "clutches/W-04/",
    "clutches/W-04/3/",
    "clutches/W-02/2/",
    "clutches/W-04/cutting/",
    "hets/",
    "reference/",
)
THINKING = (2.0, 6.0)
"""Seconds between one page and the next of one person."""
PAGE_KB = os.sysconf("SC_PAGE_SIZE") // 1024


@dataclass
class Load:
    """What was seen: seconds of each page by phase, answers that were none, megabytes of each kind of process by time."""

    address: str
    cookies: dict[str, str]
    phase: str = "alone"
    ended: threading.Event = field(default_factory=threading.Event)
    seconds: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    uploads: list[float] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)
    memory: dict[tuple[str, str], list[float]] = field(default_factory=lambda: defaultdict(list))

    def session(self) -> requests.Session:
        session = requests.Session()
        session.cookies.update(self.cookies)
        session.headers.update({"Referer": self.address, "X-CSRFToken": self.cookies["csrftoken"]})
        return session


def keep_reading(load: Load, seed: int) -> None:
    """One person: a page, a pause, the next."""
    chosen, session = random.Random(seed), load.session()
    load.ended.wait(chosen.uniform(0, THINKING[1]))
    while not load.ended.is_set():
        phase, begun = load.phase, time.perf_counter()
        try:
            answer = session.get(f"{load.address}{chosen.choice(PAGES)}", timeout=60)
            load.seconds[phase].append(time.perf_counter() - begun)
            if answer.status_code != 200:
                load.wrong.append(f"{answer.status_code} {answer.url}")
        except requests.RequestException as reason:
            load.wrong.append(type(reason).__name__)
        load.ended.wait(chosen.uniform(*THINKING))


def keep_sending(load: Load, picture: bytes) -> None:
    """Ten pictures at once, and again as soon as all are there and half a minute is over."""
    session = load.session()

    def send(egg: int) -> None:
        begun = time.perf_counter()
        given = {"key": str(uuid4()), "csrfmiddlewaretoken": load.cookies["csrftoken"]}
        path = f"{load.address}clutches/W-04/{egg}/cut/photo/"
        answer = session.post(path, given, files={"photo": ("large.jpg", picture)}, timeout=120)
        load.uploads.append(time.perf_counter() - begun)
        if answer.status_code >= 400:
            load.wrong.append(f"upload {answer.status_code}")

    while load.phase == "beside uploads" and not load.ended.is_set():
        senders = [threading.Thread(target=send, args=(1 + number % 7,)) for number in range(AT_ONCE)]
        for sender in senders:
            sender.start()
        for sender in senders:
            sender.join()
        load.ended.wait(20)


def keep_weighing(load: Load, data: Path) -> None:
    """Once a second, the memory of each process of this Eyot."""
    while not load.ended.wait(1):
        for kind, megabytes in weighed(data):
            load.memory[load.phase, kind].append(megabytes)


def weighed(data: Path) -> list[tuple[str, float]]:
    """Kind and resident megabytes of the processes that were begun for a data folder."""
    rows = []
    for path in Path("/proc").glob("[0-9]*"):
        try:
            words = (path / "cmdline").read_bytes().split(b"\0")
            if f"EYOT_DATA={data}".encode() not in (path / "environ").read_bytes().split(b"\0"):
                continue
            pages = int((path / "statm").read_text().split()[1])
        except (OSError, IndexError):
            continue
        kinds = {b"gunicorn": "web server", b"eyot_core.photo.taking": "decoder", b"work": "worker"}
        if kind := next((name for word, name in kinds.items() if word in words), ""):
            rows.append((kind, pages * PAGE_KB / 1024))
    return rows


def large_picture() -> bytes:
    """Twelve megapixels with grain, as a camera has it."""
    grain = np.random.default_rng(1).integers(0, 60, (3000, 4000, 3), dtype=np.uint8)
    held = io.BytesIO()
    Image.fromarray(grain + np.linspace(40, 180, 4000, dtype=np.uint8)[:, None]).save(held, "JPEG", quality=88)
    return held.getvalue()


def log_in(run: Started) -> dict[str, str]:
    """The cookies of the demo's keeper."""
    address, session = run.address(), requests.Session()
    password = re.search(r"keeper / (\S+)", run.output)
    assert password is not None
    session.get(f"{address}login/", timeout=60)
    given = {"login": "keeper", "password": password[1], "csrfmiddlewaretoken": session.cookies["csrftoken"]}
    session.post(f"{address}login/", given, headers={"Referer": address}, timeout=60)
    return {str(name): str(value) for name, value in session.cookies.items()}


def main(half_minutes: float) -> int:
    """Runs it, and prints the tables."""
    with tempfile.TemporaryDirectory(prefix="eyot-load-") as folder:
        os.chmod(folder, 0o755)
        run = Started(Path(folder) / "data")
        try:
            load = Load(run.address(), log_in(run))
            threads = [threading.Thread(target=keep_reading, args=(load, seed)) for seed in range(USERS)]
            threads.append(threading.Thread(target=keep_weighing, args=(load, Path(folder) / "data")))
            picture, each = large_picture(), half_minutes * 30 / 2
            for thread in threads:
                thread.start()
            load.ended.wait(each)
            load.phase = "beside uploads"
            sending = threading.Thread(target=keep_sending, args=(load, picture))
            sending.start()
            load.ended.wait(each)
            load.phase = "afterwards"
            sending.join()
            load.ended.wait(30)
            load.ended.set()
            for thread in threads:
                thread.join()
        finally:
            run.close()
    tell(load, len(picture))
    return int(bool(load.wrong))


def tell(load: Load, size: int) -> None:
    """The tables."""
    print(f"\n{USERS} people, uploads of {size / 1e6:.1f} MB, {AT_ONCE} at once; wrong: {load.wrong[:5] or 'nothing'}")
    print(
        "\n| | pages | half within | 95 % within | web process at most | decoder | worker |\n|---|---|---|---|---|---|---|"
    )
    for phase, seconds in load.seconds.items():
        half, most = np.percentile(seconds, [50, 95]) * 1000
        kinds = [max(load.memory[phase, kind], default=0) for kind in ("web server", "decoder", "worker")]
        print(
            f"| {phase} | {len(seconds):,} | {half:.0f} ms | {most:.0f} ms | "
            + " | ".join(f"{one:.0f} MB" for one in kinds)
            + " |"
        )
    last = {kind: rows[-1] for (phase, kind), rows in load.memory.items() if phase == "afterwards"}
    half, longest = np.median(load.uploads or [0]), max(load.uploads, default=0)
    print(f"\n{len(load.uploads)} uploads, half within {half:.1f} s, the longest {longest:.1f} s")
    print("at the end: " + ", ".join(f"{kind} {megabytes:.0f} MB" for kind, megabytes in last.items()))


if __name__ == "__main__":
    sys.exit(main(float(sys.argv[1]) if len(sys.argv) > 1 else 10.0))
