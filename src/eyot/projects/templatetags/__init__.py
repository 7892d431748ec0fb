"""Tags of projects."""
