"""What an animal is claimed to be, as it is entered."""

from __future__ import annotations

from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser

from eyot.bench.claims import LONGEST_LINE, TRUSTS, read_claim
from eyot.bench.models import SellersClaim
from eyot.season.models import Egg
from eyot.shared.refusal import Refused


def make_claim(egg: Egg, member: AbstractBaseUser, line: str, trust: str, at: datetime) -> SellersClaim:
    """Keeps what an animal is claimed to be; any member may. An empty line takes the claim off. Words that are not known are kept in the
    line and count for nothing. :class:`Refused` where no animal can be so, or nothing was understood."""
    line = " ".join(line.split())[:LONGEST_LINE]
    if not egg.clutch.elsewhere:
        raise Refused(
            "This hatchling's parents are entered; what it is sold as says nothing of it. Nothing was changed."
        )
    if trust not in [str(percent) for percent, _ in TRUSTS]:
        raise Refused("Say how far the claim is to be trusted. Nothing was changed.")
    read = read_claim(egg.clutch.collection, line)
    if read.impossible:
        raise Refused(f"{' '.join(read.impossible)} Nothing was changed.", field="line")
    if line and not read.statements:
        raise Refused(
            f"No gene was understood in “{line[:80]}”. Write it as in an advertisement: pastel enchi, possible fire, het clown. "
            "Nothing was changed.",
            field="line",
        )
    return SellersClaim.objects.create(egg=egg, line=line, trust_percent=int(trust), made_by_id=member.pk, made_at=at)
