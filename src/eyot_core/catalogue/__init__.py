"""The gene reference: loci, genes, traits and what each genotype shows.

``model`` holds the values, ``read`` turns documents into them, ``files`` reads YAML files into a document, and ``builtin`` has
those of ``data``.
What a genotype's look *is* (probabilities of levels) belongs to :mod:`eyot_core.identify`.
"""

from eyot_core.catalogue.builtin import builtin_catalogue, builtin_document
from eyot_core.catalogue.model import STAGES, Catalogue
from eyot_core.catalogue.read import catalogue_from

__all__ = ["STAGES", "Catalogue", "builtin_catalogue", "builtin_document", "catalogue_from"]
