"""Levels of confidence: what a 95% interval is in standard deviations, and in half the squared misfit."""

from __future__ import annotations

NORMAL_95 = 1.96
"""standard deviations: half of a 95% interval"""
RISE_95 = 1.92
"""of half the squared misfit: at the ends of a 95% interval"""
