"""Drawings: the skin of an animal from its looks, strips of it, small drawings of each look, simulated photos.

A drawing never decides anything: it shows what the catalogue's levels say. Colour values are linear-light RGB in 0 to 1
unless a name ends in ``_srgb``. Coordinates on the skin: u along the body (snout 0, tail tip 1), v around it (spine 0,
belly midline ±1).
"""
