"""One family of errors that carry the place of what is wrong."""

from __future__ import annotations


class InputError(ValueError):
    """Something in a document that was handed in is wrong.

    ``message`` says what is wrong and what is allowed; ``at`` is the place in the document, such as
    ``dam.genes[2].copies``; it is empty where the document as a whole is wrong.

    >>> str(InputError("copies must be 1 or 2, got 3", "dam.genes[2].copies"))
    'copies must be 1 or 2, got 3 (dam.genes[2].copies)'
    """

    def __init__(self, message: str, at: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.at = at

    def __str__(self) -> str:
        return f"{self.message} ({self.at})" if self.at else self.message
