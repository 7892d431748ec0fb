"""Files become pictures in a process of their own, one at a time: what a file does to its decoder, it does to no page.

The process is kept for the next file; one that takes more time than any photo does is ended, and another begun.
"""

from __future__ import annotations

import contextlib
import json
import os
import select
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import IO, Any

from eyot_core.photo.picture import NoPicture, too_many_bytes

MOST_CPU_SECONDS, MOST_SECONDS = 5.0, 60.0
"""What reading one file may take of a processor, and by the clock, which counts what else the machine has to do."""
LOOKS_EVERY = 0.1
ONE_THREAD = ("OMP_NUM_THREADS=1", "OPENBLAS_NUM_THREADS=1")
"""Each thread of the libraries would reserve memory that the decoder may not have."""


@dataclass(frozen=True)
class TakenIn:
    """A picture that was read: an upright JPEG without any data beside its pixels, as a file. ``taken_at``: by the camera's clock;
    ``camera``: which photos are of one camera."""

    path: Path
    width: int
    height: int
    taken_at: datetime | None
    camera: str

    def opened(self) -> IO[bytes]:
        """The file."""
        return self.path.open("rb")


_one_at_a_time = threading.Lock()
_decoder: subprocess.Popen[str] | None = None


@contextlib.contextmanager
def taken_in(file: IO[bytes], name: str, size: int) -> Iterator[TakenIn | NoPicture]:
    """The picture in a file of so many bytes, while the context lasts; or why there is none."""
    if (trouble := too_many_bytes(name, size)) is not None:
        yield trouble
        return
    with tempfile.TemporaryDirectory(prefix="eyot-photo-") as folder:
        out = Path(folder) / "upright.jpg"
        asked = {"path": _path_of(file, Path(folder)), "name": name, "size": size, "out": str(out)}
        with _one_at_a_time:
            told = _told(asked)
        if "message" in told:
            yield NoPicture(told["message"])
        else:
            at = datetime.fromisoformat(told["taken_at"]) if told["taken_at"] else None
            yield TakenIn(out, told["width"], told["height"], at, told["camera"])


def _path_of(file: IO[bytes], folder: Path) -> str:
    """Where the file lies on the disk: there already, or brought there."""
    given = getattr(file, "name", None)
    if isinstance(given, str) and os.path.isfile(given):
        file.flush()
        return given
    path = folder / "as-it-came"
    file.seek(0)
    with path.open("wb") as copy:
        shutil.copyfileobj(file, copy, 1 << 20)
    return str(path)


def _told(asked: dict[str, Any]) -> dict[str, Any]:
    """What the decoder answers; a refusal where it ended or was ended over this file."""
    decoder = _running()
    assert decoder.stdin is not None
    assert decoder.stdout is not None
    began, used = time.monotonic(), _cpu_seconds(decoder.pid)
    try:
        decoder.stdin.write(json.dumps(asked) + "\n")
        decoder.stdin.flush()
        while not select.select([decoder.stdout], [], [], LOOKS_EVERY)[0]:
            if _cpu_seconds(decoder.pid) - used > MOST_CPU_SECONDS or time.monotonic() - began > MOST_SECONDS:
                raise TimeoutError
        line = decoder.stdout.readline()
        told: dict[str, Any] = json.loads(line)
    except TimeoutError:
        _end()
        return {"message": f"{asked['name']} takes longer to read than a photo does. Save it anew and add it again."}
    except (OSError, ValueError):
        _end()
        return {"message": f"{asked['name']} is broken and can't be read. Copy it from the camera again."}
    return told


def _running() -> subprocess.Popen[str]:
    global _decoder
    if _decoder is not None and _decoder.poll() is not None:
        _end()
    if _decoder is None:
        command = ["env", *ONE_THREAD, sys.executable, "-m", "eyot_core.photo.taking"]
        _decoder = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    return _decoder


def _end() -> None:
    global _decoder
    if _decoder is not None:
        _decoder.kill()
        _decoder.communicate()
        _decoder = None


def _cpu_seconds(pid: int) -> float:
    """What a process has used of a processor so far; nothing where it has ended."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()
    except OSError:
        return 0.0
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")
