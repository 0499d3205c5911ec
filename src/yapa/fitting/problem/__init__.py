"""What a fit minimises: residuals of tracks and targets at a vector of unknowns, and what comes out."""
