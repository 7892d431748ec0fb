"""What the machine needs: Debian packages and the Python environment."""

from __future__ import annotations

import hashlib
import os
import pwd
import shutil
import stat
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path

from eyot_launch.console import ROOT, CannotGoOn, tell

USER = "eyot"
VENV = ROOT / "var" / "venv"
PYTHON = VENV / "bin" / "python"
ASSETS = ROOT / "assets"
SCRIPT_TOOLS = ASSETS / "node_modules" / ".bin"


def postgres_programs() -> Path | None:
    """The newest installed PostgreSQL's folder of programs, if there is one."""
    folders = [path for path in Path("/usr/lib/postgresql").glob("*/bin") if (path / "initdb").exists()]
    return max(folders, key=lambda path: int(path.parent.name), default=None)


FOR_PRINT = {
    "libpangoft2-1.0-0": "lib/*/libpangoft2-1.0.so.0",
    "libharfbuzz-subset0": "lib/*/libharfbuzz-subset.so.0",
    "fonts-dejavu-core": "share/fonts/truetype/dejavu/DejaVuSans.ttf",
}
"""Debian packages that sheets are printed with, by a file of each below /usr."""


BROWSERS = ("chromium-headless-shell", "chromium")
"""Debian packages and programs in /usr/bin of one browser: the first needs half the processor, and is had beside the second."""


def _missing_packages(browser: bool, node: bool) -> list[str]:
    missing = []
    if postgres_programs() is None:
        missing.append("postgresql")
    if (
        not PYTHON.exists()
        and subprocess.run([sys.executable, "-c", "import venv, ensurepip"], capture_output=True).returncode
    ):
        missing.append("python3-venv")
    if browser and not any(Path("/usr/bin", name).exists() for name in BROWSERS):
        missing.append(BROWSERS[0])
    if node:
        missing += [
            package for program, package in (("node", "nodejs"), ("npm", "npm")) if shutil.which(program) is None
        ]
    return missing


WAIT_FOR_OTHERS = ("-o", "DPkg::Lock::Timeout=300")
"""Another program that installs just now is waited for, five minutes at most; apt says so meanwhile."""


def ensure_packages(*, browser: bool = False, node: bool = False, printing: bool = True) -> None:
    """Installs the Debian packages that are missing. Without those that sheets are printed with everything else runs, and without the
    quicker browser the other one is used; ``printing``: are those looked for?"""
    missing = _missing_packages(browser, node)
    optional = [package for package, file in FOR_PRINT.items() if printing and not any(Path("/usr").glob(file))]
    if browser and BROWSERS[0] not in missing and not Path("/usr/bin", BROWSERS[0]).exists():
        optional.append(BROWSERS[0])
    if missing:
        _install_packages([*missing, *optional])
    elif optional:
        try:
            _install_packages(optional)
        except CannotGoOn as reason:
            tell(f"it goes on without: {reason}")


def _install_packages(missing: list[str]) -> None:
    as_root = [] if os.geteuid() == 0 else ["sudo"]
    if shutil.which("apt-get") is None or (as_root and shutil.which("sudo") is None):
        raise CannotGoOn(f"these Debian packages are missing and can't be installed from here: {' '.join(missing)}")
    tell(f"installing {', '.join(missing)}")
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    commands = (
        ["apt-get", *WAIT_FOR_OTHERS, "update", "-qq"],
        ["apt-get", *WAIT_FOR_OTHERS, "install", "-y", "-qq", "--no-install-recommends", *missing],
    )
    for command in commands:
        done = subprocess.run(
            [*as_root, *command], env=environment, stdout=sys.stderr.fileno(), stderr=subprocess.STDOUT
        )
        if done.returncode:
            raise CannotGoOn(f"'{' '.join(command)}' failed; install {' '.join(missing)} and start again")


def ordinary_user() -> str | None:
    """As whom the database, the web servers and the workers run: a user of their own where the launcher is root, else whoever
    started it (``None``)."""
    if os.geteuid() != 0:
        return None
    try:
        pwd.getpwnam(USER)
    except KeyError:
        alone = (
            "--system",
            "--user-group",
            "--no-create-home",
            "--home-dir",
            "/nonexistent",
            "--shell",
            "/usr/sbin/nologin",
        )
        if subprocess.run(["useradd", *alone, USER]).returncode:
            raise CannotGoOn(f"the user {USER!r}, as whom Eyot runs on this machine, could not be made") from None
    return USER


def let_pass(user: str, *paths: Path) -> Path | None:
    """Lets a user through all folders on the way to some paths: through, not into. The first that stays closed, if one does."""
    folders = dict.fromkeys(folder for path in paths for folder in reversed([path, *path.parents]))
    for folder in folders:
        if _passes(user, folder):
            continue
        if shutil.which("setfacl") is None:
            _install_packages(["acl"])
        subprocess.run(["setfacl", "-m", f"u:{user}:--x", str(folder)], capture_output=True)
        if not _passes(user, folder):
            return folder
        tell(f"the user {user!r}, as whom Eyot runs, may now pass through {folder}")
    return None


def _passes(user: str, folder: Path) -> bool:
    return subprocess.run(["runuser", "-u", user, "--", "test", "-x", str(folder)], capture_output=True).returncode == 0


COMPILED = """
import compileall; compileall.compile_dir("src", quiet=2)
import django; django.setup()
import eyot.config.wsgi, eyot.config.web_worker, gunicorn.app.wsgiapp, gunicorn.workers.gthread
import eyot.photos.management.commands.work, eyot.demo.management.commands.prepare, eyot.phone.management.commands.certify
import eyot_core.photo.taking, eyot_core.photo.card, eyot_core.photo.faults, eyot_core.photo.shows
from django.db.migrations.loader import MigrationLoader; MigrationLoader(None)
from eyot_core.catalogue import builtin_catalogue; builtin_catalogue()
"""
"""The program, and what web servers, workers and the commands of a start import of libraries."""


def compiled(environment: dict[str, str]) -> dict[str, str]:
    """The environment for processes that keep what they write to themselves: the program is compiled before, readable by all, and they add
    nothing to it, which would be closed to whoever runs it otherwise. As it was where the program may not be written at all."""
    if not os.access(VENV, os.W_OK):
        return environment
    _ensure_compiled(environment)
    return {**environment, "PYTHONDONTWRITEBYTECODE": "1"}


def _ensure_compiled(environment: dict[str, str]) -> None:
    stamp, now = VENV / "compiled", f"{_fingerprint('runtime.txt')} {_program()}"
    if os.access(stamp, os.R_OK) and stamp.read_text() == now:
        return
    for kept in (*(ROOT / "src").rglob("__pycache__"), *(VENV / "lib").rglob("__pycache__")):
        for path in (kept, *kept.iterdir()):
            with suppress(OSError):  # another's, or gone since: a second process of a start may be at it
                mode = stat.S_IMODE(path.stat().st_mode)
                if wanted := (0o755 if path == kept else 0o644) & ~mode:
                    path.chmod(mode | wanted)
    done = subprocess.run(
        [str(PYTHON), "-W", "ignore", "-c", COMPILED], env=environment, cwd=ROOT, capture_output=True, umask=0o022
    )
    if done.returncode == 0:
        stamp.unlink(missing_ok=True)  # another's, perhaps
        stamp.write_text(now)


def _program() -> str:
    """Changes with every module of the program."""
    written = [f"{path} {path.stat().st_mtime_ns}" for path in sorted((ROOT / "src").rglob("*.py"))]
    return hashlib.sha256("\n".join(written).encode()).hexdigest()


def ensure_environment(*, develop: bool = False) -> None:
    """Makes the Python environment at the pinned versions, or brings it up to date."""
    if sys.version_info < (3, 11):  # noqa: UP036  the launcher runs under whatever Python the machine has
        raise CannotGoOn(f"Python 3.11 or newer is needed; this is {sys.version.split()[0]}")
    if _is_current("develop.txt") or (not develop and _is_current("runtime.txt")):
        return
    if not PYTHON.exists() or not (VENV / "bin" / "pip").exists():
        tell("making the Python environment")
        _run([sys.executable, "-m", "venv", "--clear", str(VENV)], "the Python environment could not be made")
    name = "develop.txt" if develop else "runtime.txt"
    tell(f"installing Python packages ({name})")
    install(name, "the Python packages could not be installed; is the package index reachable?")


def _is_current(name: str) -> bool:
    """Were the packages of this list installed as it stands now? The development list holds the runtime list too."""
    return _stamp(name).exists() and _stamp(name).read_text() == _fingerprint(name)


def _stamp(name: str) -> Path:
    return VENV / f"installed-{name}"


def _fingerprint(name: str) -> str:
    return hashlib.sha256((ROOT / "requirements" / name).read_bytes()).hexdigest()


def install(name: str, failure: str) -> None:
    """Installs one list of packages on top of what is there: by uv, in a quarter of pip's time; by pip where uv can't, as behind an
    index that only pip is told of."""
    listed = ["--require-hashes", "-r", str(ROOT / "requirements" / name)]
    pip = [str(PYTHON), "-m", "pip", "install", "-q", "--disable-pip-version-check", "--no-compile"]
    uv = [str(VENV / "bin" / "uv"), "pip", "install", "-q", "--python", str(PYTHON)]
    by_pip = [*pip, "--require-hashes", "-r", str(ROOT / "requirements" / "installer.txt")]
    if not (_succeeds(by_pip) and _succeeds([*uv, *listed])):
        _run([*pip, *listed], failure)
    _stamp(name).write_text(_fingerprint(name))


def _succeeds(command: list[str]) -> bool:
    return subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL).returncode == 0


def ensure_script_tools() -> None:
    """Installs what checks the scripts, at the pinned versions."""
    lock, stamp = (ASSETS / "package-lock.json").read_bytes(), ASSETS / "node_modules" / ".installed"
    wanted = hashlib.sha256(lock).hexdigest()
    if stamp.exists() and stamp.read_text() == wanted:
        return
    tell("installing the scripts' tools (package-lock.json)")
    _run(
        ["npm", "ci", "--silent", "--no-fund", "--no-audit", "--prefix", str(ASSETS)],
        "the scripts' tools could not be installed; is the package index reachable?",
    )
    stamp.write_text(wanted)


def ensure_workshop(*, browser: bool = False) -> None:
    """Everything that those who work on Eyot need; Python's packages and the scripts' tools side by side."""
    ensure_packages(browser=browser, node=True)
    with ThreadPoolExecutor() as both:
        tools = both.submit(ensure_script_tools)
        ensure_environment(develop=True)
    tools.result()


def ensure_mutation_packages() -> None:
    """What only the search for faults that no test sees needs."""
    if not _is_current("mutation.txt"):
        tell("installing Python packages (mutation.txt)")
        install("mutation.txt", "the packages could not be installed; is the package index reachable?")


def ensure_benchmark_packages() -> None:
    """What only the benchmark needs: the library that it compares with."""
    if not _is_current("benchmark.txt"):
        tell("installing Python packages (benchmark.txt)")
        install("benchmark.txt", "the benchmark's packages could not be installed; is the package index reachable?")


def _run(command: list[str], failure: str) -> None:
    if subprocess.run(command, stdout=sys.stderr.fileno()).returncode:
        raise CannotGoOn(failure)
