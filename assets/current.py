"""Are the built styles made from the classes and the CSS as they stand? ``--classes`` collects the classes that the templates name
for the build; ``--write`` records what was built from what."""

import hashlib
import re
import sys
from pathlib import Path

HERE = Path(__file__).resolve().parent
BUILT = HERE.parent / "src/eyot/shared/static/css/eyot.css"
RECORD, CLASSES = HERE / "built.sha256", HERE / "classes.txt"
ATTRIBUTE = re.compile(r"""\bclass=("[^"]*"|'[^']*')""")
TAG = re.compile(r"\{%.*?%\}|\{\{.*?\}\}", re.DOTALL)


def classes() -> str:
    """The words in the templates' class attributes, one a line; what stands in their prose does not count."""
    found: set[str] = set()
    for path in (HERE.parent / "src/eyot").rglob("*.html"):
        text = TAG.sub(" ", path.read_text(encoding="utf-8"))
        found |= {word for match in ATTRIBUTE.finditer(text) for word in match[1][1:-1].split()}
    return "".join(f"{word}\n" for word in sorted(found))


def fingerprint() -> str:
    """One sum over the sources of the styles and over what was built from them."""
    sources = [HERE / "eyot.css", HERE / "package-lock.json", HERE / "build.mjs", CLASSES, BUILT]
    return hashlib.sha256(b"\0".join(path.read_bytes() for path in sources)).hexdigest()


if __name__ == "__main__":
    if "--classes" in sys.argv:
        CLASSES.write_text(classes(), encoding="utf-8")
    elif "--write" in sys.argv:
        RECORD.write_text(fingerprint() + "\n")
    elif CLASSES.read_text(encoding="utf-8") != classes() or RECORD.read_text().strip() != fingerprint():
        sys.exit("the built styles are older than their sources: run 'npm ci && npm run build' in assets")
