"""Backups of the whole server: written, verified, restored, made every night and thinned out."""
