"""Template tags on what is known of animals."""

from django import template

from eyot_core.wording.names import Naming

from eyot.collection.models import CarriedGene
from eyot.collection.wording import gene_statement

register = template.Library()


@register.simple_tag
def statement(gene: CarriedGene, naming: Naming) -> str:
    """One gene of an animal in the words of its collection."""
    return gene_statement(gene, naming)
