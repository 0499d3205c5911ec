"""The fit to tracks: starts, modes of slip and stick, outliers, noise, takes."""
