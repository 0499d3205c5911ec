"""The tables that host and kernels share, declared once: their columns, what is kept in them, and how large they are."""
