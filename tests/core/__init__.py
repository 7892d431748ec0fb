"""The computation, held against hand-computed values, invariants and a slow obvious twin."""
