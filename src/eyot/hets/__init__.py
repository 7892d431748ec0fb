"""Hets and proof: the ledger of carriers, their marks, breedings and tests, the simulated laboratory, and new traits."""
