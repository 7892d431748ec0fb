"""The place where calls are made: looks, what they say, the call and its trail."""
