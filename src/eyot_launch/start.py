"""``bin/eyot start``: from a fresh machine to a running application."""

from __future__ import annotations

import ctypes
import errno
import fcntl
import json
import os
import secrets
import shutil
import signal
import socket
import ssl
import subprocess
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from types import FrameType
from typing import Any

from eyot_launch.cluster import Cluster, new_password, passable_home
from eyot_launch.console import ROOT, CannotGoOn, tell
from eyot_launch.machine import (
    PYTHON,
    compiled,
    ensure_environment,
    ensure_packages,
    let_pass,
    ordinary_user,
    postgres_programs,
)

PATIENCE_SECONDS = 40
PRIVATE = 0o077
"""What is made is for its owner alone: folders 0700, files 0600."""
STOPPING = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
DIE_WITH_PARENT = 1  # prctl's PR_SET_PDEATHSIG
SERVER_OPTIONS = (
    *("--worker-class", "eyot.config.web_worker.TimedWorker", "--workers", "2", "--threads", "12", "--preload"),
    *("--keep-alive", "75"),  # longer than browsers keep a connection that they send on again
    *("--log-level", "warning", "--no-control-socket", "--graceful-timeout", "5"),
)
GUNICORN = ("gunicorn", "eyot.config.wsgi")
WORKER = ("django", "work")
WATCH_SECONDS = 1.0
SHORTEST_PAUSE, LONGEST_PAUSE = 1.0, 60.0
"""Between an end and the next beginning, in seconds; the pause doubles each time."""
CLOSING_SECONDS = 8.0
"""How long a web server takes to close, and a little more."""


class _Stopped(Exception):
    """Ctrl-C or TERM."""


@dataclass(frozen=True)
class OwnNetwork:
    """Where phones on the machine's own network reach it. ``hosts``: addresses and names under which it is asked for."""

    addresses: list[str]
    hosts: list[str]
    port: int

    @property
    def urls(self) -> list[str]:
        """The addresses as a phone opens them, the first the one that is shown."""
        return [f"https://{host}:{self.port}/" for host in self.hosts]


def start(data: Path, port: int, *, demo: bool, lan: OwnNetwork | None = None) -> None:
    """Runs until Ctrl-C or TERM; stops everything that it started, and nothing else."""

    def stopped(number: int, frame: FrameType | None) -> None:
        raise _Stopped

    for number in STOPPING:
        signal.signal(number, stopped)
    try:
        _start(data, port, demo, lan)
    except _Stopped:
        tell("stopped")


def _start(data: Path, port: int, demo: bool, lan: OwnNetwork | None) -> None:
    ensure_packages()
    ensure_environment()
    os.umask(PRIVATE)
    with only_one(data):
        _refuse_taken("127.0.0.1", port)
        for address in lan.addresses if lan else ():
            _refuse_taken(address, lan.port if lan else 0)
        settings = kept_settings(data)
        cluster = cluster_of(home_of(data, settings), settings)
        cluster.make()
        cluster.start()
        try:
            settings = {**settings, "database_port": str(cluster.port), "database_home": str(cluster.home)}
            keep(data, settings)
            environment = application_environment(data, cluster.url, settings["secret_key"])
            environment["EYOT_CLAIM_CODE"] = settings["claim_code"]
            environment["EYOT_PHONE"] = ",".join(lan.urls) if lan else ""
            environment = compiled(environment)
            user = _user_for(data)
            told = f"{settings['keeper_password']} {settings['helper_password']}"
            logins = _prepare(environment, told, demo=demo, user=user)
            known = {name: value for name, value in settings.items() if name not in TOLD_ONCE}
            _serve(environment, port, logins, lan, cluster, user, lambda: keep(data, known))
        finally:
            for number in STOPPING:
                signal.signal(number, signal.SIG_IGN)
            tell("stopping the database")
            cluster.stop()


@contextmanager
def only_one(data: Path) -> Iterator[None]:
    """Holds the data folder; a second start on the same folder is refused."""
    try:
        is_new = not data.exists()
        data.mkdir(parents=True, exist_ok=True)
        if is_new and (user := ordinary_user()):
            shutil.chown(data, user, user)
        lock = (data / "lock").open("w")
    except PermissionError as error:
        raise CannotGoOn(f"no permission to write to {data}: choose another folder with --data") from error
    with lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise CannotGoOn(
                f"Eyot already runs on {data}; stop it first, or choose another folder with --data"
            ) from None
        yield


def home_of(data: Path, settings: dict[str, str]) -> Path:
    """Where the database of a data folder lies. :class:`CannotGoOn` where it was there once and is not now, or is another folder's: an
    empty one in its place would look as if everything were lost."""
    home = passable_home(data)
    last = settings.get("database_home", str(home))
    if settings["database_port"] == "0" or Cluster(home).exists:
        return home
    raise CannotGoOn(
        f"{data} has settings, and no database where it should be ({home}; it was last in {last}). Put the database's folder back, or "
        "start with another --data and bring a backup into it (bin/eyot restore). Nothing was changed."
    )


def cluster_of(home: Path, settings: dict[str, str]) -> Cluster:
    """The database of a data folder."""
    return Cluster(
        home,
        port=int(settings["database_port"]),
        password=settings["database_password"],
        application_password=settings["application_password"],
    )


FOLDERS = ("photos", "backups", "static", "arriving", "certificates")
"""What the application writes in a data folder."""


def _user_for(data: Path) -> str | None:
    """As whom the application runs, with its folders in its hands; ``None`` for whoever started the launcher."""
    user = ordinary_user()
    if user is not None:
        if closed := let_pass(user, data, ROOT / "src", PYTHON.parent, PYTHON.resolve().parent):
            tell(
                f"the user {user!r} can't pass through {closed}, so the web server and the workers run as root, with all its "
                "rights. Put Eyot and its data where others may pass through"
            )
            user = None
        elif data != ROOT / "var":
            shutil.chown(data, user, user)
            data.chmod(0o700)
    for folder in (data / name for name in FOLDERS):
        folder.mkdir(exist_ok=True)
        if folder.owner() != (user or folder.owner()):
            subprocess.run(["chown", "-R", f"{user}:{user}", str(folder)], check=True)
        if folder.stat().st_mode & 0o077:
            subprocess.run(["chmod", "-R", "go=", str(folder)], check=True)
    return user


def _refuse_taken(address: str, port: int) -> None:
    """A port that another keeps is refused; one that is given up just now, as by a run of before that was killed, is waited for."""
    end = time.monotonic() + CLOSING_SECONDS
    while True:
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((address, port))
            except OSError as error:
                if error.errno != errno.EADDRINUSE or time.monotonic() > end:
                    at = "" if address == "127.0.0.1" else f" at {address}"
                    words = f"port {port}{at} can't be used ({error.strerror}); choose another with --port"
                    raise CannotGoOn(words) from error
            else:
                return
        time.sleep(0.2)


def kept_settings(data: Path) -> dict[str, str]:
    """Secrets and ports of this data folder: made once, readable by their owner only."""
    path = data / "settings.json"
    if path.exists():
        try:
            settings: dict[str, str] = json.loads(path.read_text())
            kept = ("secret_key", "database_password", "database_port")
            return _new_settings() | settings | {name: settings[name] for name in kept}
        except (ValueError, KeyError, TypeError) as error:
            raise CannotGoOn(
                f"{path} is damaged ({error}). It holds the password of the database beside it, which stands as it was: "
                "put back a copy of the file, or choose another folder with --data"
            ) from None
    made = _new_settings()
    keep(data, made)
    return made


TOLD_ONCE = ("keeper_password", "helper_password")
"""The demo's first passwords: kept until they were printed, so that none is lost when a start is killed; then nowhere."""


def _new_settings() -> dict[str, str]:
    return {
        "secret_key": secrets.token_urlsafe(48),
        "database_password": new_password(),
        "application_password": new_password(),
        "database_port": "0",
        "claim_code": _new_code(),
    } | {name: secrets.token_urlsafe(9) for name in TOLD_ONCE}


def _new_code() -> str:
    """A code to type once: sixteen letters and digits that are not mistaken for one another, in fours."""
    letters = "abcdefghjkmnpqrstuvwxyz23456789"
    return "-".join("".join(secrets.choice(letters) for _ in range(4)) for _ in range(4))


def keep(data: Path, settings: dict[str, object] | dict[str, str]) -> None:
    path = data / "settings.json"
    unfinished = path.with_suffix(".new")
    unfinished.touch(mode=0o600)
    unfinished.write_text(json.dumps(settings, indent=1))
    unfinished.replace(path)


def application_environment(data: Path, database: str, secret: str) -> dict[str, str]:
    """The environment in which the application runs."""
    return {
        **os.environ,
        "PATH": os.pathsep.join(filter(None, [str(postgres_programs() or ""), os.environ.get("PATH", "")])),
        "PYTHONPATH": str(ROOT / "src"),
        "DJANGO_SETTINGS_MODULE": "eyot.config.settings",
        "EYOT_DATA": str(data),
        "EYOT_DATABASE": database,
        "EYOT_SECRET_KEY": secret,
    }


def _prepare(environment: dict[str, str], passwords: str, *, demo: bool, user: str | None = None) -> str:
    """Migrates, collects, makes the first accounts where there are none, with the demo's ``passwords`` (keeper's and helper's);
    what to say of the logins that it made."""
    command = [str(PYTHON), "-m", "django", "prepare", *([] if demo else ["--no-demo"])]
    done = subprocess.run(
        command,
        env=environment,
        cwd=ROOT,
        text=True,
        stdout=subprocess.PIPE,
        input=passwords,
        preexec_fn=_die_with_parent,
        **_as(user),
    )
    if done.returncode:
        raise CannotGoOn("the database could not be made ready; what stands above says why. Your data is as it was.")
    return str(done.stdout).strip()


@dataclass
class _Kept:
    """Something that is kept running: started anew when it ends, each time after a longer pause, until it has run for a while."""

    name: str
    begin: Callable[[], None]
    runs: Callable[[], bool]
    added: str = ""
    pause: float = SHORTEST_PAUSE
    begun_at: float = 0.0
    ended_at: float | None = None

    def look_after(self, now: float) -> None:
        """Tells that it ended, and begins it anew when its pause is over."""
        if self.runs():
            if self.ended_at is None and now - self.begun_at > LONGEST_PAUSE:
                self.pause = SHORTEST_PAUSE
            return
        if self.ended_at is None:
            self.ended_at = now
            tell(f"the {self.name} ended; another is started in {self.pause:g} s{self.added}")
        elif now - self.ended_at >= self.pause:
            self.pause, self.begun_at, self.ended_at = min(2 * self.pause, LONGEST_PAUSE), now, None
            try:
                self.begin()
            except CannotGoOn as error:
                tell(f"the {self.name} did not come up: {error}")
            else:
                tell(f"the {self.name}: another was started")


def _serve(
    environment: dict[str, str],
    port: int,
    logins: str,
    lan: OwnNetwork | None,
    cluster: Cluster,
    user: str | None,
    told: Callable[[], None],
) -> None:
    """Runs the web servers and a worker beside them, and looks after them and the database until it is told to stop.

    ``told`` is called once the address and the first logins were printed.
    """
    children: dict[str, subprocess.Popen[bytes]] = {}

    def kept(name: str, begin: Callable[[], subprocess.Popen[bytes]], added: str = "") -> _Kept:
        def anew() -> None:
            children[name] = begin()

        anew()
        return _Kept(name, anew, lambda: children[name].poll() is None, added, begun_at=time.monotonic())

    try:
        web = ("--bind", f"127.0.0.1:{port}", *SERVER_OPTIONS)
        looked_after = [kept("web server", lambda: _child(environment, user, *GUNICORN, *web))]
        looked_after.append(kept("worker", lambda: _child(environment, user, *WORKER), ", which takes up its jobs"))
        _await(children["web server"], f"http://127.0.0.1:{port}/alive")
        print(f"Eyot is at http://127.0.0.1:{port}/  {logins}".rstrip(), flush=True)
        told()
        if lan:
            looked_after.append(kept("web server for phones", lambda: _serve_phones(environment, lan, user)))
        looked_after.append(_Kept("database", cluster.start_again, lambda: cluster.runs, begun_at=time.monotonic()))
        while True:
            for one in looked_after:
                one.look_after(time.monotonic())
            time.sleep(WATCH_SECONDS)
    finally:
        running = {name: child for name, child in reversed(children.items()) if child.poll() is None}
        for name, child in running.items():
            tell(f"stopping the {name}")
            child.terminate()
        for child in running.values():
            child.wait(timeout=20)


def _serve_phones(environment: dict[str, str], lan: OwnNetwork, user: str | None) -> subprocess.Popen[bytes]:
    """A second web server, by TLS, for the machine's own network; tells its address, a code to scan, and whom to trust."""
    command = [str(PYTHON), "-m", "django", "certify", "--address", lan.urls[0], *lan.hosts]
    done = subprocess.run(command, env=environment, cwd=ROOT, text=True, stdout=subprocess.PIPE, **_as(user))
    if done.returncode:
        raise CannotGoOn("the certificate for phones could not be made; what stands above says why")
    certified = json.loads(done.stdout)
    if certified["told"]:
        tell(certified["told"])
    binds = [word for address in lan.addresses for word in ("--bind", f"{address}:{lan.port}")]
    files = ["--certfile", certified["certificate"], "--keyfile", certified["key"]]
    own = {"EYOT_HOSTS": ",".join(lan.hosts), "EYOT_TLS": "yes", "EYOT_HSTS_DAYS": "0", "EYOT_PROXY": "no"}
    server = _child(environment | own, user, *GUNICORN, *binds, *files, *SERVER_OPTIONS)
    authority = Path(certified["certificate"]).with_name("authority.crt")
    try:
        _await(server, f"{lan.urls[0]}alive", ssl.create_default_context(cafile=str(authority)))
    except CannotGoOn:
        server.terminate()
        server.wait(timeout=20)
        raise
    print(f"{certified['code']}\nOn a phone: {lan.urls[0]}  the steps are on the page Phone", flush=True)
    print(f"The certificate to trust has the SHA-256 {certified['fingerprint']}", flush=True)
    return server


def _child(environment: dict[str, str], user: str | None, *arguments: str) -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [str(PYTHON), "-m", *arguments],
        env=environment,
        cwd=ROOT,
        start_new_session=True,
        preexec_fn=_die_with_parent,
        **_as(user),
    )


def _as(user: str | None) -> dict[str, Any]:
    """How a child is begun as another user: with that user's own group and no other."""
    return {"user": user, "group": user, "extra_groups": []} if user else {}


def _die_with_parent() -> None:
    """In a child, before it starts: should this launcher be killed outright, the child is told to stop."""
    ctypes.CDLL(None).prctl(DIE_WITH_PARENT, signal.SIGTERM)


def _await(server: subprocess.Popen[bytes], address: str, trusted: ssl.SSLContext | None = None) -> None:
    end = time.monotonic() + PATIENCE_SECONDS
    while time.monotonic() < end and server.poll() is None:
        try:
            with urllib.request.urlopen(address, timeout=2, context=trusted):  # noqa: S310  our own server
                return
        except OSError:
            time.sleep(0.1)
    raise CannotGoOn("the web server did not answer; what stands above says why")
