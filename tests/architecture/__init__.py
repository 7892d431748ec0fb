"""The direction of imports and the repository as a whole."""
