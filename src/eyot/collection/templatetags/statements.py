"""Template tags on what is known of animals."""

from django import template

from eyot.collection.models import CarriedGene
from eyot.collection.wording import gene_statement

register = template.Library()


@register.simple_tag
def statement(gene: CarriedGene) -> str:
    """One gene of an animal in words."""
    return gene_statement(gene)
