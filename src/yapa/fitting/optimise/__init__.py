"""Minimisers: of the residuals near a start, all over the ranges, and of the change that meets targets."""
