"""The made-up demo collection, Withy Bed: its animals, its season, its true genotypes and its simulated photos."""
