"""Planning: what a pairing can give, what speaks against it, and which pairings make a goal. No rules of genetics."""
