"""Are the built styles made from the sources as they stand? ``--write`` records that they are (the build does so)."""

import hashlib
import sys
from pathlib import Path

HERE = Path(__file__).resolve().parent
BUILT = HERE.parent / "src/eyot/shared/static/css/eyot.css"
RECORD = HERE / "built.sha256"


def fingerprint() -> str:
    """One sum over the sources of the styles and over what was built from them."""
    templates = sorted((HERE.parent / "src/eyot").rglob("*.html"))
    sources = [HERE / "eyot.css", HERE / "package-lock.json", HERE / "build.mjs", *templates, BUILT]
    return hashlib.sha256(b"\0".join(path.read_bytes() for path in sources)).hexdigest()


if __name__ == "__main__":
    if "--write" in sys.argv:
        RECORD.write_text(fingerprint() + "\n")
    elif RECORD.read_text().strip() != fingerprint():
        sys.exit("the built styles are older than their sources: run 'npm ci && npm run build' in assets")
