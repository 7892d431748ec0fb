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
from eyot_launch.machine import ordinary_user, postgres_programs

OWNER, APPLICATION = "eyot", "eyot_app"
"""The role to which the cluster belongs, and the one as which the application comes: it owns its database and nothing else."""
HANDED_OVER = """
DO $$ DECLARE change text; BEGIN
  FOR change IN
    SELECT format('ALTER %s %s OWNER TO eyot_app', kind, name) FROM (
      SELECT CASE relkind WHEN 'S' THEN 'SEQUENCE' WHEN 'v' THEN 'VIEW' ELSE 'TABLE' END AS kind, oid::regclass::text AS name
        FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relowner = 'eyot'::regrole AND (relkind IN ('r', 'p', 'v')
        OR relkind = 'S' AND NOT EXISTS (SELECT FROM pg_depend WHERE objid = pg_class.oid AND deptype IN ('a', 'i')))
      UNION ALL SELECT 'ROUTINE', oid::regprocedure::text FROM pg_proc
        WHERE pronamespace = 'public'::regnamespace AND proowner = 'eyot'::regrole
      UNION ALL SELECT 'TYPE', oid::regtype::text FROM pg_type
        WHERE typnamespace = 'public'::regnamespace AND typowner = 'eyot'::regrole AND typtype IN ('e', 'd')
    ) AS owned
  LOOP EXECUTE change; END LOOP;
END $$;
ALTER DATABASE eyot OWNER TO eyot_app;
"""
"""What is in a database that was made before the application had a role of its own goes over to that role."""
FAST_AND_UNSAFE = (
    " -c fsync=off -c synchronous_commit=off -c full_page_writes=off -c autovacuum_analyze_threshold=2000000000"
)
"""For tests. Tables that are filled and emptied by turns are counted once, while they are full: counted while they are empty, they would be
read through from end to end for every row."""


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
    """One cluster: ``home`` holds its ``pg`` (data) and its log. ``lasting``: durable and with passwords, of the cluster's owner and of
    the application; one that does not last also has a socket in ``home``, by which tests ask in two thirds of the time."""

    home: Path
    lasting: bool = True
    port: int = 0
    password: str = ""
    application_password: str = ""

    @property
    def url(self) -> str:
        """The database address for the application."""
        who = f"{APPLICATION}:{self.application_password}" if self.lasting else OWNER
        return f"postgres://{who}@127.0.0.1:{self.port}/eyot"

    @property
    def _data(self) -> Path:
        return self.home / "pg"

    def _as_owner(self, command: list[str], **kwargs: object) -> subprocess.CompletedProcess[str]:
        return self._as(ordinary_user(), command, **kwargs)

    def _as(self, user: str | None, command: list[str], **kwargs: object) -> subprocess.CompletedProcess[str]:
        prefix = ["runuser", "-u", user, "--"] if user else []
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
        self._adopt()
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
        if user := ordinary_user():
            shutil.chown(path, user, user)
        path.chmod(path.stat().st_mode & ~0o077)

    def _adopt(self) -> None:
        """A database that ran as another user before, as by an earlier Eyot that root started, is stopped and taken over."""
        user = ordinary_user()
        if user is None or not self._data.exists() or self._data.owner() == user:
            return
        if self.runs:
            self._as(self._data.owner(), [self._program("pg_ctl"), "-D", str(self._data), "-m", "fast", "-w", "stop"])
        subprocess.run(["chown", "-R", f"{user}:{user}", str(self.home)], check=True)

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
        sockets = "''" if self.lasting else self.home
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
        """The database, and the role as which the application comes; its password stands on no command line."""
        if not self.lasting:
            if not self._asked("postgres", "SELECT 1 FROM pg_database WHERE datname = 'eyot';"):
                self._asked("postgres", "CREATE DATABASE eyot;")
            return
        if not self._asked("postgres", "SELECT 1 FROM pg_roles WHERE rolname = 'eyot_app';"):
            self._asked("postgres", f"CREATE ROLE {APPLICATION} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE;")
        self._asked("postgres", f"ALTER ROLE {APPLICATION} PASSWORD '{self.application_password}';")
        owned = "SELECT pg_get_userbyid(datdba) FROM pg_database WHERE datname = 'eyot';"
        owner = self._asked("postgres", owned)
        if not owner:
            self._asked("postgres", f"CREATE DATABASE eyot OWNER {APPLICATION};")
        elif owner == OWNER:
            self._asked("eyot", HANDED_OVER)

    def _asked(self, database: str, words: str) -> str:
        """What the server answers its owner."""
        where = ["-h", "127.0.0.1", "-p", str(self.port), "-U", OWNER, "-d", database]
        options = ["-X", "-At", "-q", "-v", "ON_ERROR_STOP=1"]
        answer = subprocess.run(
            [self._program("psql"), *where, *options, "-f", "-"],
            env={**os.environ, "PGPASSWORD": self.password},
            text=True,
            capture_output=True,
            input=words,
        )
        if answer.returncode:
            raise CannotGoOn(f"the database does not answer: {answer.stderr.strip()}")
        return answer.stdout.strip()

    def stop(self) -> None:
        """Stops the server, letting running transactions end."""
        self._as_owner([self._program("pg_ctl"), "-D", str(self._data), "-m", "fast", "-w", "stop"])

    def remove(self) -> None:
        """Throws everything away (for tests)."""
        self.stop()
        shutil.rmtree(self.home, ignore_errors=True)


def passable_home(data: Path) -> Path:
    """Where the cluster of a data folder lives, or can live: in it, or beside it where its owner may not go through to it."""
    within, beside = data / "database", Path("/var/lib/eyot") / hashlib.sha256(str(data).encode()).hexdigest()[:12]
    for home in (beside, within):
        if Cluster(home).exists:
            return home
    name = ordinary_user()
    if name is None:
        return within
    user = pwd.getpwnam(name)
    for folder in [data, *data.parents]:
        mode = folder.stat().st_mode
        passes = mode & (0o100 if folder.stat().st_uid == user.pw_uid else 0o001)
        if not passes:
            tell(f"the database can't live below {folder} (not passable for its user); it lives in {beside}")
            beside.parent.mkdir(mode=0o711, exist_ok=True)
            beside.parent.chmod(0o711)
            return beside
    return within


def temporary_cluster() -> Cluster:
    """A cluster for one test run, in a folder of its own."""
    home = Path(tempfile.mkdtemp(prefix="eyot-test-"))
    return Cluster(home, lasting=False)


def new_password() -> str:
    """A random password."""
    return secrets.token_urlsafe(24)
