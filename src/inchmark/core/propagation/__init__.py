"""How a wave weakens with distance, one law per file."""
