"""What the reader of a page may do, for what only some may press."""

from django import template

from eyot.collection import rights
from eyot.collection.models import Membership

register = template.Library()


@register.filter
def may(membership: Membership | None, name: str) -> bool:
    """May the member do what an address of this name does? ``{% if membership|may:"call" %}``"""
    return membership is not None and rights.may(membership.role, name)
