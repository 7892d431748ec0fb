"""Who may do what in a collection: one table over the names of addresses, and one place where it is asked.

To look at a page takes a reader. What changes something (any method but GET and HEAD) takes the role that stands here; an
address that is not here changes nothing for anybody, so a new one is forgotten only until somebody presses its button.
"""

from __future__ import annotations

from eyot.collection.models import Role

READING = ("GET", "HEAD", "OPTIONS")
BY_ROLE: dict[Role, tuple[str, ...]] = {
    # Reckons and shows, keeps nothing.
    Role.READER: (
        *("strip-preview", "one-gene-or-two", "same-place", "leave-collection"),
        # Practice is everybody's own, and no part of the record.
        *("practice-name", "practice-own", "exercise-answer", "practice-look", "exercise-read"),
        *("practice-pair", "exercise-choose", "practice-race", "race-next", "practice-evening", "practice-wished"),
    ),
    # Cutting, looks, photos, weights and days.
    Role.HELPER: (
        *("cut-state", "cut-look", "cut-photo", "cut-guess"),
        *("look", "look-beside", "withdraw", "beside", "take-apart", "guess-blind", "switch-blind", "line-up-tick"),
        *("add-photos", "photo-check", "arrivals", "shoot"),
        *("inbox-arrivals", "inbox-add", "inbox-end", "inbox-file", "inbox-back", "inbox-out", "inbox-again"),
        *("photo-light", "photo-line", "photo-line-right", "photo-whose", "photo-brush", "photo-kind", "photo-again"),
        *("animal-photos", "to-table"),
        "set-printed-grey",
        *("egg-state", "egg-state-here", "place-egg", "egg-day", "weigh-egg", "scale", "weigh-animal", "all-at-once"),
        *("feed-rack", "note-shed", "note-health"),
        "take-back",  # of what they did themselves, see may_take_back
        *("round-day", "pairing-event", "ready-sign", "fetch-log", "import-log"),
    ),
    # The whole record.
    Role.KEEPER: (
        *(
            "enter-animal",
            "paste-animals",
            "import-animals",
            "edit-animal",
            "archive-animal",
            "delete-animal",
            "hold-back",
            "same-as",
            "name-parents",
            "claim",
        ),
        *(
            "save-pairing",
            "enter-running",
            "name-sire",
            "introduce",
            "lay",
            "clutch-place",
            "add-egg",
            "close-clutch",
            "sex-egg",
        ),
        *("call", "proof", "take-over", "tune", "invite", "withdraw-invitation", "count-invitation", "photo-away"),
        *("switch-markers", "import-tests", "take-over-ratio", "keep-marks", "add-breeding", "add-test"),
        *("enter-carrier", "order-test", "lab-step", "proving", "trait-who", "trait-shows", "trait-enter"),
        *(
            "decide",
            "decide-one",
            "write-label",
            "old-words",
            "print-labels",
            "add-sheet",
            "print-list",
            "list-csv",
            "make-page",
        ),
        *("withdraw-page", "settle-reservation", "read-paper", "take-paper", "paper-away", "hand-out-paper"),
        *(
            "find-plans",
            "begin-project",
            "close-project",
            "hold-for",
            "kin-limit",
            "put-into-plan",
            "seek-again",
            "seek-once-more",
        ),
        *("eye-use", "word-use", "evening-shed", "evening-shown"),
        *("pin", "unpin", "opinion-hold", "own_gene_by_name", "opinion-withdraw"),
    ),
    # Settings, members, removal.
    Role.OWNER: (
        "schools",
        "selling-rules",
        "invite-member",
        "withdraw-member-invitation",
        "change-role",
        "remove-member",
        "reset-password",
        *("take-away", "read-in", "remove-collection", "keep-collection"),
    ),
}
NEEDED = {name: role for role, names in BY_ROLE.items() for name in names}
WORDS = {
    Role.READER: "sees all and changes nothing",
    Role.HELPER: "cuts, looks, photographs, weighs and notes days; closes no call, deletes nothing",
    Role.KEEPER: "keeps the whole record",
    Role.OWNER: "keeps the record, the settings and the members",
}
"""What each role may, as it is told to members."""


def needed_for(name: str, method: str) -> Role | None:
    """The least role that an address takes; ``None`` where nobody may."""
    if method in READING:
        return Role.READER
    return NEEDED.get(name)


def may_take_back(role: str, *, own: bool) -> bool:
    """May a member of this role take back a change? Helpers only what they did themselves: a slip of a wet finger."""
    return may(role, "take-back") and (own or Role(role).rank >= Role.KEEPER.rank)


def may(role: str, name: str, method: str = "POST") -> bool:
    """May a member of this role do it?"""
    needed = needed_for(name, method)
    return needed is not None and Role(role).rank >= needed.rank
