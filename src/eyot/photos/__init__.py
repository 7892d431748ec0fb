"""Photos of hatchlings: taken in, cleaned of place data, made into sizes, served to members only."""
