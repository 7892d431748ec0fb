"""Tags of practice."""
