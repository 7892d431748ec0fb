"""Pages and files."""
