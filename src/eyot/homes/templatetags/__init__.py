"""Tags of homes."""
