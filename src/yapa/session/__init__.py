"""The open document and everything that can be done with it, without a screen: history, jobs, fits, recovery."""
