"""Animals: the list, an animal's page, entering and changing them, and collections as CSV files. No rules of genetics."""
