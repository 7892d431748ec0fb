"""Loci, alleles, gametes and crosses: what a pairing can give.

What is *seen* of a genotype does not belong here (:mod:`eyot_core.identify`).
"""
