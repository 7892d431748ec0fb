"""Settings, addresses and the server entry point."""
