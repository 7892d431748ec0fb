"""Parts of the line-up's pages."""
