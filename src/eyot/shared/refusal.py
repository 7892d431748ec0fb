"""What is said when something can't be done."""


class Refused(Exception):
    """Something can't be done; the message says what is wrong, where, and what still stands."""
