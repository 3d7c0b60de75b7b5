"""Learning: practice, guide, docs, jump."""
