"""A person’s way in: login, second factor, logins elsewhere, passwords, mail, and leaving for good."""
