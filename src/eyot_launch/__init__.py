"""The launcher: makes a machine ready and starts, tests and checks Eyot.

Standard library only, since it runs before anything is installed. What the application does belongs to ``eyot``.
"""
