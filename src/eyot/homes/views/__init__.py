"""Views of homes."""
