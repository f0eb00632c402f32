"""Keeping and reading: the database behind one door, tracks, job files."""
