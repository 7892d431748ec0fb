"""Clutches and eggs: from the laying to the first shed."""
