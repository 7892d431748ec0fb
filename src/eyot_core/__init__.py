"""The computation of Eyot: genetics, inference, drawings, wording.

Plain Python and NumPy. Nothing here imports Django or anything of the ``eyot`` package; nothing here reads a database,
a request or a clock. What needs rows belongs to the apps in ``src/eyot``.
"""
