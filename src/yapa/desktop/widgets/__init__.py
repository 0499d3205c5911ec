"""Widgets that know nothing of a case."""
