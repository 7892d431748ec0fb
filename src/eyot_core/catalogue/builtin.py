"""The built-in catalogue, read once in a process, and kept beside the compiled modules as it was read.

To read the files takes 0.15 s, most of what a small command takes; what was kept is there in a fifth of that. It counts only
as long as neither a file of the catalogue nor a module that reads it has changed, as a compiled module does.
"""

from __future__ import annotations

import pickle
import sys
import tempfile
from contextlib import suppress
from functools import cache
from pathlib import Path
from typing import Any

from eyot_core.catalogue.model import Catalogue

DATA = Path(__file__).parent / "data"
KEPT = Path(__file__).parent / "__pycache__" / "catalogue.pickle"
DAMAGED = (OSError, EOFError, ValueError, AttributeError, ImportError, IndexError, pickle.UnpicklingError)
"""What comes of reading a file that is not there, cut off, or no pickle of ours."""


@cache
def builtin_catalogue() -> Catalogue:
    """The built-in catalogue, read once."""
    return kept_or_read(DATA, KEPT)


def builtin_document() -> dict[str, Any]:
    """The built-in catalogue in the JSON form of the contract."""
    return builtin_catalogue().document


def kept_or_read(folder: Path, kept: Path) -> Catalogue:
    """The catalogue in a folder: as it was kept when it was last read, where that still holds; else read and kept anew.

    What can't be kept (a folder without the right to write, a full disk) or is damaged is read every time.
    """
    stamp = _stamp(folder)
    with suppress(*DAMAGED), kept.open("rb") as file:
        if pickle.load(file) == stamp:  # noqa: S301  beside the compiled modules, and no less to be trusted
            catalogue = pickle.load(file)  # noqa: S301
            if isinstance(catalogue, Catalogue):
                return catalogue
    from eyot_core.catalogue.files import catalogue_in  # slower to import than what was kept is to read

    catalogue = catalogue_in(folder)
    with suppress(OSError):
        kept.parent.mkdir(exist_ok=True)
        with tempfile.TemporaryDirectory(dir=kept.parent) as made:
            whole = Path(made) / kept.name
            whole.write_bytes(pickle.dumps(stamp) + pickle.dumps(catalogue))
            whole.replace(kept)
    return catalogue


def _stamp(folder: Path) -> tuple[Any, ...]:
    """Name, size and time of change of everything that the catalogue is made from; and the Python that made it."""
    made_from = sorted((*folder.glob("*.yaml"), *Path(__file__).parent.glob("*.py")))
    return (sys.version, *((path.name, path.stat().st_size, path.stat().st_mtime_ns) for path in made_from))
