"""The web application: one package a thing that a keeper would name.

Direction of imports: config → demo → bench → photos → season → collection → shared → eyot_core. Rules that need neither a
row nor a request belong to ``eyot_core``.
"""
