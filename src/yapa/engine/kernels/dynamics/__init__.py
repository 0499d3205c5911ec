"""How bodies move under forces, and the energy they have."""
