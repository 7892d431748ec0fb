"""``bin/eyot``: the words on the command line."""

from __future__ import annotations

import argparse
import signal
import sys
from pathlib import Path
from types import FrameType

from eyot_launch.console import ROOT, CannotGoOn, tell
from eyot_launch.core import core

USAGE = """bin/eyot start [--port N] [--data DIR] [--no-demo] [--lan [ADDRESS …]]
                                                      run the application; --lan: for phones on this network too
bin/eyot backup FILE [--data DIR]                     database and photos into one file, while Eyot runs or not
bin/eyot verify FILE                                  is a backup whole?
bin/eyot restore FILE --data DIR                      a backup into an empty folder
bin/eyot serve [--address HOST:PORT]                  web against EYOT_DATABASE and EYOT_PHOTOS, see docs/hosting.md
bin/eyot work [--jobs N]                              a worker against them
bin/eyot test [NAME …]                                run all tests, or the named ones
bin/eyot check [--coverage]                           lint, types, templates, imports, migrations, catalogue, styles
bin/eyot core cross|identify|catalogue                the computation, JSON in and out
bin/eyot shots                                        make the pictures in docs/screenshots
bin/eyot bench                                        measure the times in docs/benchmarks.md
bin/eyot chaos [MINUTES] | --requests                 killed at random, or sent what nobody sends, for docs/reliability.md
bin/eyot mutants photo|app [COUNT]                    faults that no test sees, for docs/testing.md
bin/eyot judgement [model|eyes|practice …]     the study in docs/judgement.md, an hour in all"""


def main(arguments: list[str]) -> int:
    """Runs one command; the exit status."""
    command, rest = (arguments[0], arguments[1:]) if arguments else ("", [])
    if command == "core":
        return core(rest)
    from eyot_launch import work  # slower to import than the core needs
    from eyot_launch.network import hosts_for
    from eyot_launch.start import OwnNetwork, start

    if command == "start":
        parser = argparse.ArgumentParser("bin/eyot start")
        parser.add_argument("--port", type=int, default=8421)
        parser.add_argument("--data", type=Path, default=ROOT / "var")
        parser.add_argument("--no-demo", action="store_true")
        parser.add_argument("--lan", nargs="*", metavar="ADDRESS")
        given = parser.parse_args(rest)
        lan = None if given.lan is None else OwnNetwork(*hosts_for(given.lan), given.port + 1)
        start(given.data.resolve(), given.port, demo=not given.no_demo, lan=lan)
        return 0
    if command in ("serve", "work"):
        return _hosted(command, rest)
    if command in ("backup", "verify", "restore"):
        return _safekeeping(command, rest)
    with_words = {"test": work.test, "chaos": work.chaos, "mutants": work.mutants, "judgement": work.judgement}
    if command in with_words:
        return with_words[command](rest)
    if command == "check" and rest == ["--coverage"]:
        return work.check() or work.coverage()
    simple = {"check": work.check, "shots": work.shots, "bench": work.bench}
    if command in simple and not rest:
        return simple[command]()
    print(USAGE, file=sys.stderr)
    return 0 if command in ("help", "--help") else 2


def _hosted(command: str, rest: list[str]) -> int:
    from eyot_launch import hosted

    parser = argparse.ArgumentParser(f"bin/eyot {command}")
    if command == "serve":
        parser.add_argument("--address", default="127.0.0.1:8421")
        hosted.serve(parser.parse_args(rest).address)
    parser.add_argument("--jobs", type=int, default=1)
    hosted.work(parser.parse_args(rest).jobs)


def _safekeeping(command: str, rest: list[str]) -> int:
    from eyot_launch import safekeeping

    parser = argparse.ArgumentParser(f"bin/eyot {command}")
    parser.add_argument("file", type=Path)
    if command != "verify":
        parser.add_argument(
            "--data", type=Path, **({"required": True} if command == "restore" else {"default": ROOT / "var"})
        )
    given = parser.parse_args(rest)
    if command == "verify":
        return safekeeping.verify(given.file.resolve())
    carried_out = safekeeping.backup if command == "backup" else safekeeping.restore
    return carried_out(given.file.resolve(), given.data.resolve())


def _ended(number: int, frame: FrameType | None) -> None:
    """TERM ends a command in order, so that what it started is stopped too."""
    sys.exit(128 + number)


if __name__ == "__main__":
    signal.signal(signal.SIGTERM, _ended)
    try:
        sys.exit(main(sys.argv[1:]))
    except CannotGoOn as problem:
        tell(str(problem))
        sys.exit(1)
    except KeyboardInterrupt:
        sys.exit(130)
