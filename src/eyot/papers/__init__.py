"""The animal's paper: handed out with it, and read where it arrives."""
