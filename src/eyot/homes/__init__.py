"""What becomes of each: to keep, to sell, to print."""
