"""Simulated beside measured: what a screen or a sheet shows."""
