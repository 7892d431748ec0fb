"""What is this hatchling, given what is seen: evidence, trait model, exact inference, next look, surprises."""
