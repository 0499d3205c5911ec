"""Tracks from files: a reader a format, the roles of columns, and what is done with them."""
