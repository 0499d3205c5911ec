"""A case as the arrays that kernels read: geometry, materials, profile, and what a value touches."""
