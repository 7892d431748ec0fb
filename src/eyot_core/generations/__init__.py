"""Generations ahead: which pairings lead to an animal that does not exist yet, and how likely by when."""
