"""A private PostgreSQL cluster on loopback."""

from __future__ import annotations

import hashlib
import os
import pwd
import secrets
import shutil
import socket
import subprocess
import tempfile
from dataclasses import dataclass
from pathlib import Path

from eyot_launch.console import CannotGoOn, tell
from eyot_launch.machine import postgres_programs

FAST_AND_UNSAFE = " -c fsync=off -c synchronous_commit=off -c full_page_writes=off"


def free_port(wanted: int | None = None) -> int:
    """The wanted port if nobody listens there, else any free one."""
    for port in (wanted, 0) if wanted else (0,):
        with socket.socket() as probe:
            probe.setsockopt(
                socket.SOL_SOCKET, socket.SO_REUSEADDR, 1
            )  # as PostgreSQL does: what is only closing is free
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    raise CannotGoOn("no free port on loopback")


@dataclass
class Cluster:
    """One cluster: ``home`` holds its ``pg`` (data), its sockets and its log. ``lasting``: durable and with a password."""

    home: Path
    lasting: bool = True
    port: int = 0
    password: str = ""

    @property
    def url(self) -> str:
        """The database address for the application."""
        secret = f":{self.password}" if self.password else ""
        return f"postgres://eyot{secret}@127.0.0.1:{self.port}/eyot"

    @property
    def _data(self) -> Path:
        return self.home / "pg"

    def _as_owner(self, command: list[str], **kwargs: object) -> subprocess.CompletedProcess[str]:
        prefix = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []
        return subprocess.run([*prefix, *command], text=True, capture_output=True, cwd="/", **kwargs)  # type: ignore[call-overload,no-any-return]

    def _program(self, name: str) -> str:
        folder = postgres_programs()
        if folder is None:
            raise CannotGoOn("PostgreSQL is not installed")
        return str(folder / name)

    def make(self) -> None:
        """Makes the cluster if it is not there; a half-made one is thrown away first."""
        self.home.mkdir(parents=True, exist_ok=True)
        self._own(self.home)
        if self._as_owner(["test", "-w", str(self.home)]).returncode:
            raise CannotGoOn(
                f"the user who runs the database can't write to {self.home}; give --data a folder that it can reach"
            )
        if self.exists:
            return
        tell("making the database")
        unfinished = self.home / "pg.new"
        shutil.rmtree(unfinished, ignore_errors=True)
        self._initdb(unfinished)
        unfinished.rename(self._data)

    def _initdb(self, folder: Path) -> None:
        command = [self._program("initdb"), "-D", str(folder), "-U", "eyot", "--encoding=UTF8", "--locale=C.UTF-8"]
        secret = (
            self.home / "first-password"
        )  # no program of ours may pass it on by a pipe: the server's user could not open that
        secret.unlink(missing_ok=True)
        if self.lasting:
            secret.touch(mode=0o600)
            secret.write_text(self.password)
            self._own(secret)
            command += ["--auth=scram-sha-256", f"--pwfile={secret}", "--data-checksums"]
        else:
            command += ["--auth=trust", "--no-sync"]
        try:
            done = self._as_owner(command)
        finally:
            secret.unlink(missing_ok=True)
        if done.returncode:
            raise CannotGoOn(f"the database could not be made: {done.stderr.strip().splitlines()[-1:]}")

    def _own(self, path: Path) -> None:
        if os.geteuid() == 0:
            shutil.chown(path, "postgres", "postgres")

    def start(self) -> None:
        """Starts the server, or takes over one that an earlier, killed run left behind; makes the database in it."""
        if self.is_up():
            tell("the database of an earlier run is still up; taking it over")
        else:
            self.port = free_port(self.port or None)
            self._start_server()
        self._ensure_database()

    def start_again(self) -> None:
        """Starts the server where those who use it look for it. :class:`CannotGoOn` where that port is taken meanwhile."""
        if not self.is_up():
            self._start_server()

    def is_up(self) -> bool:
        """Does its server run? Its port is known then."""
        self._forget_copied_lock()
        if self._as_owner([self._program("pg_ctl"), "-D", str(self._data), "status"]).returncode:
            return False
        self.port = int((self._data / "postmaster.pid").read_text().splitlines()[3])
        return True

    @property
    def exists(self) -> bool:
        """Is there a database in its place?"""
        return (self._data / "PG_VERSION").exists()

    @property
    def runs(self) -> bool:
        """Does its server run, as far as its process tells? Asked often, so without another program."""
        pid = self._locked_by()
        return pid is not None and Path(f"/proc/{pid}").exists()

    def _locked_by(self) -> int | None:
        try:
            return int((self._data / "postmaster.pid").read_text().splitlines()[0])
        except (OSError, ValueError, IndexError):
            return None

    def _forget_copied_lock(self) -> None:
        """A folder that was copied while its server ran holds that server's lock file: what runs there is another's."""
        pid = self._locked_by()
        if pid is None or not Path(f"/proc/{pid}").exists():
            return
        if not os.path.samefile(f"/proc/{pid}/cwd", self._data):
            tell("this data folder was copied from one whose database runs; that one is left alone")
            (self._data / "postmaster.pid").unlink()

    def _start_server(self) -> None:
        sockets = Path(tempfile.gettempdir()) / f"eyot-{hashlib.sha256(str(self.home).encode()).hexdigest()[:10]}"
        sockets.mkdir(exist_ok=True)
        self._own(sockets)
        options = f"-p {self.port} -c listen_addresses=127.0.0.1 -c unix_socket_directories={sockets}"
        options += "" if self.lasting else FAST_AND_UNSAFE
        log = self.home / "postgresql.log"
        done = self._as_owner(
            [self._program("pg_ctl"), "-D", str(self._data), "-w", "-l", str(log), "-o", options, "start"]
        )
        if done.returncode:
            tail = log.read_text().strip().splitlines()[-3:] if log.exists() else [done.stderr]
            raise CannotGoOn("the database did not start: " + " / ".join(tail))

    def _ensure_database(self) -> None:
        environment = {**os.environ, "PGPASSWORD": self.password}
        where = ["-h", "127.0.0.1", "-p", str(self.port), "-U", "eyot"]
        psql = [
            self._program("psql"),
            *where,
            "-d",
            "postgres",
            "-Atc",
            "select 1 from pg_database where datname = 'eyot'",
        ]
        answer = subprocess.run(psql, env=environment, text=True, capture_output=True)
        if answer.returncode:
            raise CannotGoOn(f"the database does not answer: {answer.stderr.strip()}")
        if answer.stdout.strip() != "1":
            subprocess.run([self._program("createdb"), *where, "eyot"], env=environment, check=True)

    def stop(self) -> None:
        """Stops the server, letting running transactions end."""
        self._as_owner([self._program("pg_ctl"), "-D", str(self._data), "-m", "fast", "-w", "stop"])

    def remove(self) -> None:
        """Throws everything away (for tests)."""
        self.stop()
        shutil.rmtree(self.home, ignore_errors=True)


def passable_home(data: Path) -> Path:
    """Where the cluster of a data folder can live: in it, or beside it where its owner may not go through to it."""
    if os.geteuid() != 0:
        return data / "database"
    user = pwd.getpwnam("postgres")
    for folder in [data, *data.parents]:
        mode = folder.stat().st_mode
        passes = mode & (0o100 if folder.stat().st_uid == user.pw_uid else 0o001)
        if not passes:
            home = Path("/var/lib/eyot") / hashlib.sha256(str(data).encode()).hexdigest()[:12]
            tell(f"the database can't live below {folder} (not passable for its user); it lives in {home}")
            return home
    return data / "database"


def temporary_cluster() -> Cluster:
    """A cluster for one test run, in a folder of its own."""
    home = Path(tempfile.mkdtemp(prefix="eyot-test-"))
    return Cluster(home, lasting=False)


def new_password() -> str:
    """A random password."""
    return secrets.token_urlsafe(24)
