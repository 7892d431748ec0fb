"""Marks of the reference, and parts that are rendered once and kept."""
