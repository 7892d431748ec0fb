"""A line of genes as breeders write it: "pastel enchi 66% het clown", "super pastel poss yb", "banana (male maker)".

The rule: a gene is certain only if its words are certain. A percentage, "poss" or "het" may stand before a gene or after it, in
brackets or not. What can mean two things is asked about and is not taken as certain; an unknown word is given back and changes
nothing of its neighbours. ``line_words.py`` says what each phrase is, ``line_reader.py`` which belong together,
``line_meaning.py`` what they state.
"""

from __future__ import annotations

from typing import Any

from eyot_core.wording.line_meaning import read_line
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import Understood


def understood(lookup: Lookup, text: str) -> Understood:
    """Reads a line. A name may stand first, before a colon.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> [(s.gene, s.copies, s.chance) for s in understood(Lookup(builtin_catalogue()), "66% het clown Enchi").statements]
    [('clown', 1, '2/3'), ('enchi', 1, '1')]
    """
    return read_line(lookup, text)


def line_answer(lookup: Lookup, text: str) -> dict[str, Any]:
    """One line in the JSON form of ``bin/eyot core line``."""
    read = understood(lookup, text)
    return {
        "genes": [one.as_json() for one in read.statements],
        "sex": read.sex or None,
        "name": read.name or None,
        "questions": [
            {"words": one.words, "question": one.question, "choices": list(one.choices)} for one in read.questions
        ],
        "not_understood": [word for word, _ in read.unknown],
    }
