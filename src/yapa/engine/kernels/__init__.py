"""Compiled kernels: plain float64/int64 arrays in and out, no allocation inside."""
