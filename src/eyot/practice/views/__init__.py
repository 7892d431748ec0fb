"""The pages of practice."""
