"""The supply: which points feed which, what runs together, and where a circuit should start."""
