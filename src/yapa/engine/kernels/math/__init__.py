"""Small arithmetic of the kernels: vectors, and four numbers at once."""
