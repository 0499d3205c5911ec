"""The ledger as a strip."""
