"""What the reader of a page may do, for what only some may press."""

from django import template

from eyot.collection import rights
from eyot.collection.models import Change, Membership

register = template.Library()


@register.filter
def may(membership: Membership | None, name: str) -> bool:
    """May the member do what an address of this name does? ``{% if membership|may:"call" %}``"""
    return membership is not None and rights.may(membership.role, name)


@register.filter
def may_take_back(membership: Membership | None, change: Change) -> bool:
    """May the member take this change back?"""
    return membership is not None and rights.may_take_back(membership.role, own=change.by_id == membership.user_id)
